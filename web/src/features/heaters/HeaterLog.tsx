import clsx from 'clsx'
import { max, min } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import { area, line } from 'd3-shape'

import type { Schema } from '../../api/client'
import { day, dueWords, shortDate } from '../../lib/dates'
import { label, type Units } from '../../lib/units'
import { COMPONENTS } from '../../lib/words'

interface Props {
  log: Schema['LogOut']
  units: Units
  width: number
  height: number
}

const TOP = 46
const YEARS = 46
const GAP = 18
/** A visit's words need this much room. */
const LINE = 15
/** Mean width of a letter of these words. */
const LETTER = 5.6

/** Time runs down: past solid, future as a widening band, each visit a layer across all tracks, today a line. */
export function HeaterLog({ log, units, width, height }: Props) {
  const first = min([day(log.installed_on), ...log.entries.map((one) => day(one.on))]) ?? day(log.installed_on)
  // A long life before the first visit says little: the axis starts a year before what is on record.
  const firstEntry = log.entries[0] ? day(log.entries[0].on) : day(log.today)
  const start = Math.max(first, firstEntry - 1.2 * 365.25 * 86_400_000)
  const y = scaleLinear([start, day(log.until)], [TOP, height - 8])
  const tracks = layout(width)
  const deposit = log.courses.find((one) => one.component === 'sediment' || one.component === 'scale')
  const rod = log.courses.find((one) => one.component === 'anode')
  const limit = log.forecasts.find((one) => one.component === deposit?.component)?.limit_value
  const now = y(day(log.today))
  const years = yearLines(start, day(log.until))
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`Log of ${log.entries.length} visits with what is to come; each is told under History`}
    >
      <rect x={YEARS} y={now} width={width - YEARS} height={height - now} className="fill-sheet" />
      {years.map((year) => (
        <g key={year.at}>
          <line x1={YEARS} x2={width} y1={y(year.at)} y2={y(year.at)} className="stroke-line" strokeWidth="0.8" />
          {Math.abs(y(year.at) - now) > 12 && (
            <text x={YEARS - 6} y={y(year.at) + 4} textAnchor="end" className="fill-soft text-[12px]">
              {year.label}
            </text>
          )}
        </g>
      ))}
      <Head x={tracks.visits.x} width={tracks.visits.width} text="Visits" />
      {deposit && (
        <Head
          x={tracks.deposit.x}
          width={tracks.deposit.width}
          text={deposit.component === 'scale' ? 'Scale' : 'Deposit'}
          note={label(units, 'length_mm')}
        />
      )}
      {rod && <Head x={tracks.rod.x} width={tracks.rod.width} text="Anode left" note="%" />}
      <Head x={tracks.valve.x} width={tracks.valve.width} text="Relief valve" />
      {log.entries.map((entry, at) => (
        <line
          key={`${entry.on} ${at}`}
          x1={tracks.deposit.x - 8}
          x2={width}
          y1={y(day(entry.on))}
          y2={y(day(entry.on))}
          className="stroke-copper/35"
          strokeWidth="2"
        />
      ))}
      {deposit && limit !== undefined && (
        <DepositTrack course={deposit} limit={limit} units={units} y={y} start={start} track={tracks.deposit} />
      )}
      {rod && (
        <RodTrack
          course={rod}
          limit={log.forecasts.find((one) => one.component === 'anode')?.limit_value}
          y={y}
          start={start}
          track={tracks.rod}
        />
      )}
      <Entries log={log} y={y} track={tracks.visits} valveX={tracks.valve.x} now={now} />
      <line x1={YEARS} x2={width} y1={now} y2={now} className="stroke-water" strokeWidth="2" />
      <text x={YEARS - 6} y={now + 4} textAnchor="end" className="fill-water text-[12px] font-bold">
        today
      </text>
      <Next log={log} y={now} x={tracks.visits.x} right={width} />
    </svg>
  )
}

interface Track {
  x: number
  width: number
}

function layout(width: number): Record<'visits' | 'deposit' | 'rod' | 'valve', Track> {
  const valve = 84
  const rod = Math.max(width * 0.12, 78)
  const deposit = Math.max(width * 0.2, 112)
  const visits = width - YEARS - valve - rod - deposit - 3 * GAP
  return {
    visits: { x: YEARS + 8, width: visits - 8 },
    deposit: { x: YEARS + visits + GAP, width: deposit },
    rod: { x: YEARS + visits + deposit + 2 * GAP, width: rod },
    valve: { x: width - valve, width: valve },
  }
}

function Head({ x, width, text, note }: Track & { text: string; note?: string }) {
  return (
    <g>
      <text x={x} y={14} className="fill-ink text-[13px] font-bold">
        {text}
        {note && <tspan className="fill-soft font-normal"> {note}</tspan>}
      </text>
      <line x1={x} x2={x + width} y1={22} y2={22} className="stroke-ink" strokeWidth="1.2" />
    </g>
  )
}

interface TrackProps {
  course: Schema['CourseOut']
  y: (at: number) => number
  start: number
  track: Track
}

function points(course: Schema['CourseOut']) {
  return course.on.map((on, at) => ({ at: day(on), p10: course.p10[at]!, p50: course.p50[at]!, p90: course.p90[at]! }))
}

function DepositTrack({ course, limit, units, y, start, track }: TrackProps & { limit: number; units: Units }) {
  const all = points(course)
  const past = all.slice(0, course.present + 1)
  const future = all.slice(course.present)
  const seen = all.filter((one) => one.at >= start)
  const top = Math.max(limit * 1.5, Math.min(max(seen, (one) => one.p50) ?? limit, limit * 6) * 1.25)
  const x = scaleLinear([0, top], [track.x, track.x + track.width]).clamp(true)
  const unit = units.length_mm
  const tick = (value: number) => Number((value * (unit?.factor ?? 1)).toFixed(unit?.decimals || (limit < 1 ? 2 : 0)))
  return (
    <g>
      <Band points={past} x={x} y={y} start={start} className="fill-ochre/35" />
      <Band points={future} x={x} y={y} start={start} className="fill-ochre-pale" />
      <line
        x1={x(limit)}
        x2={x(limit)}
        y1={30}
        y2={y.call(null, all.at(-1)!.at)}
        className="stroke-ink"
        strokeWidth="1.4"
        strokeDasharray="1.5 3.5"
      />
      <text x={x(limit) + 4} y={38} className="fill-soft text-[11px]">
        limit {tick(limit)}
      </text>
      <Middle points={past} x={x} y={y} start={start} className="stroke-ochre-deep" />
      <Middle points={future} x={x} y={y} start={start} className="stroke-ochre-deep" dashed />
    </g>
  )
}

function RodTrack({ course, limit, y, start, track }: TrackProps & { limit: number | undefined }) {
  const all = points(course)
  const x = scaleLinear([0, 1], [track.x, track.x + track.width]).clamp(true)
  return (
    <g>
      <Band points={all.slice(course.present)} x={x} y={y} start={start} className="fill-moss/30" />
      {limit !== undefined && (
        <>
          <line
            x1={x(limit)}
            x2={x(limit)}
            y1={30}
            y2={y(all.at(-1)!.at)}
            className="stroke-ink"
            strokeWidth="1.4"
            strokeDasharray="1.5 3.5"
          />
          <text x={x(limit) + 4} y={38} className="fill-soft text-[11px]">
            bare wire
          </text>
        </>
      )}
      <Middle points={all.slice(0, course.present + 1)} x={x} y={y} start={start} className="stroke-moss-deep" />
      <Middle points={all.slice(course.present)} x={x} y={y} start={start} className="stroke-moss-deep" dashed />
    </g>
  )
}

type Point = ReturnType<typeof points>[number]

interface StrokeProps {
  points: Point[]
  x: (value: number) => number
  y: (at: number) => number
  start: number
  className: string
  dashed?: boolean
}

/** What lies before the axis is cut at its start, on the straight line between its neighbours. */
function cut(points: Point[], start: number): Point[] {
  const inside = points.findIndex((one) => one.at >= start)
  if (inside <= 0) return inside === 0 ? points : []
  const a = points[inside - 1]!
  const b = points[inside]!
  const share = b.at === a.at ? 1 : (start - a.at) / (b.at - a.at)
  const mix = (from: number, to: number) => from + (to - from) * share
  return [
    { at: start, p10: mix(a.p10, b.p10), p50: mix(a.p50, b.p50), p90: mix(a.p90, b.p90) },
    ...points.slice(inside),
  ]
}

function Band({ points, x, y, start, className }: StrokeProps) {
  const shape = area<Point>()
    .y((one) => y(one.at))
    .x0((one) => x(one.p10))
    .x1((one) => x(one.p90))
  return <path d={shape(cut(points, start)) ?? undefined} className={className} />
}

function Middle({ points, x, y, start, className, dashed = false }: StrokeProps) {
  const shape = line<Point>()
    .y((one) => y(one.at))
    .x((one) => x(one.p50))
  return (
    <path
      d={shape(cut(points, start)) ?? undefined}
      className={`fill-none ${className}`}
      strokeWidth="2"
      strokeDasharray={dashed ? '5 4' : undefined}
    />
  )
}

const VALVE: Record<string, [word: string, ran: boolean]> = {
  flows_and_reseats: ['ran', true],
  flows_and_weeps: ['wept after', false],
  no_flow: ['no flow', false],
  not_tested: ['not run', false],
  new: ['new valve', true],
}

const ROOM = 4

/** The words of a visit that its tracks do not draw, new parts first; as many as fit, and how many more there are. */
export function told(entry: Schema['LogEntryOut'], letters: number): string[] {
  const words = entry.lines
    .filter((line) => line.task !== 'relief_valve_exercise' && line.task !== 'relief_valve_replacement')
    .sort((a, b) => Number(b.task.endsWith('_replacement')) - Number(a.task.endsWith('_replacement')))
    .map((line) => (line.words.length > letters ? `${line.words.slice(0, letters - 1).trimEnd()}…` : line.words))
  return words.length > ROOM ? [...words.slice(0, ROOM - 1), `and ${words.length - ROOM + 1} more`] : words
}

/** Newest first from today upwards, so that words never run into each other or past today. */
function apart(entries: Schema['LogEntryOut'][], y: (at: number) => number, now: number, letters: number) {
  let ceiling = now - 4
  return [...entries].reverse().map((entry) => {
    const lines = told(entry, letters)
    const at = Math.min(y(day(entry.on)), ceiling - lines.length * LINE - 4)
    ceiling = at - 13
    return { entry, lines, at }
  })
}

function Entries({
  log,
  y,
  track,
  valveX,
  now,
}: {
  log: Schema['LogOut']
  y: (at: number) => number
  track: Track
  valveX: number
  now: number
}) {
  const x = track.x
  const placed = apart(log.entries, y, now, Math.floor(track.width / LETTER))
  return (
    <g>
      {placed
        .filter((one) => one.at > TOP - 14)
        .map(({ entry, lines, at }) => {
          const mark = entry.marks.relief_valve_replacement ?? entry.marks.relief_valve_exercise
          const valve = mark ? VALVE[mark] : undefined
          const here = y(day(entry.on))
          return (
            <g key={`${entry.on} ${at}`}>
              <title>{entry.lines.map((line) => line.words).join('\n')}</title>
              <circle cx={YEARS} cy={here} r={4} className="fill-copper" />
              <text x={x} y={at + 4} className="text-[12px]">
                <tspan className="fill-ink font-bold">{shortDate(day(entry.on), log.today)}</tspan>
                <tspan className="fill-soft"> {entry.by}</tspan>
                {lines.map((text, row) => (
                  <tspan key={text} x={x} dy={row === 0 ? LINE : LINE - 1} className="fill-soft">
                    {text}
                  </tspan>
                ))}
              </text>
              {valve && (
                <g transform={`translate(${valveX} ${here})`}>
                  <path
                    d="M0 -6L15 0L0 6Z"
                    className={
                      valve[1] ? 'fill-slate' : mark === 'not_tested' ? 'fill-ground stroke-slate' : 'fill-oxide'
                    }
                  />
                  <text
                    x={20}
                    y={4}
                    className={clsx(
                      'text-[12px]',
                      valve[1] || mark === 'not_tested' ? 'fill-soft' : 'fill-oxide font-bold',
                    )}
                  >
                    {valve[0]}
                  </text>
                </g>
              )}
            </g>
          )
        })}
    </g>
  )
}

function Next({ log, y, x, right }: { log: Schema['LogOut']; y: number; x: number; right: number }) {
  const valve = log.forecasts.find((one) => one.component === 'relief_valve')
  const others = log.forecasts.filter((one) => one.component !== 'relief_valve' && one.component !== 'tank')
  return (
    <g>
      <circle cx={YEARS} cy={y + 18} r={5} className="fill-sheet stroke-copper" strokeWidth="2.4" />
      <text x={x} y={y + 22} className="text-[12px]">
        {others.map((one, at) => (
          <tspan key={one.component} x={x} dy={at === 0 ? 0 : LINE + 1}>
            <tspan className="fill-copper-deep font-bold">{COMPONENTS[one.component]}:</tspan>{' '}
            <tspan className="fill-ink">{dueWords(one.due_on, log.today)}</tspan>
          </tspan>
        ))}
      </text>
      {valve?.due_on && (
        <text x={right - 3} y={y + 22} textAnchor="end" className="fill-ink text-[12px] font-bold">
          by {shortDate(day(valve.due_on), log.today)}
        </text>
      )}
    </g>
  )
}

function yearLines(start: number, end: number) {
  const found = []
  for (let year = new Date(start).getUTCFullYear() + 1; Date.UTC(year, 0, 1) < end; year++) {
    found.push({ at: Date.UTC(year, 0, 1), label: String(year) })
  }
  return found
}
