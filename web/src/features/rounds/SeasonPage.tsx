import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { dateWords, day, shortDate } from '../../lib/dates'
import { COMPONENTS } from '../../lib/words'
import { Phrase } from '../../ui/Phrase'
import { Empty, Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { Planning } from './Planning'
import { seasonOptions, weeksOptions } from '../../records/roundQueries'
import { WeekVisits, type Brush } from './WeekVisits'

const LENGTHS = [26, 39, 52, 65, 78]

/** The season week by week: hours wanted against hours there are, what it costs, and what found no place. */
export function SeasonPage() {
  const { today } = useCompany()
  const plans = useMay('plan')
  const [address, setAddress] = useSearchParams()
  const first = address.get('week')
  const brush = first ? { first, last: address.get('until') ?? first } : null
  const choose = (next: Brush | null) =>
    setAddress(next ? { week: next.first, ...(next.last === next.first ? {} : { until: next.last }) } : {}, {
      replace: true,
    })
  const [length, setLength] = useState('52')
  const season = useQuery(seasonOptions)
  const shown = season.data?.run?.weeks ?? 52
  const weeks = useQuery(weeksOptions(season.data?.run?.first_week ?? today, shown))
  const [frame, size] = useSize()
  if (season.error)
    return (
      <>
        <h1 className="sr-only">The season</h1>
        <Failed error={season.error} onRetry={() => void season.refetch()} />
      </>
    )
  if (!season.data)
    return (
      <>
        <h1 className="sr-only">The season</h1>
        <Loading what="the season" />
      </>
    )
  const { run, figures } = season.data
  return (
    <div className="flex h-full min-h-[640px] flex-col">
      <h1 className="sr-only">The season</h1>
      <div className="flex min-h-[38px] shrink-0 flex-wrap items-center border-b narrow:px-3 border-line px-5">
        <p className="text-soft">
          {run ? (
            <>
              The season from <strong className="text-ink">{dateWords(run.first_week, today)}</strong>, planned by worth
              within the hours there are. Plan
            </>
          ) : (
            'Nothing is planned yet. Plan'
          )}
          <Phrase
            label="Length of the season"
            value={length}
            options={LENGTHS.map((one) => ({ value: String(one), label: `${Math.round(one / 4.35)} months` }))}
            onChange={setLength}
          />
          ahead.
        </p>
        <div className="flex-1" />
        <Link to="/rounds" className="mr-4 text-copper-deep underline underline-offset-2">
          The days
        </Link>
        {plans && <Planning season={season.data} today={today} weeks={Number(length)} />}
      </div>
      {!figures && <Empty>Plan the season to see which visits fall in which week, and what does not fit.</Empty>}
      {figures && (
        <>
          <div className="shrink-0 overflow-x-auto">
            <div ref={frame} className="h-[270px] shrink-0 px-5 pt-3 narrow:w-[900px]">
              {size.width > 0 && weeks.data && (
                <Load
                  weeks={weeks.data}
                  nextYear={figures.next_year ?? []}
                  width={size.width}
                  height={250}
                  today={today}
                  chosen={brush}
                  onChoose={choose}
                />
              )}
            </div>
          </div>
          <div className="grid min-h-0 flex-1 grid-cols-[400px_minmax(0,1fr)] border-t border-ink narrow:grid-cols-1">
            <Came figures={figures} message={run?.message ?? ''} />
            {brush && weeks.data ? (
              <WeekVisits
                key={`${brush.first} ${brush.last}`}
                brush={brush}
                weeks={weeks.data}
                today={today}
                may={plans}
                onBrush={choose}
                onClose={() => choose(null)}
              />
            ) : (
              <LeftOut rows={season.data.left_out} today={today} />
            )}
          </div>
        </>
      )}
    </div>
  )
}

interface LoadProps {
  weeks: Schema['LoadWeekOut'][]
  nextYear: number[]
  width: number
  height: number
  today: string
  chosen: Brush | null
  onChoose: (next: Brush | null) => void
}

/**
 * Each week a vessel: its rim the hours there are, filled to the hours that are planned. Drawn over, or with Shift,
 * several are chosen.
 */
function Load({ weeks, nextYear, width, height, today, chosen, onChoose }: LoadProps) {
  const [held, setHeld] = useState<string | null>(null)
  const drawn = useRef(false)
  const isChosen = (week: string) => chosen !== null && chosen.first <= week && week <= chosen.last
  const between = (one: string, other: string) =>
    onChoose(one < other ? { first: one, last: other } : { first: other, last: one })
  const press = (week: string, extend: boolean) => {
    if (extend && chosen) between(chosen.first, week)
    else if (chosen?.first === week && chosen.last === week) onChoose(null)
    else onChoose({ first: week, last: week })
  }
  const top = Math.max(...weeks.map((one) => Math.max(one.capacity, one.hours)), 1)
  const floor = height - 26
  const y = (hours: number) => floor - (hours / top) * (floor - 18)
  const step = (width - 44) / weeks.length
  const lines = [0.25, 0.5, 0.75, 1].map((share) => Math.round((top * share) / 5) * 5)
  return (
    <svg width={width} height={height} role="group" aria-label="Hours planned and hours there are, by week">
      {lines.map((hours) => (
        <g key={hours}>
          <line x1="40" x2={width} y1={y(hours)} y2={y(hours)} className="stroke-line" strokeWidth="0.6" />
          <text x="34" y={y(hours) + 4} textAnchor="end" className="fill-soft text-[11px]">
            {hours} h
          </text>
        </g>
      ))}
      {weeks.map((one, at) => {
        const x = 44 + at * step
        const wide = Math.max(step - 3, 3)
        const after = nextYear[at]
        const month = new Date(day(one.week)).getUTCDate() <= 7
        const words =
          `Week of ${shortDate(day(one.week), today)}: ${Math.round(one.hours)} of ` +
          `${Math.round(one.capacity)} h, ${one.visits} visits` +
          (one.firm ? `, ${one.firm} kept or promised` : '') +
          (one.past_cap ? `, ${one.past_cap} past their latest day` : '') +
          (after === undefined ? '' : `; the same week next year asks ${Math.round(after)} h`)
        return (
          <g
            key={one.week}
            role="button"
            tabIndex={0}
            aria-pressed={isChosen(one.week)}
            aria-label={words}
            className="cursor-pointer"
            onPointerDown={(event) => {
              event.preventDefault()
              // A finger would keep the events of the weeks that it moves over.
              if (event.pointerType === 'touch') event.currentTarget.releasePointerCapture(event.pointerId)
              drawn.current = false
              setHeld(event.shiftKey ? null : one.week)
            }}
            onPointerEnter={(event) => {
              if (event.buttons !== 1 || !held || (held === one.week && !drawn.current)) return
              drawn.current = true
              between(held, one.week)
            }}
            // Of a machine that presses for somebody there is no drawing to be told apart from.
            onClick={(event) => (!drawn.current || event.detail === 0) && press(one.week, event.shiftKey)}
            onKeyDown={(event) => {
              if (event.key !== 'Enter' && event.key !== ' ') return
              event.preventDefault()
              press(one.week, event.shiftKey)
            }}
          >
            <title>{words}</title>
            <rect
              x={x - 1}
              y="10"
              width={step}
              height={floor - 10}
              className={isChosen(one.week) ? 'fill-sheet stroke-copper' : 'fill-transparent'}
              strokeWidth="2"
            />
            <rect x={x} y={y(one.hours)} width={wide} height={floor - y(one.hours)} className="fill-water-pale" />
            {one.hours > 0 && (
              <line x1={x} x2={x + wide} y1={y(one.hours)} y2={y(one.hours)} className="stroke-water" strokeWidth="2" />
            )}
            <path
              d={`M${x} ${y(one.capacity)}V${floor}H${x + wide}V${y(one.capacity)}`}
              fill="none"
              className="stroke-line"
              strokeWidth="1"
            />
            {one.capacity > 0 && (
              <path
                d={`M${x} ${y(one.capacity) + 7}v-7h${wide}v7`}
                fill="none"
                className="stroke-ink"
                strokeWidth="1.2"
              />
            )}
            {after !== undefined && after > 0 && (
              <line
                x1={x}
                x2={x + wide}
                y1={y(after)}
                y2={y(after)}
                className="stroke-copper"
                strokeWidth="2"
                strokeDasharray="2 2"
              />
            )}
            {one.past_cap > 0 && (
              <text
                aria-hidden
                x={x + wide / 2}
                y={y(one.hours) + 14}
                textAnchor="middle"
                className="fill-oxide text-[10px] font-bold"
              >
                {one.past_cap}
              </text>
            )}
            {one.capacity === 0 && (
              <text aria-hidden x={x + wide / 2} y={floor - 4} textAnchor="middle" className="fill-soft text-[10px]">
                –
              </text>
            )}
            {month && (
              <text aria-hidden x={x} y={floor + 16} className="fill-soft text-[11px]">
                {new Intl.DateTimeFormat('en', { month: 'short', timeZone: 'UTC' }).format(day(one.week))}
              </text>
            )}
          </g>
        )
      })}
      <text x={width} y="8" textAnchor="end" className="fill-soft text-[11px]">
        rim: hours of the crew · fill: hours planned, with the ways
        {nextYear.length > 0 && ' · dashes: the same week next year'} · red: visits past their latest day · draw over
        several weeks to choose them together
      </text>
    </svg>
  )
}

function Came({ figures, message }: { figures: Schema['FiguresOut']; message: string }) {
  const { parts } = figures
  return (
    <section aria-label="Plan summary" tabIndex={0} className="overflow-y-auto p-5">
      <h2>Plan summary</h2>
      {message && <p className="mb-2 font-semibold text-oxide">{message}</p>}
      <p>
        {figures.visits} visits for {figures.services} services. No plan can be more than{' '}
        {(100 * figures.gap).toFixed(1)}&nbsp;% better by our own measure.
      </p>
      <table className="mt-3 w-full border-collapse">
        <caption className="pb-1 text-left text-fine text-soft">Its cost, in hours of crew time</caption>
        <tbody>
          <Row words="driving and setting up" hours={parts.visits} />
          <Row words="services, by the part of their interval that is used" hours={parts.services} />
          <Row words="heaters over their limit, before they are served and after" hours={parts.over_limit} />
          <Row words="safety services past their latest day" hours={parts.past_cap} />
          {(parts.past_asked ?? 0) > 0 && (
            <Row words="services later than our practice asks" hours={parts.past_asked} />
          )}
          {parts.uneven !== undefined && <Row words="weeks that crowd next year" hours={parts.uneven} />}
        </tbody>
      </table>
      <p className="mt-3">
        {figures.one_more !== null && (
          <>One technician more would save about {Math.round(Math.abs(figures.one_more))} h of this. </>
        )}
        {figures.one_fewer !== null && <>One fewer would cost about {Math.round(figures.one_fewer)} h more.</>}
      </p>
      <ForEver figures={figures} />
    </section>
  )
}

/** What the base asks every week for good, against the crew as it is and with one technician more or fewer. */
function ForEver({ figures }: { figures: Schema['FiguresOut'] }) {
  const { steady_hours: steady, crew_hours: crew, technician_hours: one, variation } = figures
  if (steady == null || crew == null || one == null) return null
  const used = (hours: number) => (hours > 0 ? `${Math.round((100 * steady) / hours)} %` : 'more than all')
  return (
    <>
      <h2 className="mt-5">For ever</h2>
      <p>
        All that is in care asks <strong>{steady.toFixed(1)} h a week</strong>, year in, year out: {used(crew)} of the
        {` ${Math.round(crew)} h that the crew has, ${used(crew - one)} with one technician fewer, `}
        {used(crew + one)} with one more.
        {variation != null && (
          <>
            {' '}
            Next year’s weeks differ from their mean by {Math.round(100 * variation)}&nbsp;%, weeks without work aside.
          </>
        )}
      </p>
    </>
  )
}

function Row({ words, hours = 0 }: { words: string; hours?: number | undefined }) {
  return (
    <tr className="border-b border-line">
      <th scope="row" className="py-1 pr-3 text-left font-normal">
        {words}
      </th>
      <td className="text-right font-bold whitespace-nowrap">{Math.round(hours)} h</td>
    </tr>
  )
}

function LeftOut({ rows, today }: { rows: Schema['LeftOutOut'][]; today: string }) {
  return (
    <section aria-label="What found no place" className="flex min-h-0 flex-col border-l border-line">
      <h2 className="px-5 pt-4 pb-1">
        {rows.length === 0 ? 'Everything that is worth a visit has a week' : 'Not scheduled, and why'}
      </h2>
      <div
        tabIndex={0}
        role="region"
        aria-label="Services without a week"
        className="min-h-0 flex-1 overflow-y-auto px-5 pb-4"
      >
        <table className="w-full border-collapse">
          <thead className="sr-only">
            <tr>
              <th scope="col">Heater</th>
              <th scope="col">Service</th>
              <th scope="col">Latest day, or worth</th>
              <th scope="col">Why it has no week</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((one) => (
              <tr key={`${one.heater_id}-${one.component}`} className="border-b border-line">
                <th scope="row" className="py-1 pr-3 text-left font-bold">
                  <Link to={`/heaters/${one.heater_id}`} className="hover:underline">
                    {one.site}
                  </Link>{' '}
                  <span className="font-normal text-soft">{one.tag}</span>
                </th>
                <td className="pr-3">{COMPONENTS[one.component]}</td>
                <td className={one.latest_on ? 'pr-3 text-oxide' : 'pr-3 text-soft'}>
                  {one.latest_on ? `until ${shortDate(day(one.latest_on), today)}` : `worth ${one.worth.toFixed(1)} h`}
                </td>
                <td className="text-soft">{one.why}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}
