import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { day, shortDate } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Phrase } from '../../ui/Phrase'
import { Failed, Loading } from '../../ui/States'
import { ofWeeksOptions, useShift } from '../../records/roundQueries'
import { duration, serviceWords, STANDINGS, weekday } from '../../records/roundWords'

/** Weeks that are chosen together, by their first days. */
export interface Brush {
  first: string
  last: string
}

interface Props {
  brush: Brush
  weeks: Schema['LoadWeekOut'][]
  today: string
  may: boolean
  onBrush: (next: Brush) => void
  onClose: () => void
}

/**
 * The visits of a week or of several: their load against what there is, and some or all of them put into another, once
 * it was seen what that costs.
 */
export function WeekVisits({ brush, weeks, today, may, onBrush, onClose }: Props) {
  const { data, error } = useQuery(ofWeeksOptions(brush.first, brush.last))
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set())
  const [to, setTo] = useState('')
  const shift = useShift()
  if (error) return <Failed error={error} />
  if (!data) return <Loading what="the week" />
  const here = weeks.filter((one) => brush.first <= one.week && one.week <= brush.last)
  const [hours, capacity] = [
    here.reduce((sum, one) => sum + one.hours, 0),
    here.reduce((sum, one) => sum + one.capacity, 0),
  ]
  const free = data.filter((one) => one.standing === 'planned' || one.standing === 'kept')
  const chosen = free.filter((one) => !left.has(one.id))
  const body = (target: string, dry: boolean) => ({
    visits: chosen.map(({ id, version }) => ({ id, version })),
    week: target,
    dry,
  })
  const ask = (target: string) => {
    setTo(target)
    if (target && chosen.length > 0) shift.mutate(body(target, true))
  }
  const toggle = (id: number) => {
    setLeft((now) => new Set(now.has(id) ? [...now].filter((one) => one !== id) : [...now, id]))
    setTo('')
    shift.reset()
  }
  return (
    <section aria-label="Visits of the week" className="flex min-h-0 flex-col border-l border-line">
      <div className="flex flex-wrap items-center gap-x-3 px-5 pt-2">
        <h2 className="whitespace-nowrap">
          {here.length > 1
            ? `${here.length} weeks from ${shortDate(day(brush.first), today)}`
            : `Week of ${shortDate(day(brush.first), today)}`}
          : {data.length} visits
        </h2>
        {/* Several weeks without drawing over them: by a finger, or by keys. */}
        <span className="whitespace-nowrap">
          until that of
          <Phrase
            label="Until the week of"
            value={brush.last}
            options={weeks
              .filter((one) => one.week >= brush.first)
              .map((one) => ({ value: one.week, label: shortDate(day(one.week), today) }))}
            onChange={(last) => onBrush({ first: brush.first, last })}
          />
        </span>
        <span
          className={hours > capacity ? 'font-semibold whitespace-nowrap text-oxide' : 'whitespace-nowrap text-soft'}
        >
          {Math.round(hours)} of {Math.round(capacity)} h
        </span>
        <Link to={`/rounds?from=${brush.first}`} className="text-copper-deep underline underline-offset-2">
          the days
        </Link>
        <div className="flex-1" />
        {may && (
          <label className="flex items-center gap-2">
            Put {chosen.length} into the week of
            <select
              className="h-8 rounded-md border border-rule bg-sheet px-2"
              value={to}
              disabled={chosen.length === 0 || shift.isPending}
              onChange={(event) => ask(event.target.value)}
            >
              <option value="">…</option>
              {weeks
                .filter((one) => !(here.length === 1 && one.week === brush.first) && one.capacity > 0)
                .map((one) => (
                  <option key={one.week} value={one.week}>
                    {shortDate(day(one.week), today)} ({Math.round(one.hours)} of {Math.round(one.capacity)} h)
                  </option>
                ))}
            </select>
          </label>
        )}
        <Button look="quiet" aria-label="Close the week" className="min-h-8 px-1" onClick={onClose}>
          <X size={18} aria-hidden />
        </Button>
      </div>
      {shift.error && (
        <p role="alert" className="mx-5 border-l-4 border-oxide pl-2.5 font-semibold text-oxide">
          {shift.error.message}
        </p>
      )}
      {to && shift.data && shift.variables.dry && (
        <div
          role="status"
          className="mx-5 mt-1 flex items-center gap-4 border-l-4 border-copper bg-sheet py-1 pr-2 pl-3"
        >
          <Consequences told={shift.data} />
          <div className="flex-1" />
          <Button
            look="main"
            className="min-h-8"
            onClick={() => shift.mutate(body(to, false), { onSuccess: () => setTo('') })}
          >
            Move {shift.data.moved}
          </Button>
        </div>
      )}
      <ul tabIndex={0} aria-label="Visits" className="mt-1 min-h-0 flex-1 overflow-y-auto px-5 pb-3">
        {data.map((one) => {
          const bound = !free.includes(one)
          return (
            <li key={one.id} className="border-b border-line">
              <label
                className={clsx(
                  'grid grid-cols-[20px_200px_minmax(0,1fr)_64px_90px_140px] items-center gap-x-3 py-0.5',
                  'narrow:grid-cols-[20px_minmax(0,1fr)_auto]',
                )}
              >
                <input
                  type="checkbox"
                  className="accent-copper"
                  aria-label={`Move ${one.site}`}
                  checked={!bound && !left.has(one.id)}
                  disabled={bound || !may}
                  onChange={() => toggle(one.id)}
                />
                <strong className="wrap-break-word">{one.site}</strong>
                <span className="wrap-break-word text-soft">{serviceWords(one.services)}</span>
                <span>{duration(one.minutes)}</span>
                <span className="text-soft">
                  {bound
                    ? STANDINGS[one.standing]
                    : one.on
                      ? here.length > 1
                        ? shortDate(day(one.on), today)
                        : weekday(one.on)
                      : here.length > 1
                        ? shortDate(day(one.week), today)
                        : 'no day yet'}
                </span>
                <span
                  className={
                    one.latest_on && one.latest_on < one.week
                      ? 'whitespace-nowrap text-oxide'
                      : 'whitespace-nowrap text-soft'
                  }
                >
                  {one.latest_on ? `until ${shortDate(day(one.latest_on), today)}` : ''}
                </span>
              </label>
            </li>
          )
        })}
      </ul>
    </section>
  )
}

const some = (names: string[]) =>
  names.slice(0, 4).join(', ') + (names.length > 4 ? ` and ${names.length - 4} more` : '')

function Consequences({ told }: { told: Schema['ShiftOut'] }) {
  const { past_latest: past, over_days: over, closed } = told
  return (
    <p>
      That week would have {Math.round(told.hours)} of {Math.round(told.capacity)} h
      {told.hours > told.capacity && <strong className="text-oxide">, more than there are</strong>}.{' '}
      {over === 0
        ? 'Hardly anything stands longer over its limit'
        : `${Math.abs(over)} days ${over > 0 ? 'more' : 'fewer'} over a limit are to be expected`}
      {closed.length > 0 && <strong className="text-oxide">; closed all that week: {some(closed)}</strong>}
      {past.length > 0 && <strong className="text-oxide">; past their latest day: {some(past)}</strong>}.
    </p>
  )
}
