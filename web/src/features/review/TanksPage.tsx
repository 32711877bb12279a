import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { HeaterSign } from '../../drawing/HeaterSign'
import { monthWords, yearsBetween, yearsWords } from '../../lib/dates'
import { FACTORS, KINDS } from '../../lib/words'
import { Empty, Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { KeptAt } from './KeptAt'
import { replacementsOptions } from './queries'
import { ReviewNav } from './ReviewNav'
import { percent } from './words'
import { YearsAhead } from './YearsAhead'

/** Which tanks will fail, and how many to expect: whom to make an offer before the floor is wet. */
export function TanksPage() {
  const { today } = useCompany()
  const { data, error, refetch } = useQuery(replacementsOptions)
  const [frame, size] = useSize()
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Tanks near their end</h1>
      <ReviewNav />
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the tanks" />}
      {data?.tanks === 0 && <Empty>No tank is on record. Tankless heaters have no end that is forecast.</Empty>}
      {data && data.tanks > 0 && (
        <div className="flex min-h-0 flex-1 narrow:flex-col">
          <section aria-label="The likeliest to fail" className="flex min-w-0 flex-1 flex-col">
            <p className="shrink-0 border-b border-line px-5 py-2 text-soft">
              The {data.likeliest.length} likeliest to fail within 12 months. The line within a bar is where the chance
              may lie, eight times in ten; the stroke across it is what is accepted before a new heater is proposed.
              <KeptAt at={data.kept_at} />
            </p>
            <ul className="min-h-0 flex-1 overflow-y-auto px-5" tabIndex={0} aria-label="Tanks">
              {data.likeliest.map((one) => (
                <Tank key={one.heater_id} one={one} today={today} />
              ))}
            </ul>
          </section>
          <aside
            aria-label="Years ahead"
            tabIndex={0}
            className={clsx(
              'w-[400px] shrink-0 overflow-y-auto border-l border-line bg-sheet p-5',
              'narrow:w-full narrow:border-l-0',
            )}
          >
            <Ahead data={data} />
            <h2 className="mt-4 font-bold">In the 12 months to {monthWords(today).split(' ')[0]} of each year</h2>
            <div ref={frame} className="mt-2 h-[230px]">
              {size.width > 0 && (
                <YearsAhead years={data.years} today={today} width={size.width} height={size.height} />
              )}
            </div>
            <Zones zones={data.zones} />
            <Taught taught={data.taught} />
            <p className="mt-4 text-soft">
              A failure is a tank that leaks or rusts through. Its age counts, and more the years without an anode that
              works, hard water, high pressure, a hot setting and what was seen on it. Replacing one is work for the
              licence: gas or electricity, the flue, and the relief valve with its pipe.
            </p>
          </aside>
        </div>
      )}
    </div>
  )
}

function Ahead({ data }: { data: Schema['ReplacementsOut'] }) {
  const [next] = data.years
  if (!next) return null
  return (
    <p className="text-lead">
      Left alone, about <strong>{Math.round(next.failing)}</strong> of {data.tanks} tanks fail within 12 months.{' '}
      <strong>{next.due}</strong> are past what is accepted today or will be by then: what a new one costs, against what
      a leak does where each stands.
    </p>
  )
}

function Zones({ zones }: { zones: Schema['ZoneTanksOut'][] }) {
  const due = zones.filter((one) => one.due > 0)
  if (due.length === 0) return null
  return (
    <>
      <h2 className="mt-4 font-bold">Due within 12 months, by water</h2>
      <ul className="mt-1">
        {due.map((one) => (
          <li key={one.zone_id} className="flex gap-3 border-b border-line py-0.5">
            <Link
              to={`/water/${one.zone_id}`}
              className="min-w-0 flex-1 wrap-break-word text-copper-deep hover:underline"
            >
              {one.name}
            </Link>
            <span>
              <strong>{one.due}</strong> of {one.tanks} tanks
            </span>
          </li>
        ))}
      </ul>
    </>
  )
}

/** How much of it is the company's own: what its tanks taught, and how sure that is. */
function Taught({ taught }: { taught: Schema['LivesTaughtOut'] }) {
  const { failures, of_all: all, makes } = taught
  return (
    <>
      <h2 className="mt-4 font-bold">What our own tanks taught</h2>
      {failures === 0 ? (
        <p className="mt-1">
          No tank has leaked on our record yet: the handbook’s law stands, and its ranges are wide.
        </p>
      ) : (
        <p className="mt-1">
          {failures === 1 ? 'One tank has' : `${failures} tanks have`} leaked on our record: they fail{' '}
          <strong>{all.times}</strong> times as often as the handbook says, between {all.between[0]} and{' '}
          {all.between[1]}.
        </p>
      )}
      {makes.length > 0 && (
        <ul className="mt-1" aria-label="Makes that differ">
          {makes.map((one) => (
            <li key={one.name} className="flex gap-3 border-b border-line py-0.5">
              <span className="min-w-0 flex-1 wrap-break-word">{one.name}</span>
              <span>
                <strong>{one.times}</strong> times, {one.between[0]} to {one.between[1]}
              </span>
            </li>
          ))}
        </ul>
      )}
    </>
  )
}

function Tank({ one, today }: { one: Schema['TankOut']; today: string }) {
  const reasons = one.reasons.map((factor) => FACTORS[factor]?.[0] ?? factor)
  return (
    <li
      className={clsx(
        'grid grid-cols-[2rem_minmax(11rem,1fr)_minmax(13rem,1.25fr)_8rem] items-center',
        'narrow:grid-cols-[2rem_minmax(0,1fr)] narrow:gap-y-1',
        'gap-x-4 border-b border-line py-1.5',
      )}
    >
      <HeaterSign kind={one.kind} depthShare={one.depth_share} anodeLeft={one.anode_left} height={34} />
      <span className="min-w-0">
        <Link to={`/heaters/${one.heater_id}`} className="block font-bold hover:underline">
          {one.site}
          {one.location && `, ${one.location}`}
        </Link>
        <span className="block text-fine text-soft">
          {one.tag} · {KINDS[one.kind]} · {one.street}
        </span>
      </span>
      <span className="min-w-0 narrow:col-start-2">
        <span className="block wrap-break-word">
          {one.installed_on ? `${yearsWords(yearsBetween(one.installed_on, today))} old` : 'age not known'}
          {one.install_certainty !== 'known' && one.installed_on && ', by estimate'}
        </span>
        <span className="block text-fine text-soft" title={reasons.join(', ')}>
          {reasons.length > 0 ? reasons.join(', ') : 'by its age alone'}
        </span>
      </span>
      <Chance within={one.within_a_year} between={one.between} accepted={one.accepted} />
    </li>
  )
}

function Chance({ within, between, accepted }: { within: number; between: number[]; accepted: number }) {
  const [low = within, high = within] = between
  return (
    <span className="narrow:col-start-2">
      <span className="block text-right">
        <strong>{percent(within)}</strong>{' '}
        <span className="text-fine text-soft">
          {percent(low)} to {percent(high)}
        </span>
      </span>
      <svg width="100%" height="8" aria-hidden className="block">
        <rect width="100%" height="8" className="fill-line" />
        <rect width={`${100 * within}%`} height="8" className="fill-ochre-deep" />
        <rect
          x={`${100 * low}%`}
          y="3"
          width={`${100 * (high - low)}%`}
          height="2"
          className="fill-ink"
          opacity="0.45"
        />
        <rect x={`${100 * accepted}%`} y="0" width="2" height="8" className="fill-ink" />
      </svg>
    </span>
  )
}
