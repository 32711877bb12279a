import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../api/client'
import { useCompany, useMay } from '../session/session'
import { HeaterSign } from '../drawing/HeaterSign'
import { addDays, dateWords, dueWords, isoDay, monthWords, yearsBetween } from '../lib/dates'
import { shown } from '../lib/units'
import { COMPONENTS, DECIDED, KINDS, METHODS, sentence } from '../lib/words'
import { Button } from '../ui/Button'
import { Failed, Hazard, Loading } from '../ui/States'
import { forecastOptions } from './outlookQueries'
import { Changes } from './Changes'
import { Reasons } from './Reasons'

type Row = Pick<
  Schema['OutlookRowOut'],
  | 'id'
  | 'site'
  | 'street'
  | 'kind'
  | 'zone'
  | 'hazard'
  | 'capacity_l'
  | 'installed_on'
  | 'depth_share'
  | 'anode_left'
  | 'tag'
> & { guessed?: string[] }

/** What is due at a heater, how sure that is, and why. */
export function WhyPanel({ row }: { row: Row }) {
  const { today, units } = useCompany()
  const records = useMay('record_visit')
  const { data, error, isPending, refetch } = useQuery(forecastOptions(row.id))
  return (
    <aside
      aria-label={`${row.site}: what is due and why`}
      className="flex h-full flex-col overflow-y-auto border-l border-line bg-sheet p-5"
    >
      <div className="flex gap-4">
        <HeaterSign kind={row.kind} depthShare={row.depth_share} anodeLeft={row.anode_left} height={72} />
        <div className="min-w-0">
          <h2 className="text-lead leading-snug">{row.site}</h2>
          <p className="text-soft">
            {row.street}
            <br />
            {sentence(KINDS[row.kind])}
            {row.capacity_l && row.kind.endsWith('_tank') && ` ${shown(units, 'volume_l', row.capacity_l)}`}
            {row.installed_on && `, ${yearsBetween(row.installed_on, today)} years`}
            <br />
            {row.zone} · {row.tag}
          </p>
        </div>
      </div>
      {row.hazard && <Hazard className="mt-3">{row.hazard}</Hazard>}
      {row.guessed && row.guessed.length > 0 && (
        <p className="mt-3 border-l-4 border-ochre pl-2.5 text-soft">Rests on a guess: {row.guessed.join('; ')}.</p>
      )}
      {isPending && <Loading what="its forecast" />}
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {data && <Due heaterId={row.id} forecasts={data} />}
      <div className="flex-1" />
      <div className="flex gap-3 pt-4">
        {records && (
          <Button look="main" asChild>
            <Link to={`/visit/${row.id}`}>Record a visit</Link>
          </Button>
        )}
        <Button look={records ? 'plain' : 'main'} asChild>
          <Link to={`/heaters/${row.id}`}>Open heater</Link>
        </Button>
      </div>
    </aside>
  )
}

/** What a softener, a setting or a method changes. */
const TRIED: Schema['Component'][] = ['sediment', 'scale', 'anode']

/** Each service with its date and window; the chosen one with its reasons. */
export function Due({ heaterId, forecasts }: { heaterId: number; forecasts: Schema['ForecastOut'][] }) {
  const [picked, pick] = useState<Schema['Component'] | null>(null)
  const chosen = forecasts.find((one) => one.component === picked) ?? forecasts[0]
  return (
    <>
      <ul className="mt-4 space-y-1">
        {forecasts.map((one) => (
          <li key={one.component}>
            <button
              type="button"
              aria-pressed={one === chosen}
              onClick={() => pick(one.component)}
              className={clsx(
                'w-full rounded-md border px-3 py-1.5 text-left',
                one === chosen ? 'border-copper bg-ground' : 'border-transparent hover:bg-ground',
              )}
            >
              <DueLines forecast={one} />
            </button>
          </li>
        ))}
      </ul>
      {chosen && (
        <section className="mt-4">
          <h3 className="mb-2">{COMPONENTS[chosen.component]}: against a plain heater</h3>
          {chosen.decided_by === 'finding' ? (
            <p className="text-soft">It stuck or wept when it was last exercised: that alone sets the date.</p>
          ) : (
            <Reasons reasons={chosen.reasons} />
          )}
          {chosen.learned && <p className="mt-3">{chosen.learned}</p>}
          {TRIED.includes(chosen.component) && <Changes heaterId={heaterId} component={chosen.component} />}
        </section>
      )}
    </>
  )
}

function DueLines({ forecast }: { forecast: Schema['ForecastOut'] }) {
  const { today } = useCompany()
  const alone = forecast.decided_by === 'left_alone'
  const due = alone ? 'left alone' : dueWords(forecast.due_on, today)
  return (
    <>
      <span className="block text-lead leading-snug font-bold">
        {COMPONENTS[forecast.component]}:{' '}
        <span className="font-bold">{forecast.component === 'tank' ? adviceWords(forecast.due_on, today) : due}</span>
      </span>
      <span className="block text-soft">
        {windowWords(forecast, today)}
        {forecast.component !== 'tank' && `; ${DECIDED[forecast.decided_by]}`}
      </span>
      {forecast.component !== 'tank' && !alone && (
        <span className="block text-soft">{sentence(METHODS[forecast.method])}</span>
      )}
    </>
  )
}

/** Nobody is late for a new heater: it is advised from a date on. */
function adviceWords(from: string | null, today: string): string {
  if (!from) return 'not within 30 years'
  return from <= today ? 'advised now' : `advised from ${monthWords(from)}`
}

/** The window in words; a relief valve's is a cap, not a guess. */
function windowWords(forecast: Schema['ForecastOut'], today: string): string {
  if (forecast.component === 'relief_valve' || forecast.component === 'expansion_tank') {
    return forecast.latest_on ? `by ${dateWords(forecast.latest_on, today)} at the latest` : 'twelve months at most'
  }
  const early = forecast.reached_days[1]
  const late = forecast.reached_days[5]
  if (forecast.component === 'tank') {
    return (
      `${Math.round(100 * forecast.probability_today)} % likely to fail within 12 months; we ` +
      `advise a new one from ${Math.round(100 * forecast.limit_value)} %`
    )
  }
  const limit = forecast.component === 'anode' ? 'bare wire' : 'over its limit'
  if (late === 0) return `almost surely ${limit} already`
  if (early === null || early === undefined) return `not ${limit} within 30 years`
  const to = typeof late === 'number' ? dayOrMonth(forecast.as_of, late, today) : null
  if (early === 0) return to ? `perhaps ${limit} already, likely by ${to}` : `perhaps ${limit} already, perhaps never`
  const from = dayOrMonth(forecast.as_of, early, today)
  return to ? `${limit} likely between ${from} and ${to}` : `${limit} from ${from} at the earliest`
}

/** A day within the coming year, a month beyond: further off, the day means nothing. */
function dayOrMonth(asOf: string, days: number, today: string): string {
  const at = isoDay(addDays(asOf, days))
  return days < 400 ? dateWords(at, today) : monthWords(at)
}
