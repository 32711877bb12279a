import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { clockIn, dayIn, day, shortDate } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Empty, Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { Away } from './Away'
import { CarryWords } from './CarryWords'
import { useCarry, type Carry } from './useCarry'
import { Basins, firstWorkingDay, shifted } from './Basins'
import { Emergency } from './Emergency'
import { Planning } from './Planning'
import { dayOptions, seasonOptions, unplacedOptions, weeksOptions } from '../../records/roundQueries'
import { Ropes } from './Ropes'
import { RoundsMap } from './RoundsMap'
import { Unplaced } from './Unplaced'
import { VisitPanel } from './VisitPanel'
import { weekday } from '../../records/roundWords'

/** A fortnight's days, one day's rounds on the map and as ropes, and what is still to place. */
export function RoundsPage() {
  const { today } = useCompany()
  const plans = useMay('plan')
  const [address, setAddress] = useSearchParams()
  const change = (name: string, value: string) =>
    setAddress(
      (now) => {
        if (value) now.set(name, value)
        else now.delete(name)
        return now
      },
      { replace: true },
    )
  const from = address.get('from') || today
  const season = useQuery(seasonOptions)
  const weeks = useQuery(weeksOptions(from, 2))
  const on = address.get('on') || (firstWorkingDay(weeks.data ?? [], today) ?? from)
  const found = useQuery(dayOptions(on))
  const week = weeks.data?.find((one) => one.days.some((each) => each.on === on))?.week ?? on
  const unplaced = useQuery(unplacedOptions(week))
  const chosenId = Number(address.get('visit')) || undefined
  const choose = (id: number) => change('visit', id === chosenId ? '' : String(id))
  const [away, setAway] = useState<Schema['RoundOut'] | null>(null)
  const carry = useCarry({
    on,
    rounds: found.data?.rounds ?? [],
    first: from < today ? today : from,
    may: plans,
    onMoved: (to) => change('on', to),
  })
  const error = weeks.error ?? found.error ?? season.error
  const every = [
    ...(found.data?.rounds.flatMap((one) => one.calls.map((call) => call.appointment)) ?? []),
    ...(found.data?.without_time ?? []),
    ...(unplaced.data?.rows ?? []),
  ]
  const chosen = every.find((one) => one.id === chosenId)
  if (error)
    return (
      <>
        <h1 className="sr-only">Rounds</h1>
        <Failed error={error} onRetry={() => void weeks.refetch()} />
      </>
    )
  if (!weeks.data || !season.data)
    return (
      <>
        <h1 className="sr-only">Rounds</h1>
        <Loading what="the rounds" />
      </>
    )
  return (
    <div className="flex h-full min-h-[680px] flex-col">
      <h1 className="sr-only">Rounds</h1>
      <div className="flex min-h-[38px] shrink-0 flex-wrap items-center gap-y-1 border-b narrow:px-3 border-line px-5">
        <Sentence on={on} today={today} rounds={found.data?.rounds ?? []} />
        <div className="flex-1" />
        <span className="mr-4 text-soft">
          On paper:{' '}
          <a
            href={`/api/rounds/days/${on}/sheet.pdf`}
            target="_blank"
            rel="noreferrer"
            className="text-copper-deep underline underline-offset-2"
          >
            day
          </a>
          ,{' '}
          <a
            href={`/api/rounds/weeks/${week}/plan.pdf`}
            target="_blank"
            rel="noreferrer"
            className="text-copper-deep underline underline-offset-2"
          >
            week
          </a>
        </span>
        <Link to={`/rounds/stock?on=${on}`} className="mr-4 text-copper-deep underline underline-offset-2">
          Trucks
        </Link>
        <Link to="/rounds/customers" className="mr-4 text-copper-deep underline underline-offset-2">
          Customers
        </Link>
        <Link to="/rounds/money" className="mr-4 text-copper-deep underline underline-offset-2">
          Money
        </Link>
        <Link to="/rounds/season" className="mr-4 text-copper-deep underline underline-offset-2">
          The season
        </Link>
        {plans && on === today && <Emergency today={today} />}
        {plans && <Planning season={season.data} today={today} />}
      </div>
      <div
        className={clsx(
          'flex h-[72px] shrink-0 items-end gap-3 px-5 narrow:overflow-x-auto',
          'narrow:h-[92px] narrow:px-2 narrow:[&>*]:shrink-0',
        )}
      >
        <Button
          look="quiet"
          aria-label="Two weeks earlier"
          className="mb-2 px-1"
          onClick={() => change('from', shifted(from, -14))}
        >
          <ChevronLeft size={20} aria-hidden />
        </Button>
        <Basins
          weeks={weeks.data}
          chosen={on}
          today={today}
          onChoose={(next) => change('on', next)}
          under={carry.target && carry.target.on !== on ? carry.target.on : undefined}
        />
        <Button
          look="quiet"
          aria-label="Two weeks later"
          className="mb-2 px-1"
          onClick={() => change('from', shifted(from, 14))}
        >
          <ChevronRight size={20} aria-hidden />
        </Button>
        <Came season={season.data} week={weeks.data.find((one) => one.week === week)} today={today} />
      </div>
      <CarryWords carry={carry} rounds={found.data?.rounds ?? []} on={on} today={today} />
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        {found.data ? (
          <Day
            data={found.data}
            chosen={chosenId}
            onChoose={choose}
            carry={carry}
            onAway={plans && on >= today ? setAway : undefined}
          />
        ) : (
          <Loading what="the day" />
        )}
      </div>
      <div className="h-[196px] shrink-0 overflow-hidden border-t border-ink narrow:h-auto">
        {chosen ? (
          <VisitPanel
            key={`${chosen.id}-${chosen.version}`}
            one={chosen}
            first={from < today ? today : from}
            today={today}
            may={plans}
            onClose={() => change('visit', '')}
            onMoved={(to) => change('on', to)}
          />
        ) : (
          <Unplaced data={unplaced.data} week={week} today={today} onChoose={choose} carry={carry} />
        )}
      </div>
      {away && <Away round={away} on={on} onClose={() => setAway(null)} />}
    </div>
  )
}

function Sentence({ on, today, rounds }: { on: string; today: string; rounds: Schema['RoundOut'][] }) {
  const { driving_is_estimated } = useCompany()
  const visits = rounds.reduce((sum, one) => sum + one.calls.length, 0)
  const promised = rounds.flatMap((one) => one.calls).filter((call) => call.appointment.standing === 'promised').length
  const driving = rounds.reduce((sum, one) => sum + one.driving, 0)
  const going = rounds.filter((one) => one.calls.length > 0).length
  return (
    <p className="text-soft">
      The rounds of{' '}
      <strong className="text-ink">
        {weekday(on)} {shortDate(day(on), today)}
      </strong>
      : {visits} visits
      {going > 0 && ` in ${going} ${going === 1 ? 'round' : 'rounds'}, ${Math.round(driving / going)} min driving each`}
      {driving_is_estimated && going > 0 && ', estimated by the straight line'}
      {promised > 0 && `; ${promised} ${promised === 1 ? 'promise stays where it is' : 'promises stay where they are'}`}
      .
    </p>
  )
}

/** What the plan in force came to, beside the days. */
function Came({
  season,
  week,
  today,
}: {
  season: Schema['PlannedSeasonOut']
  week: Schema['LoadWeekOut'] | undefined
  today: string
}) {
  const { timezone } = useCompany()
  if (!season.run) return null
  const placed = week ? week.days.reduce((sum, one) => sum + one.visits, 0) : 0
  const left = week ? week.visits - placed : 0
  return (
    <p className="mb-1.5 ml-2 min-w-0 text-fine leading-snug text-soft">
      <strong className="block text-body text-ink">
        Plan of {shortDate(day(dayIn(timezone, season.run.asked_at)), today)}, {clockIn(timezone, season.run.asked_at)}
      </strong>
      {week && week.past_cap > 0 && (
        <span className="block font-semibold text-oxide">{week.past_cap} of this week come past their latest day</span>
      )}
      {season.run.message ? (
        <Link to="/rounds/season" className="font-semibold text-oxide underline underline-offset-2">
          more is promised than can be kept
        </Link>
      ) : !week || week.visits === 0 ? (
        'nothing is planned for this week'
      ) : left > 0 ? (
        `${left} of this week without a day`
      ) : (
        'every visit of this week has a day'
      )}
    </p>
  )
}

function Day({
  data,
  chosen,
  onChoose,
  carry,
  onAway,
}: {
  data: Schema['DayOut']
  chosen: number | undefined
  onChoose: (id: number) => void
  carry: Carry
  onAway: ((round: Schema['RoundOut']) => void) | undefined
}) {
  const [frame, size] = useSize()
  const [side, space] = useSize()
  if (data.rounds.length === 0) {
    return <Empty>Nobody works on this day. Choose another above; who works when is set under Settings, Crew.</Empty>
  }
  return (
    <>
      <div ref={frame} className="min-h-0 w-[38%] shrink-0 overflow-hidden narrow:h-[300px] narrow:w-full">
        {size.width > 0 && (
          <RoundsMap rounds={data.rounds} width={size.width} height={size.height} chosen={chosen} onChoose={onChoose} />
        )}
      </div>
      <div
        className={clsx(
          'flex min-h-0 min-w-0 flex-1 border-l border-line bg-sheet',
          'narrow:flex-none narrow:overflow-x-auto',
        )}
      >
        <div ref={side} className="min-h-0 min-w-0 flex-1 overflow-hidden narrow:h-[560px] narrow:min-w-[640px]">
          {space.width > 0 && (
            <Ropes
              rounds={data.rounds}
              width={space.width}
              height={space.height - 2}
              chosen={chosen}
              onChoose={onChoose}
              carry={carry}
              onAway={onAway}
            />
          )}
        </div>
      </div>
    </>
  )
}
