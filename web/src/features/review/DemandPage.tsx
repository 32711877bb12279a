import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords, monthWords } from '../../lib/dates'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { DemandPlot } from './DemandPlot'
import { aboutOf, laterMonth, lastYear, wordsOf, type KindMonths } from './demandWords'
import { demandOptions, useReckonDemand } from './queries'
import { ReviewNav } from './ReviewNav'

/** What comes by the month: calls and work carried on, and where hours are short. */
export function DemandPage() {
  const { data, error, refetch } = useQuery(demandOptions)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Calls and work by month</h1>
      <ReviewNav />
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the months" />}
      {data && (data.kinds.length > 0 ? <Demand demand={data} /> : <Nothing reckoned={data.reckoned_on !== null} />)}
    </div>
  )
}

function Nothing({ reckoned }: { reckoned: boolean }) {
  return (
    <div className="px-5 py-6">
      <p className="max-w-[60ch] pb-3">
        {reckoned
          ? 'No call and no visit of a month that is over is on record: there is nothing yet to carry on.'
          : 'The months were not reckoned yet; at the beginning of each month they are by themselves.'}
      </p>
      <Anew />
    </div>
  )
}

function Anew() {
  const may = useMay('set_practice')
  const reckon = useReckonDemand()
  if (!may) return null
  return (
    <>
      <Button look="quiet" disabled={reckon.isPending} onClick={() => reckon.mutate()}>
        Reckon it now
      </Button>
      {reckon.isSuccess && (
        <span role="status" className="text-soft">
          Asked for; look again in a minute.
        </span>
      )}
      {reckon.error && (
        <span role="alert" className="font-semibold text-oxide">
          {reckon.error.message}
        </span>
      )}
    </>
  )
}

function Demand({ demand }: { demand: Schema['DemandOut'] }) {
  const { today } = useCompany()
  const [params, setParams] = useSearchParams()
  const [asTable, setAsTable] = useState(false)
  const one = demand.kinds.find((kind) => kind.kind === params.get('what')) ?? demand.kinds[0]!
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[330px_minmax(0,1fr)] narrow:block narrow:overflow-y-auto">
      <nav aria-label="Kinds" className="overflow-y-auto border-r border-line py-2 narrow:border-r-0">
        {demand.kinds.map((kind) => (
          <button
            key={kind.kind}
            type="button"
            aria-pressed={kind === one}
            onClick={() => setParams({ what: kind.kind }, { replace: true })}
            className={`block w-full border-l-4 px-4 py-1.5 text-left ${
              kind === one ? 'border-copper bg-sheet' : 'border-transparent'
            }`}
          >
            <strong>{wordsOf(kind.kind)}</strong>
            <span className="block text-fine text-soft">
              {lastYear(kind)} in 12 months; the next: {kind.year.low} to {kind.year.high}
            </span>
          </button>
        ))}
      </nav>
      <div className="flex min-h-0 min-w-0 flex-col">
        <div className="flex flex-wrap items-baseline gap-x-4 px-5 pt-3">
          <h2 className="text-lead font-bold">{wordsOf(one.kind)}</h2>
          <span className="text-soft">{shape(one)}</span>
          <span className="flex-1" />
          <Button look="quiet" aria-pressed={asTable} className="-my-2" onClick={() => setAsTable(!asTable)}>
            As a table
          </Button>
          <a href="/api/demand.csv" className="text-copper-deep underline underline-offset-2">
            All of it as CSV
          </a>
        </div>
        {asTable ? <Table one={one} first={demand.first!} /> : <DemandPlot one={one} first={demand.first!} />}
        <Beside one={one} />
        <Hours months={demand.hours} today={today} />
        <p className="flex flex-wrap items-center gap-x-3 px-5 pb-2 text-fine text-soft">
          Carried on from what came, on {dateWords(demand.reckoned_on!, today)}.
          {demand.held.of > 0 &&
            ` Of ${demand.held.of} months told so far and over, ${demand.held.inside} lay in their windows.`}
          <Anew />
        </p>
      </div>
    </div>
  )
}

function shape(one: KindMonths): string {
  const said = [one.has_season && 'has a season', one.has_trend && 'has a trend'].filter(Boolean)
  return said.length > 0 ? said.join(' and ') : 'no season and no trend that stand out'
}

/** What the record alone expects of a year, beside what the heaters on record are reckoned to ask for. */
function Beside({ one }: { one: KindMonths }) {
  const base = one.by_the_base
  return (
    <p className="px-5 pb-2">
      {aboutOf(one.kind)}: <strong>{one.quarter.middle}</strong> in three months, between {one.quarter.low} and{' '}
      {one.quarter.high}.
      {base && (
        <>
          {' '}
          A year by what came: {one.year.low} to {one.year.high}; by the heaters themselves: {spanOf(base)}
          {!one.agree && <strong className="text-ochre-deep">, which do not agree</strong>}.
        </>
      )}
    </p>
  )
}

const spanOf = (base: Schema['BaseOut']) => `${Math.round(base.low)} to ${Math.round(base.high)}`

function Hours({ months, today }: { months: Schema['MonthHours'][]; today: string }) {
  return (
    <table className="mx-5 mb-2 border-collapse">
      <caption className="pb-1 text-left font-bold">Hours of the coming months</caption>
      <thead className="text-right text-fine text-soft">
        <tr className="border-b border-line">
          <th className="pr-6 text-left font-normal">Month</th>
          <th className="w-28 font-normal">the crew has</th>
          <th className="w-28 font-normal">in the plan</th>
          <th className="w-44 font-normal">calls take besides</th>
          <th className="pl-6 text-left font-normal">So</th>
        </tr>
      </thead>
      <tbody>
        {months.map((one) => (
          <tr key={one.month} className="border-b border-line text-right">
            <th scope="row" className="py-0.5 pr-6 text-left font-normal">
              {one.month < today.slice(0, 8) + '02' ? `the rest of ${monthWords(one.month)}` : monthWords(one.month)}
            </th>
            <td>{Math.round(one.crew)}</td>
            <td>{Math.round(one.planned)}</td>
            <td>
              {Math.round(one.calls.low * one.call_hours)} to {Math.round(one.calls.high * one.call_hours)}
            </td>
            <td className="pl-6 text-left">{shortOf(one)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function shortOf({ so, short }: Schema['MonthHours']) {
  const chance = `${Math.round(100 * short)} in 100`
  switch (so) {
    case 'nobody':
      return <span className="text-soft">nobody works then</span>
    case 'sure':
      return <strong className="text-oxide">too short: find hours, or move visits</strong>
    case 'likely':
      return <strong className="text-oxide">short in {chance}: find hours, or move visits</strong>
    case 'may_be':
      return <strong className="text-ochre-deep">may be short, in {chance}</strong>
    case 'fits':
      return <span className="text-soft">fits</span>
  }
}

function Table({ one, first }: { one: KindMonths; first: string }) {
  const rows = [
    ...one.counts.map((came, at) => ({ month: laterMonth(one.first, at), came: String(came), told: '' })),
    ...one.months.map((fan, at) => ({
      month: laterMonth(first, at),
      came: '',
      told: `${fan.middle}, between ${fan.low} and ${fan.high}`,
    })),
  ].reverse()
  return (
    <div tabIndex={0} role="region" aria-label="Months as a table" className="mx-5 my-2 min-h-0 flex-1 overflow-y-auto">
      <table className="border-collapse">
        <thead className="text-left text-fine text-soft">
          <tr>
            <th className="w-40 font-normal">Month</th>
            <th className="w-24 font-normal">came</th>
            <th className="font-normal">expected</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={`${row.month}${row.told ? 'e' : ''}`} className="border-b border-line">
              <th scope="row" className="text-left font-normal">
                {monthWords(row.month)}
              </th>
              <td>{row.came}</td>
              <td>{row.told}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
