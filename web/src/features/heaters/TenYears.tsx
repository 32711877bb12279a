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
  later: 'renewed later',
}
/** A way with its year, where it has one. */
const wayWords = (one: Schema['TenYearsWayOut']) =>
  one.name === 'later' && one.renewed_in !== null
    ? `renewed in ${one.renewed_in === 1 ? 'a year' : `${one.renewed_in} years`}`
    : WAYS[one.name]
type Part = 'services' | 'repairs' | 'heaters' | 'damage' | 'energy'
const PARTS: [Part, string][] = [
  ['services', 'services'],
  ['repairs', 'repairs'],
  ['heaters', 'new heaters'],
  ['damage', 'leaks'],
  ['energy', 'energy'],
]

/** What a way's cost is made of. */
const partsWords = (one: Schema['TenYearsWayOut']) =>
  [
    ...PARTS.filter(([name]) => one[name] >= 0.5).map(([name, words]) => `${words} ${Math.round(one[name])}`),
    ...(one.worth_left >= 0.5 ? [`less ${Math.round(one.worth_left)} still worth`] : []),
  ].join(', ')

/** What a leak is reckoned with, where nobody typed it. */
const leakWords = (data: Schema['TenYearsOut']) => {
  if (data.damage_from === 'asked' || data.damage <= 0) return ''
  return data.damage_from === 'place'
    ? `A leak would run ${data.leak_path}, as is on record of the place. `
    : 'Nobody has written down where a leak would run: it is reckoned as usual. '
}

/** The same on paper, by what was typed. */
const paperOf = (heaterId: number, asked: Record<string, number | null>) => {
  const known = Object.entries(asked).filter(([, value]) => value !== null && !Number.isNaN(value))
  const query = new URLSearchParams(known.map(([name, value]) => [name, String(value)]))
  return `/api/heaters/${heaterId}/ten-years.pdf?${query}`
}

/** Ten years of the tank in money: left as it is, serviced each year, renewed now, or when that costs least. */
export function TenYears({ heaterId }: { heaterId: number }) {
  const [typed, setTyped] = useState({ energy_kwh: '', energy_price: '', damage: '' })
  const asked = useDeferredValue({
    energy_kwh: numberOf(typed.energy_kwh),
    energy_price: numberOf(typed.energy_price),
    damage: numberOf(typed.damage),
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
        <Field
          label="A leak"
          unit="costs"
          placeholder={data.damage > 0 ? data.damage.toFixed(0) : undefined}
          {...set('damage')}
        />
      </div>
      <table className="mt-2 w-full border-collapse">
        <thead className="text-fine text-soft">
          <tr className="border-b border-line text-right align-bottom">
            <td />
            <th scope="col" className="py-1 pl-2 font-normal">
              together
            </th>
            <th scope="col" className="pl-2 font-normal">
              8 of 10 lie in
            </th>
            <th scope="col" className="pl-2 font-normal">
              leaks
            </th>
          </tr>
        </thead>
        <tbody>
          {data.courses.map((one) => (
            <tr key={one.name} className="border-b border-line align-top">
              <th scope="row" className="py-1 text-left font-semibold">
                {wayWords(one)}
                <span className="block text-fine font-normal text-soft">{partsWords(one)}</span>
              </th>
              <td className={`py-1 pl-2 text-right font-bold ${one.total === best ? 'text-copper-deep' : ''}`}>
                {Math.round(one.total)}
              </td>
              <td className="py-1 pl-2 text-right text-fine">
                {Math.round(one.low)}–{Math.round(one.high)}
              </td>
              <td className="py-1 pl-2 text-right">{one.failures.toFixed(1)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {left && yearly && least && (
        <p className="mt-2">
          The least over ten years: <strong>{wayWords(least)}</strong>. Serviced each year it costs{' '}
          {money(Math.abs(yearly.total - left.total))} {yearly.total <= left.total ? 'less' : 'more'} than left as it
          is, with {(100 * (left.failures - yearly.failures)).toFixed(0)} fewer leaks in a hundred such houses.
        </p>
      )}
      <p className="mt-1 text-fine text-soft">
        Deposit that is left in it costs {(100 * data.drift_a_year).toFixed(1)}&nbsp;% more energy a year,
        {data.bills_compared > 0
          ? ` by the bills before and after ${data.bills_compared === 1 ? 'a cleaning' : 'cleanings'}. `
          : ' as is usual; bills of a year before and after a cleaning would say it of this one. '}
        {leakWords(data)}
        <a className="underline" target="_blank" rel="noreferrer" href={paperOf(heaterId, asked)}>
          A page for the owner
        </a>
      </p>
      {data.missing.length > 0 && (
        <p className="mt-1 font-semibold text-copper-deep">
          The price book has no price for: {data.missing.map((one) => one.replaceAll('_', ' ')).join(', ')}.
        </p>
      )}
    </section>
  )
}
