import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'

import type { Schema } from '../../api/client'
import { numberOf } from '../../lib/units'
import { tenYearsOptions } from '../../records/heaterQueries'
import { amountWords } from '../../records/moneyWords'
import { Field } from '../../ui/Field'

const WAYS: Record<Schema['TenYearsWayOut']['name'], string> = {
  as_it_is: 'left as it is',
  yearly: 'serviced yearly',
  new: 'renewed now',
}
const ROWS: [keyof Omit<Schema['TenYearsWayOut'], 'name' | 'failures' | 'total'>, string][] = [
  ['services', 'Services'],
  ['repairs', 'Repairs'],
  ['heaters', 'New heaters'],
  ['damage', 'Leaks'],
  ['energy', 'Energy'],
]

/** Ten years of the tank in money: left as it is, serviced each year, or renewed now. */
export function TenYears({ heaterId }: { heaterId: number }) {
  const [typed, setTyped] = useState({ energy_kwh: '', energy_price: '', damage: '' })
  const asked = useDeferredValue({
    energy_kwh: numberOf(typed.energy_kwh),
    energy_price: numberOf(typed.energy_price),
    damage: numberOf(typed.damage) ?? 0,
  })
  const { data, error } = useQuery({ ...tenYearsOptions(heaterId, asked), placeholderData: keepPreviousData })
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    inputMode: 'decimal' as const,
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  })
  if (error) return <p className="mt-4 border-t border-line pt-3 text-soft">Ten years in money: {error.message}</p>
  if (!data) return null
  const money = (amount: number) => amountWords(amount.toFixed(0), data.currency)
  const best = Math.min(...data.courses.map((one) => one.total))
  const [left, yearly] = data.courses
  const least = data.courses.find((one) => one.total === best)
  return (
    <section aria-label="Ten years in money" className="mt-4 border-t border-line pt-3">
      <h3>Ten years in money</h3>
      <p className="text-fine text-soft">expected, at today’s prices, without tax and interest</p>
      <div className="mt-2 grid grid-cols-3 gap-2">
        <Field label="A year" unit="kWh" placeholder={data.energy_kwh?.toFixed(0)} {...set('energy_kwh')} />
        <Field label="A kWh" unit="costs" {...set('energy_price')} />
        <Field label="A leak" unit="costs" {...set('damage')} />
      </div>
      <table className="mt-2 w-full border-collapse">
        <thead>
          <tr className="border-b border-line align-bottom">
            <td />
            {data.courses.map((one) => (
              <th key={one.name} scope="col" className="py-1 pl-2 text-right leading-tight">
                {WAYS[one.name]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.filter(([name]) => data.courses.some((one) => one[name] > 0)).map(([name, words]) => (
            <tr key={name} className="border-b border-line">
              <th scope="row" className="py-0.5 text-left font-normal">
                {words}
              </th>
              {data.courses.map((one) => (
                <td key={one.name} className="pl-2 text-right">
                  {Math.round(one[name])}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <th scope="row" className="py-1 text-left">
              Together
            </th>
            {data.courses.map((one) => (
              <td
                key={one.name}
                className={`pl-2 text-right font-bold ${one.total === best ? 'text-copper-deep' : ''}`}
              >
                {Math.round(one.total)}
              </td>
            ))}
          </tr>
          <tr className="text-soft">
            <th scope="row" className="text-left font-normal">
              Tanks that leak
            </th>
            {data.courses.map((one) => (
              <td key={one.name} className="pl-2 text-right">
                {one.failures.toFixed(1)}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      {left && yearly && least && (
        <p className="mt-2">
          The least over ten years: <strong>{WAYS[least.name]}</strong>. Serviced each year it costs{' '}
          {money(Math.abs(yearly.total - left.total))} {yearly.total <= left.total ? 'less' : 'more'} than left as it
          is, with {(100 * (left.failures - yearly.failures)).toFixed(0)} fewer leaks in a hundred such houses.
        </p>
      )}
      {data.missing.length > 0 && (
        <p className="mt-1 font-semibold text-copper-deep">
          The price book has no price for: {data.missing.map((one) => one.replaceAll('_', ' ')).join(', ')}.
        </p>
      )}
    </section>
  )
}
