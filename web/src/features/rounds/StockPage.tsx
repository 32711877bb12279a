import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { phrase } from '../../lib/phrases'
import { useCompany, useMay } from '../../session/session'
import { day, shortDate } from '../../lib/dates'
import { Phrase } from '../../ui/Phrase'
import { Failed, Loading } from '../../ui/States'
import { Basins, firstWorkingDay } from './Basins'
import { PartMoves } from './PartMoves'
import { stockOptions, useCount, useServiceLevel, weeksOptions } from '../../records/roundQueries'
import { weekday } from '../../records/roundWords'

const LEVELS = [0.8, 0.9, 0.95, 0.98, 0.99]

/** What each truck should carry on a day, and what the coming month needs. */
export function StockPage() {
  const { today, units } = useCompany()
  const plans = useMay('plan')
  const [address, setAddress] = useSearchParams()
  const weeks = useQuery(weeksOptions(today, 2))
  const on = address.get('on') || (firstWorkingDay(weeks.data ?? [], today) ?? today)
  const found = useQuery(stockOptions(on))
  const level = useServiceLevel()
  if (found.error)
    return (
      <>
        <h1 className="sr-only">Trucks and parts</h1>
        <Failed error={found.error} onRetry={() => void found.refetch()} />
      </>
    )
  if (!found.data || !weeks.data)
    return (
      <>
        <h1 className="sr-only">Trucks and parts</h1>
        <Loading what="the lists" />
      </>
    )
  const { service_level: now, service_level_version: version } = found.data
  const choices = [...new Set([...LEVELS, now])].sort((a, b) => a - b)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Trucks and parts</h1>
      <div
        className={clsx(
          'flex min-h-[38px] shrink-0 flex-wrap items-center gap-y-1 border-b border-line px-5',
          'narrow:px-3 narrow:py-1.5',
        )}
      >
        <p className="text-soft">
          Loads for{' '}
          <strong className="text-ink">
            {weekday(on)} {shortDate(day(on), today)}
          </strong>
          , so that nothing is missing on
          {plans ? (
            <Phrase
              label="Service level"
              value={String(now)}
              options={choices.map((one) => ({ value: String(one), label: `${Math.round(100 * one)} days in 100` }))}
              onChange={(value) => level.mutate({ service_level: Number(value), version })}
            />
          ) : (
            ` ${Math.round(100 * now)} days in 100`
          )}
          .
        </p>
        {level.error && (
          <p role="alert" className="ml-5 text-oxide">
            {level.error.message}
          </p>
        )}
        <div className="flex-1" />
        <Link to={`/rounds?on=${on}`} className="text-copper-deep underline underline-offset-2">
          The days
        </Link>
      </div>
      <div className="flex h-[72px] shrink-0 items-end px-5 pb-1 narrow:overflow-x-auto">
        <Basins
          weeks={weeks.data}
          chosen={on}
          today={today}
          onChoose={(next) => setAddress({ on: next }, { replace: true })}
        />
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_480px] narrow:grid-cols-1 border-t border-ink">
        <section
          aria-label="Trucks"
          tabIndex={0}
          className="grid auto-rows-min grid-cols-2 gap-x-8 narrow:grid-cols-1 gap-y-5 overflow-y-auto p-5"
        >
          {found.data.trucks.map((truck) => (
            <div key={truck.member_id}>
              <h2>{truck.name}</h2>
              <Lines lines={truck.lines} member={truck.member_id} add="load" />
              {truck.borrows && truck.borrows.length > 0 && (
                <p className="mt-1">
                  <strong>Lent:</strong> {truck.borrows.join('; ')}.
                </p>
              )}
              {truck.brings && truck.brings.length > 0 && (
                <p className="mt-1">
                  <strong>Besides:</strong> {truck.brings.join('; ')}.
                </p>
              )}
            </div>
          ))}
          {found.data.trucks.length === 0 && <p className="text-soft">Nobody has a visit on this day.</p>}
        </section>
        <section aria-label="To buy" tabIndex={0} className="overflow-y-auto border-l border-line p-5">
          <h2>To buy for the coming month</h2>
          <Lines lines={found.data.to_buy} member={null} add="buy" />
          <p className="mt-2 flex gap-5">
            <a href="/api/stock-order.csv" download className="text-copper-deep underline underline-offset-2">
              The order as a file
            </a>
            <a href={`/api/stock/${on}/loads.csv`} download className="text-copper-deep underline underline-offset-2">
              The day’s loads as a file
            </a>
          </p>
          <PartMoves stock={found.data} />
          {(found.data.kit ?? []).length > 0 && (
            <details className="mt-5">
              <summary className="cursor-pointer font-bold">Always on each truck</summary>
              <dl className="mt-2 space-y-2">
                {found.data.kit?.map((one) => (
                  <div key={one.what_for}>
                    <dt className="text-soft">{one.what_for}</dt>
                    <dd>{one.things.map((thing) => phrase(thing, units)).join('; ')}</dd>
                  </div>
                ))}
              </dl>
            </details>
          )}
        </section>
      </div>
    </div>
  )
}

function Lines({ lines, member, add }: { lines: Schema['StockLineOut'][]; member: number | null; add: string }) {
  const { units } = useCompany()
  return (
    <table className="mt-1 w-full border-collapse">
      <thead className="text-left text-fine text-soft">
        <tr>
          <th className="font-normal">Part</th>
          <th className="pr-3 text-right font-normal">likely</th>
          <th className="pr-3 text-right font-normal">have along</th>
          <th className="pr-3 text-right font-normal">{member === null ? 'in hand' : 'on it'}</th>
          <th className="text-right font-normal">{add}</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => (
          <tr key={line.part} className="border-b border-line">
            <th scope="row" className="py-0.5 pr-3 text-left font-normal">
              {phrase(line.part, units)}
            </th>
            <td className="pr-3 text-right text-soft">{line.expected.toFixed(1)}</td>
            <td className="pr-3 text-right">{line.quantity}</td>
            <td className="pr-3 text-right">{member === null ? line.held : <Count line={line} member={member} />}</td>
            <td className={line.to_add > 0 ? 'text-right font-bold text-copper-deep' : 'text-right text-soft'}>
              {line.to_add || '–'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** How many lie on the truck: counted by whoever loads it. */
function Count({ line, member }: { line: Schema['StockLineOut']; member: number }) {
  const { units } = useCompany()
  const count = useCount()
  const [typed, setTyped] = useState<string | null>(null)
  const save = () => {
    const quantity = Number(typed)
    if (typed !== null && typed.trim() !== '' && Number.isFinite(quantity) && quantity >= 0 && quantity !== line.held)
      count.mutate({ part: line.part, member_id: member, quantity })
    setTyped(null)
  }
  return (
    <input
      aria-label={`${phrase(line.part, units)} on the truck`}
      inputMode="decimal"
      value={typed ?? String(line.held)}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={save}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      className="h-7 w-12 rounded border border-line bg-sheet px-1 text-right"
    />
  )
}
