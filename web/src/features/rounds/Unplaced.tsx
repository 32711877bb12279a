import clsx from 'clsx'
import type { Schema } from '../../api/client'
import { addDays, day, isoDay, shortDate } from '../../lib/dates'
import { REASONS, duration, needWords, serviceWords } from '../../records/roundWords'
import type { Carry } from './useCarry'

interface Props {
  data: Schema['UnplacedOut'] | undefined
  week: string
  today: string
  onChoose: (id: number) => void
  carry: Carry
}

const MOST = 12
/** Hours that one block of worth stands for. */
const BLOCK = 0.25

/** Visits without a day: this week's first, then those of the weeks after, by what each is worth. */
export function Unplaced({ data, week, today, onChoose, carry }: Props) {
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-baseline gap-x-6 px-5 pt-2 pb-1 narrow:px-3">
        <h2>Unscheduled visits</h2>
        <p className="text-fine text-soft">
          {data && data.total > 0
            ? `${data.total} of this week or before`
            : 'nothing of this week; below, what the season has for the weeks after'}{' '}
          · worth: what putting a visit off by four weeks would cost, a quarter of an hour a block
        </p>
      </div>
      <div tabIndex={0} role="region" aria-label="Visits without a day" className="min-h-0 flex-1 overflow-y-auto">
        <ul>
          {data?.rows.map((one) => (
            <li key={one.id}>
              <button
                type="button"
                aria-keyshortcuts="m"
                onPointerDown={(event) =>
                  event.button === 0 && carry.press(one, { x: event.clientX, y: event.clientY })
                }
                onClick={(event) => !carry.wasCarried(event) && onChoose(one.id)}
                onKeyDown={(event) => event.key === 'm' && carry.take(one)}
                className={clsx(
                  'grid w-full grid-cols-[230px_minmax(0,1fr)_70px_150px_190px_170px] items-center',
                  'gap-x-3 px-5 py-1 text-left hover:bg-sheet narrow:grid-cols-[minmax(0,1fr)_auto] narrow:px-3',
                )}
              >
                <strong className="wrap-break-word">{one.site}</strong>
                <span className="wrap-break-word text-soft">{forWhat(one)}</span>
                <span>{duration(one.minutes)}</span>
                <span className="wrap-break-word text-soft">{needWords(one)}</span>
                {one.reason === 'due' ? (
                  <Worth hours={one.worth} />
                ) : (
                  <span className="font-semibold narrow:hidden">{REASONS[one.reason]}</span>
                )}
                <span className={isLate(one, today) ? 'text-oxide' : 'text-soft'}>{when(one, week, today)}</span>
              </button>
            </li>
          ))}
        </ul>
        {data?.rows.length === 0 && <p className="px-5 py-3 text-soft">Every visit of the season has a day.</p>}
      </div>
    </div>
  )
}

function forWhat(one: Schema['AppointmentOut']): string {
  const due = one.services.length > 0 || !one.said ? serviceWords(one.services) : ''
  return [one.said, due, one.note].filter(Boolean).join(' · ')
}

const hasPassed = (one: Schema['AppointmentOut'], today: string) => (one.on ?? isoDay(addDays(one.week, 6))) < today

function isLate(one: Schema['AppointmentOut'], today: string): boolean {
  return (one.latest_on ?? today) < today || hasPassed(one, today)
}

function when(one: Schema['AppointmentOut'], week: string, today: string): string {
  if (one.latest_on && one.latest_on < today) return `past its latest, ${shortDate(day(one.latest_on), today)}`
  if (one.on && one.on < today) return `not done on ${shortDate(day(one.on), today)}`
  if (hasPassed(one, today)) return `not done in the week of ${shortDate(day(one.week), today)}`
  if (one.week > week) return `week of ${shortDate(day(one.week), today)}`
  return one.latest_on ? `until ${shortDate(day(one.latest_on), today)}` : 'this week'
}

function Worth({ hours }: { hours: number }) {
  const full = Math.min(MOST, Math.max(1, Math.round(hours / BLOCK)))
  return (
    <svg
      width={MOST * 15}
      height="12"
      className="narrow:hidden"
      role="img"
      aria-label={`worth ${hours.toFixed(1)} hours`}
    >
      {Array.from({ length: MOST }, (_, at) => (
        <rect
          key={at}
          x={at * 15}
          y="0"
          width="12"
          height="12"
          rx="2"
          className={at < full ? 'fill-moss' : 'fill-line'}
          opacity={at < full ? 1 : 0.6}
        />
      ))}
    </svg>
  )
}
