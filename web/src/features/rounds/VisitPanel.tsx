import { useQuery } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'

import { ApiError, type Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { trueNow } from '../../api/clock'
import { day, minutesIn, shortDate } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Hazard } from '../../ui/States'
import { dayWorthOptions } from '../../records/moneyQueries'
import { amountWords } from '../../records/moneyWords'
import { placesOptions, useDisturb, useMove, useOffer, useStand } from '../../records/roundQueries'
import { duration, needWords, REASONS, serviceWords, STANDINGS, weekday } from '../../records/roundWords'
import { sentence } from '../../lib/words'
import { clock, minutesOf } from '../../lib/clock'

interface Props {
  one: Schema['AppointmentOut']
  /** From which day places are looked for. */
  first: string
  today: string
  may: boolean
  onClose: () => void
  onMoved: (on: string) => void
}

/** One visit: whom to call, how firmly it stands, and where else it could go, each place with what it costs. */
export function VisitPanel({ one, first, today, may, onClose, onMoved }: Props) {
  return (
    <div
      className="grid h-full grid-cols-[minmax(0,400px)_minmax(0,1fr)] narrow:h-auto narrow:grid-cols-1"
      onKeyDown={(event) => event.key === 'Escape' && onClose()}
    >
      <section aria-label={one.site} className="flex min-h-0 flex-col overflow-y-auto px-5 py-2">
        <div className="flex shrink-0 items-baseline gap-3">
          <h2 className="wrap-break-word text-lead">{one.site}</h2>
          <span className="text-soft">{STANDINGS[one.standing]}</span>
          <div className="flex-1" />
          <Button look="quiet" aria-label="Close" className="min-h-0 px-1" onClick={onClose}>
            <X size={18} aria-hidden />
          </Button>
        </div>
        <p className="shrink-0 wrap-break-word">
          {one.street}, {one.zone} ·{' '}
          <a href={`tel:${one.phone}`} className="text-copper-deep underline underline-offset-2">
            {one.phone || 'no telephone on record'}
          </a>
        </p>
        <p className="shrink-0 text-soft">
          {serviceWords(one.services)} · {duration(one.minutes)} · {needWords(one)}
          {one.latest_on && ` · until ${shortDate(day(one.latest_on), today)}`}{' '}
          <Link to={`/sites/${one.site_id}`} className="text-copper-deep underline underline-offset-2">
            the site
          </Link>
        </p>
        {one.hazard && <Hazard className="shrink-0 wrap-break-word">{one.hazard}</Hazard>}
        {(one.said || one.reason !== 'due') && (
          <p>{[one.reason === 'due' ? '' : sentence(REASONS[one.reason]), one.said].filter(Boolean).join(': ')}</p>
        )}
        {one.decides && <p className="text-soft">{one.decides} decides.</p>}
        {one.note && <p className="text-soft">{one.note}</p>}
        {one.on && one.begins !== null && <VisitWorth id={one.id} on={one.on} />}
        {may && <Standing one={one} today={today} />}
      </section>
      <Places one={one} first={first} today={today} may={may} onMoved={onMoved} />
    </div>
  )
}

/** What the visit comes to in money. */
function VisitWorth({ id, on }: { id: number; on: string }) {
  const { data } = useQuery(dayWorthOptions(on))
  const found = data?.visits.find((one) => one.appointment_id === id)
  if (!data || !found) return null
  const words = (amount: string) => amountWords(amount, data.currency)
  const paid = Number(found.included) > 0 ? `, ${words(found.included)} in ${found.plan}` : ''
  return (
    <p className="shrink-0 text-soft">
      <strong className="text-ink">{words(found.charged)}</strong> to pay{paid}, costs us about{' '}
      {words(String(Math.round(Number(found.cost))))}
      {found.unpriced.length > 0 && <span className="font-semibold text-oxide"> · something has no price yet</span>}
    </p>
  )
}

function Standing({ one, today }: { one: Schema['AppointmentOut']; today: string }) {
  const stand = useStand()
  const disturb = useDisturb(one.on ?? today)
  const offer = useOffer()
  const [from, setFrom] = useState(clock(one.earliest ?? Math.max(0, (one.begins ?? 510) - 30)))
  const [until, setUntil] = useState(clock(one.latest ?? (one.begins ?? 510) + 60))
  const set = (standing: Schema['PromiseIn']['standing'], more: Partial<Schema['PromiseIn']> = {}) =>
    stand.mutate({ id: one.id, version: one.version, standing, ...more })
  const error = stand.error ?? disturb.error ?? offer.error
  const now = minutesIn(useCompany().timezone, trueNow())
  const isToday = one.on === today
  return (
    <div className="mt-auto shrink-0 pt-1">
      {one.on && one.standing !== 'promised' && (
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            set('promised', { earliest: minutesOf(from), latest: minutesOf(until) })
          }}
        >
          <Button
            type="submit"
            className="min-h-8 px-3"
            disabled={stand.isPending || minutesOf(from) === null || minutesOf(until) === null}
          >
            Confirm time window
          </Button>
          between
          <input
            aria-label="Not before"
            value={from}
            onChange={(event) => setFrom(event.target.value)}
            className="h-8 w-16 rounded-md border border-rule bg-sheet px-2 text-center"
          />
          and
          <input
            aria-label="Not after"
            value={until}
            onChange={(event) => setUntil(event.target.value)}
            className="h-8 w-16 rounded-md border border-rule bg-sheet px-2 text-center"
          />
        </form>
      )}
      {one.standing === 'promised' && one.earliest !== null && one.latest !== null && (
        <p>
          Promised between <strong>{clock(one.earliest)}</strong> and <strong>{clock(one.latest)}</strong>.{' '}
          <span className="text-soft">What you change is told to them in five minutes.</span>
        </p>
      )}
      <p className="flex flex-wrap items-center whitespace-nowrap">
        {one.standing !== 'planned' && (
          <Button look="quiet" className="min-h-7 px-1.5" disabled={stand.isPending} onClick={() => set('planned')}>
            Release
          </Button>
        )}
        {one.on && one.standing === 'planned' && (
          <Button look="quiet" className="min-h-7 px-1.5" disabled={stand.isPending} onClick={() => set('kept')}>
            Keep on this day
          </Button>
        )}
        {one.begins !== null &&
          one.on !== null &&
          one.on > today &&
          (one.standing === 'planned' || one.standing === 'kept') && (
            <Button
              look="quiet"
              className="min-h-7 px-1.5"
              disabled={offer.isPending}
              onClick={() => offer.mutate({ appointment_id: one.id })}
            >
              Offer it
            </Button>
          )}
        {isToday && (
          <>
            <Button
              look="quiet"
              className="min-h-7 px-1.5"
              disabled={disturb.isPending}
              onClick={() =>
                disturb.mutate({ kind: 'overrun', at: now, appointment_id: one.id, minutes: 30, needs: [] })
              }
            >
              Running 30 min late
            </Button>
            <Button
              look="quiet"
              className="min-h-7 px-1.5"
              disabled={disturb.isPending}
              onClick={() =>
                disturb.mutate({ kind: 'nobody_home', at: now, appointment_id: one.id, minutes: 0, needs: [] })
              }
            >
              No one home
            </Button>
          </>
        )}
        <Button look="quiet" className="min-h-7 px-1.5" disabled={stand.isPending} onClick={() => set('called_off')}>
          Call it off
        </Button>
      </p>
      {disturb.data && (
        <ul aria-label="What changed" className="border-l-4 border-water pl-2.5">
          {disturb.data.changes.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
      {error && (
        <p role="alert" className="font-semibold text-oxide">
          {error.message}
        </p>
      )}
    </div>
  )
}

/** "Tue 1 Dec, 7:40, Joss" */
const placeWords = (to: Schema['PossibleOut'], today: string) =>
  [`${weekday(to.on)} ${shortDate(day(to.on), today)}`, clock(to.begins), to.name].join(', ')

/** Where it could go in the coming fortnight: the answer for who is on the telephone. */
function Places({ one, first, today, may, onMoved }: Omit<Props, 'onClose'>) {
  const move = useMove(onMoved)
  const told = one.standing === 'promised' || one.standing === 'offered'
  const [agreed, setAgreed] = useState(false)
  const [why, setWhy] = useState('')
  const { data, error } = useQuery(placesOptions(one.id, one.version, first, agreed))
  const [asked, setAsked] = useState<Schema['PossibleOut'] | null>(null)
  const breaks = move.error instanceof ApiError && move.error.code === 'rounds.breaks' && asked
  const go = (to: Schema['PossibleOut'], override: boolean) => {
    setAsked(to)
    move.mutate({
      id: one.id,
      version: one.version,
      week: to.on,
      on: to.on,
      member_id: to.member_id,
      position: to.position,
      override,
      agreed,
      why,
    })
  }
  return (
    <section aria-label="Where it could go" className="flex min-h-0 flex-col border-l border-line">
      <h2 className="flex items-baseline gap-4 px-5 pt-2 pb-1">
        Where it could go
        <span className="text-fine font-normal text-soft">within two weeks, with what each would cost</span>
      </h2>
      {may && told && (
        <p className="flex items-center gap-3 px-5 pb-1">
          <label className="shrink-0">
            <input
              type="checkbox"
              checked={agreed}
              onChange={(event) => setAgreed(event.target.checked)}
              className="mr-1.5 size-4 align-[-3px]"
            />
            agreed with them
          </label>
          {agreed ? (
            <span className="text-soft">It is promised at once, and nobody is written to.</span>
          ) : (
            <input
              aria-label="Why it moves, for the customer"
              placeholder="Why it moves: they are written to in five minutes"
              value={why}
              maxLength={160}
              onChange={(event) => setWhy(event.target.value)}
              className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2"
            />
          )}
        </p>
      )}
      {move.error && (
        <p
          role="alert"
          className="mx-5 flex items-center gap-3 border-l-4 border-oxide pl-2.5 font-semibold text-oxide"
        >
          {move.error.message}
          {breaks && (
            <Button look="quiet" className="min-h-7" onClick={() => go(asked, true)}>
              Move it all the same
            </Button>
          )}
        </p>
      )}
      {error && (
        <p role="alert" className="mx-5 text-oxide">
          {error.message}
        </p>
      )}
      <div tabIndex={0} role="region" aria-label="Places" className="min-h-0 flex-1 overflow-auto px-5">
        <table className="w-full border-collapse narrow:min-w-[560px]">
          <thead className="sr-only">
            <tr>
              <th scope="col">Day</th>
              <th scope="col">Begins</th>
              <th scope="col">Who</th>
              <th scope="col">Driving</th>
              <th scope="col">Back</th>
              <th scope="col">What it breaks</th>
              <th scope="col">Move</th>
            </tr>
          </thead>
          <tbody>
            {data?.map((to) => {
              const here = to.on === one.on && to.member_id === one.member_id
              return (
                <tr key={`${to.on}-${to.member_id}`} className="border-b border-line">
                  <th scope="row" className="w-28 py-0.5 text-left font-bold">
                    {weekday(to.on)} {shortDate(day(to.on), today)}
                  </th>
                  <td className="w-24">about {clock(to.begins)}</td>
                  <td className="w-28 wrap-break-word">{to.name.split(' ')[0]}</td>
                  <td className="w-32">
                    {here ? 'it is here' : `${to.driving >= 0 ? '+' : '−'}${Math.abs(to.driving)} min driving`}
                  </td>
                  <td className="w-24 text-soft">back {clock(to.ends ?? 0)}</td>
                  <td className={to.faults.length ? 'font-semibold text-oxide' : 'text-soft'}>
                    {[...to.faults, ...to.lateness].join('; ') || 'all kept'}
                  </td>
                  <td className="w-20 text-right">
                    {may && !here && (
                      <Button
                        look="quiet"
                        className="min-h-7 px-1"
                        aria-label={`Move here: ${placeWords(to, today)}`}
                        disabled={move.isPending}
                        onClick={() => go(to, false)}
                      >
                        Move here
                      </Button>
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
        {data?.length === 0 && <p className="py-2 text-soft">Nobody who may do it works within two weeks.</p>}
      </div>
    </section>
  )
}
