import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import type { Schema } from '../../api/client'
import { placesOptions, slotsOptions, useBook, useMove } from '../../records/roundQueries'
import { duration, REASONS, weekday, whenWords } from '../../records/roundWords'
import { useCompany } from '../../session/session'
import { clock } from '../../lib/clock'
import { day, shortDate } from '../../lib/dates'
import { COMPONENTS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { Loading } from '../../ui/States'
import { Photographs } from './Photographs'

const LICENCES = ['gas', 'electrical', 'plumbing'] as const
const LENGTHS = [30, 45, 60, 75, 90, 120, 180, 240]
const FIRST_SHOWN = 3
const MORE_SHOWN = 14

interface Props {
  siteId: number
  /** The visit that is moved; none where a new one is booked. */
  one: Schema['SiteVisitOut'] | undefined
  call: Schema['UsualCallOut'] | undefined
  approves: string
  onNew: () => void
  onBooked: (id: number) => void
  onPrepare: (lines: string[]) => void
}

/** Three times that cost least, each booked at a press: for the visit that is planned, or for a new one. */
export function FreeTimes(props: Props) {
  return (
    <section aria-label="Free times" className="min-w-0 overflow-y-auto px-5 py-3">
      {props.one ? <ForVisit {...props} one={props.one} /> : <ForNew {...props} />}
    </section>
  )
}

function ForVisit({ one, onNew }: Props & { one: Schema['SiteVisitOut'] }) {
  const { today } = useCompany()
  const [first, setFirst] = useState(today)
  const { data, error } = useQuery(placesOptions(one.id, one.version, first, true))
  const move = useMove(() => undefined)
  return (
    <>
      <div className="flex items-baseline gap-4">
        <h2>
          Free times for the visit of {!one.on && 'the '}
          {whenWords(one, today)}
        </h2>
        <div className="flex-1" />
        <Button look="quiet" className="min-h-7 px-0!" onClick={onNew}>
          Book another visit
        </Button>
      </div>
      <p className="text-soft">
        Chosen with them on the telephone, a time is promised at once and nobody is written to.
      </p>
      <Times
        places={data?.filter((to) => !(to.on === one.on && to.member_id === one.member_id))}
        first={first}
        onFirst={setFirst}
        busy={move.isPending}
        say="Promise it"
        onTake={(to) =>
          move.mutate({
            id: one.id,
            version: one.version,
            week: to.on,
            on: to.on,
            member_id: to.member_id,
            position: to.position,
            agreed: true,
            override: false,
            why: '',
          })
        }
      />
      <Trouble error={move.error ?? error} />
    </>
  )
}

function ForNew({ siteId, call, approves, onBooked, onPrepare }: Props) {
  const { today } = useCompany()
  const book = useBook()
  const [first, setFirst] = useState(today)
  const [reason, setReason] = useState<Schema['Reason']>(call?.reason ?? 'wish')
  const [said, setSaid] = useState(call?.reason && call.reason !== 'estimate' ? call.says : '')
  const [decides, setDecides] = useState(approves)
  const [minutes, setMinutes] = useState(call?.minutes || 60)
  const [needs, setNeeds] = useState<string[]>([])
  const [rides, setRides] = useState(reason !== 'estimate')
  const [group] = useState(() => crypto.randomUUID())
  const [hasPhotos, setHasPhotos] = useState(false)
  const asked = { site_id: siteId, reason, said, decides, minutes, needs, people: 1, ride_along: rides }
  // What is said changes no free time: it is not asked for anew at each letter.
  const found = useQuery(slotsOptions({ ...asked, said: '', decides: '', first, days: 14 }))
  const lines = found.data?.prepare
  useEffect(() => {
    if (lines) onPrepare(lines)
  }, [lines, onPrepare])
  const riding = [...new Set(found.data?.rides_along.map((one) => COMPONENTS[one.component].toLowerCase()))]
  const take = (where: Pick<Schema['BookingIn'], 'week' | 'on' | 'member_id' | 'position' | 'agreed'>) =>
    book.mutate(
      { ...asked, photos: hasPhotos ? [group] : [], ...where, override: false },
      { onSuccess: (one) => onBooked(one.id) },
    )
  return (
    <>
      <h2>A new visit</h2>
      <div className="mt-1 grid grid-cols-2 gap-x-4 gap-y-2 max-sm:grid-cols-1">
        <Choice label="What for" value={reason} onChange={(e) => setReason(e.target.value as Schema['Reason'])}>
          {Object.entries(REASONS)
            .filter(([value]) => value !== 'emergency')
            .map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
        </Choice>
        <Choice label="About how long" value={minutes} onChange={(e) => setMinutes(Number(e.target.value))}>
          {LENGTHS.map((one) => (
            <option key={one} value={one}>
              {duration(one)}
            </option>
          ))}
        </Choice>
        <Field label="What they say" maxLength={240} value={said} onChange={(e) => setSaid(e.target.value)} />
        <Field
          label="Who decides about more work"
          maxLength={120}
          value={decides}
          onChange={(e) => setDecides(e.target.value)}
        />
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-5">
        {LICENCES.map((one) => (
          <label key={one}>
            <input
              type="checkbox"
              checked={needs.includes(one)}
              onChange={(e) => setNeeds(e.target.checked ? [...needs, one] : needs.filter((other) => other !== one))}
              className="mr-1.5 size-4 align-[-3px]"
            />
            {one} license
          </label>
        ))}
        <label>
          <input
            type="checkbox"
            checked={rides}
            onChange={(e) => setRides(e.target.checked)}
            className="mr-1.5 size-4 align-[-3px]"
          />
          with what is due{riding.length > 0 && `: ${riding.join(', ')}`}
        </label>
      </div>
      <Photographs siteId={siteId} group={group} said={said} onAdded={() => setHasPhotos(true)} />
      <h2 className="mt-4">Free times{found.data && `, ${duration(found.data.minutes)} each`}</h2>
      <Times
        places={found.data?.places}
        first={first}
        onFirst={setFirst}
        busy={book.isPending}
        say="Book it"
        onTake={(to) => take({ week: to.on, on: to.on, member_id: to.member_id, position: to.position, agreed: true })}
      />
      <p className="mt-2">
        <Button
          look="quiet"
          className="min-h-8 px-0!"
          disabled={book.isPending}
          onClick={() => take({ week: first, on: null, member_id: null, position: null, agreed: false })}
        >
          Only the week of {shortDate(day(first), today)}; find the day later
        </Button>
      </p>
      <Trouble error={book.error ?? found.error} />
    </>
  )
}

interface TimesProps {
  places: Schema['PossibleOut'][] | undefined
  first: string
  onFirst: (first: string) => void
  busy: boolean
  say: string
  onTake: (to: Schema['PossibleOut']) => void
}

function Times({ places, first, onFirst, busy, say, onTake }: TimesProps) {
  const { today } = useCompany()
  const [all, setAll] = useState(false)
  const free = places?.filter((one) => one.faults.length === 0) ?? []
  const days = new Set<string>()
  // Of one day the cheapest: a caller chooses among days first.
  const best = free.filter((one) => !days.has(one.on) && days.add(one.on))
  const shown = all ? free.slice(0, MORE_SHOWN) : best.slice(0, FIRST_SHOWN)
  return (
    <>
      <div className="mt-2 flex items-end gap-4">
        <Field
          label="From"
          type="date"
          className="w-44"
          min={today}
          value={first}
          onChange={(e) => e.target.value >= today && onFirst(e.target.value)}
        />
        <Button look="quiet" className="min-h-9 px-0!" aria-pressed={all} onClick={() => setAll(!all)}>
          {all ? 'The three that cost least' : 'All of the fortnight'}
        </Button>
      </div>
      {!places && <Loading what="free times" />}
      {places && shown.length === 0 && (
        <p className="mt-2 text-soft">Nobody who may do it has time in this fortnight. Look from a later day.</p>
      )}
      <ul className="mt-2">
        {shown.map((to) => (
          <li
            key={`${to.on}-${to.member_id}`}
            className="flex flex-wrap items-center gap-x-4 border-b border-line py-1.5 first:border-t"
          >
            <strong className="w-28">
              {weekday(to.on)} {shortDate(day(to.on), today)}
            </strong>
            <span className="w-28">about {clock(to.begins)}</span>
            <span className="w-20 wrap-break-word">{to.name.split(' ')[0]}</span>
            <span className="flex-1 text-soft">
              {to.driving > 0
                ? `${to.driving} min more driving`
                : to.driving < 0
                  ? `${-to.driving} min less driving`
                  : 'no more driving'}
              {to.lateness.length > 0 && <span className="block text-ochre-deep">{to.lateness.join('; ')}</span>}
            </span>
            <Button
              className="min-h-8 px-3"
              disabled={busy}
              aria-label={
                `${say}: ${weekday(to.on)} ${shortDate(day(to.on), today)}, about ${clock(to.begins)}, ` + `${to.name}`
              }
              onClick={() => onTake(to)}
            >
              {say}
            </Button>
          </li>
        ))}
      </ul>
    </>
  )
}

function Trouble({ error }: { error: Error | null }) {
  if (!error) return null
  return (
    <p role="alert" className="mt-2 font-semibold text-oxide">
      {error.message}
    </p>
  )
}
