import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../../api/client'
import { trueNow } from '../../../api/clock'
import { useCompany, useMay, useMe } from '../../../session/session'
import { clock } from '../../../lib/clock'
import { minutesIn } from '../../../lib/dates'
import { phrase } from '../../../lib/phrases'
import { KINDS } from '../../../lib/words'
import { heaterOptions, logOptions } from '../../../records/heaterQueries'
import { dayOptions, stockOptions, useMovePart } from '../../../records/roundQueries'
import { duration, REASONS, serviceWords } from '../../../records/roundWords'
import { guideOptions } from '../queries'
import { DayRope } from './DayRope'
import { FoundHeater } from './FoundHeater'
import { Otherwise } from './Otherwise'
import { SentPictures } from './SentPictures'

/** Today's visits of whoever is signed in, in their order; nothing where they have none. */
export function MyRound() {
  const me = useMe()
  const { today, timezone } = useCompany()
  const queries = useQueryClient()
  const [chosen, choose] = useState<number>()
  const mine = useQuery(dayOptions(today)).data?.rounds.find((one) => one.user_id === me.id)
  useEffect(() => {
    // The day's visits are read while there is a signal.
    for (const heater of new Set(
      mine?.calls.flatMap((call) => call.appointment.services.map((one) => one.heater_id)),
    )) {
      void queries.prefetchQuery(heaterOptions(heater))
      void queries.prefetchQuery(logOptions(heater))
      void queries.prefetchQuery(guideOptions(heater))
    }
  }, [mine, queries])
  if (!mine || mine.calls.length === 0) return null
  const now = minutesIn(timezone, trueNow())
  // What is begun and not recorded is still the next; what ought to be over is passed by.
  const next = mine.calls.find((call) => call.ends > now) ?? mine.calls[mine.calls.length - 1]!
  const shown = mine.calls.find((call) => call.appointment.id === chosen) ?? next
  return (
    <section aria-label="My round today" className="space-y-2">
      <h2 className="flex justify-between px-1">
        My round today <span className="font-normal text-soft">back about {clock(mine.back)}</span>
      </h2>
      <DayRope round={mine} chosen={shown.appointment.id} next={next.appointment.id} onChoose={choose} />
      <Stop key={shown.appointment.id} call={shown} isNext={shown === next} />
      <ToLoad on={today} memberId={mine.member_id} />
      <ol aria-label="The other visits">
        {mine.calls
          .filter((call) => call !== shown)
          .map(({ appointment, begins }) => (
            <li key={appointment.id} className="border-b border-line">
              <button
                type="button"
                onClick={() => choose(appointment.id)}
                className="grid min-h-12 w-full grid-cols-[64px_1fr] items-baseline py-2 text-left"
              >
                <strong>{clock(begins)}</strong>
                <span>
                  {appointment.site}
                  <span className="block text-body text-soft">
                    {appointment.reason === 'due'
                      ? serviceWords(appointment.services)
                      : [REASONS[appointment.reason], appointment.said].filter(Boolean).join(': ')}
                  </span>
                </span>
              </button>
            </li>
          ))}
      </ol>
    </section>
  )
}

function Stop({ call: { appointment, begins, ends }, isNext }: { call: Schema['CallOut']; isNext: boolean }) {
  const { earliest, latest } = appointment
  const adds = useMay('edit_register')
  const kinds = new Map(appointment.services.map((one) => [one.heater_id, one]))
  return (
    <article aria-label={appointment.site} className="rounded-xl bg-sheet p-4">
      <h3 className="text-title">
        {appointment.site}
        {isNext && <span className="text-copper-deep">, next</span>}
      </h3>
      <p>{[appointment.street, appointment.town].filter(Boolean).join(', ')}</p>
      <p className="text-soft">
        {clock(begins)} to {clock(ends)}
        {appointment.standing === 'promised' &&
          earliest !== null &&
          latest !== null &&
          ` · promised between ${clock(earliest)} and ${clock(latest)}`}
      </p>
      <p className="text-body text-soft">
        {serviceWords(appointment.services)} · about {duration(appointment.minutes)}
      </p>
      {appointment.reason !== 'due' && (
        <p className="font-semibold">{[REASONS[appointment.reason], appointment.said].filter(Boolean).join(': ')}</p>
      )}
      {appointment.photos.length > 0 && <SentPictures siteId={appointment.site_id} groups={appointment.photos} />}
      {appointment.hazard && <p className="mt-1 font-semibold text-oxide">{appointment.hazard}</p>}
      {appointment.access && <p className="mt-1">Access: {appointment.access}</p>}
      {appointment.decides && <p>{appointment.decides} decides about more work.</p>}
      {appointment.note && <p className="font-semibold">{appointment.note}</p>}
      <p className="mt-3 flex gap-2">
        {appointment.located && (
          <a href={onAMap(appointment)} className={BESIDE} aria-label={`Directions to ${appointment.site}`}>
            Directions
          </a>
        )}
        {appointment.phone && (
          <a href={`tel:${appointment.phone}`} className={BESIDE} aria-label={`Call ${appointment.customer}`}>
            Call
          </a>
        )}
        <Link to={`/sites/${appointment.site_id}`} className={BESIDE} aria-label={`The site of ${appointment.site}`}>
          The site
        </Link>
      </p>
      <ul className="mt-2 space-y-2">
        {[...kinds.values()].map((one) => (
          <li key={one.heater_id}>
            <Link
              to={`/visit/${one.heater_id}`}
              className="flex min-h-13 items-center justify-between rounded-lg bg-copper px-4 font-bold text-white"
            >
              {KINDS[one.kind]} {one.tag}
              <span aria-hidden>→</span>
            </Link>
          </li>
        ))}
      </ul>
      <Otherwise one={appointment} />
      {adds && <FoundHeater siteId={appointment.site_id} site={appointment.site} />}
    </article>
  )
}

const BESIDE = 'grid min-h-12 flex-1 place-items-center rounded-lg border border-copper font-semibold text-copper-deep'

/** What the truck has to carry today, that it has not. */
function ToLoad({ on, memberId }: { on: string; memberId: number }) {
  const truck = useQuery(stockOptions(on)).data?.trucks.find((one) => one.member_id === memberId)
  const missing = truck?.lines.filter((line) => line.to_add > 0) ?? []
  const { units } = useCompany()
  const load = useMovePart()
  if (missing.length === 0) return null
  return (
    <details className="rounded-xl bg-sheet px-3">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        To load: {missing.length} {missing.length === 1 ? 'thing' : 'things'}
      </summary>
      <ul className="pb-2">
        {missing.map((line) => (
          <li key={line.part} className="flex min-h-11 items-center gap-3 text-body">
            <span className="flex-1">
              <strong>{line.to_add}</strong> {phrase(line.part, units)}
            </span>
            <button
              type="button"
              className="min-h-11 rounded-lg border border-rule px-3 font-semibold disabled:opacity-55"
              aria-label={`Loaded: ${line.to_add} ${phrase(line.part, units)}`}
              disabled={load.isPending}
              onClick={() =>
                load.mutate({ part: line.part, quantity: line.to_add, received: false, source: null, target: memberId })
              }
            >
              Loaded
            </button>
          </li>
        ))}
      </ul>
      {load.error && (
        <p role="alert" className="pb-2 font-semibold text-oxide">
          {load.error.message}
        </p>
      )}
    </details>
  )
}

/** Where a site is, as a telephone's own map opens it (RFC 5870). */
function onAMap(at: Schema['AppointmentOut']) {
  const address = [at.street, at.town].filter(Boolean).join(', ')
  return `geo:${at.latitude},${at.longitude}?q=${encodeURIComponent(address)}`
}
