import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Link } from 'react-router'

import { useCompany, useMe } from '../../session/session'
import { KINDS } from '../../lib/words'
import { heaterOptions, logOptions } from '../../records/heaterQueries'
import { dayOptions } from '../../records/roundQueries'
import { serviceWords } from '../../records/roundWords'
import { clock } from '../../lib/clock'
import { guideOptions } from './queries'

/** Today's visits of whoever is signed in, in their order; nothing where they have none. */
export function MyRound() {
  const me = useMe()
  const { today } = useCompany()
  const queries = useQueryClient()
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
  return (
    <section aria-label="My round today" className="space-y-2">
      <h2 className="px-1">
        My round today <span className="font-normal text-soft">back about {clock(mine.back)}</span>
      </h2>
      <ol className="space-y-2">
        {mine.calls.map(({ appointment, begins, ends }) => (
          <li key={appointment.id} className="rounded-xl bg-sheet p-3">
            <p className="flex items-baseline gap-3">
              <strong>
                {clock(begins)} to {clock(ends)}
              </strong>
              <span className="min-w-0 flex-1 truncate font-bold">{appointment.site}</span>
              <a href={`tel:${appointment.phone}`} className="min-h-11 px-1 py-2.5 underline">
                call
              </a>
            </p>
            <p className="text-body text-soft">
              {appointment.street} · {serviceWords(appointment.services)}
            </p>
            {appointment.standing === 'promised' && appointment.earliest !== null && appointment.latest !== null && (
              <p className="text-body">
                promised between {clock(appointment.earliest)} and {clock(appointment.latest)}
              </p>
            )}
            {appointment.note && <p className="text-body font-semibold">{appointment.note}</p>}
            {appointment.hazard && <p className="text-body font-semibold text-oxide">{appointment.hazard}</p>}
            <ul className="mt-1">
              {appointment.services.length === 0 && (
                <li>
                  <Link
                    to={`/sites/${appointment.site_id}`}
                    className="flex min-h-11 items-center justify-between rounded-lg border border-line px-3 font-semibold"
                  >
                    Its heaters
                    <span aria-hidden>→</span>
                  </Link>
                </li>
              )}
              {[...new Map(appointment.services.map((one) => [one.heater_id, one])).values()].map((one) => (
                <li key={one.heater_id}>
                  <Link
                    to={`/visit/${one.heater_id}`}
                    className="flex min-h-11 items-center justify-between rounded-lg border border-line px-3 font-semibold"
                  >
                    {KINDS[one.kind]} {one.tag}
                    <span aria-hidden>→</span>
                  </Link>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ol>
    </section>
  )
}
