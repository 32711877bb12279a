import { useRef } from 'react'

import type { Schema } from '../../api/client'
import { day, isoDay, shortDate } from '../../lib/dates'
import { weekday } from '../../records/roundWords'
import { useRows } from '../../ui/useRows'

interface Props {
  weeks: Schema['LoadWeekOut'][]
  chosen: string
  today: string
  onChoose: (on: string) => void
  /** The day that a carried visit is held over. */
  under?: string | undefined
}

const WIDTH = 76
const HEIGHT = 54

/** Days as basins that fill: how much of each day's hours is taken. A day on which nobody works has none. */
export function Basins({ weeks, chosen, today, onChoose, under }: Props) {
  const group = useRef<HTMLDivElement>(null)
  const days = weeks.flatMap((week) => week.days.filter((one) => one.capacity > 0 || one.visits > 0))
  const onKeyDown = useRows(group, { count: days.length, across: true })
  return (
    <div ref={group} role="group" aria-label="Days" className="flex items-end gap-5" onKeyDown={onKeyDown}>
      {weeks.map((week) => (
        <div key={week.week} className="flex gap-2">
          {week.days
            .filter((one) => one.capacity > 0 || one.visits > 0)
            .map((one) => (
              <Basin
                key={one.on}
                one={one}
                isChosen={one.on === chosen}
                isUnder={one.on === under}
                number={days.indexOf(one)}
                today={today}
                onChoose={onChoose}
              />
            ))}
          {week.days.every((one) => one.capacity === 0 && one.visits === 0) && (
            <p className="w-44 self-center text-soft">
              Week of {shortDate(day(week.week), today)}:{' '}
              {week.days.find((one) => one.why_closed)?.why_closed ?? 'nobody works'}
            </p>
          )}
        </div>
      ))}
    </div>
  )
}

function Basin({
  one,
  isChosen,
  isUnder,
  number,
  today,
  onChoose,
}: {
  one: Schema['LoadDayOut']
  isChosen: boolean
  isUnder: boolean
  number: number
  today: string
  onChoose: (on: string) => void
}) {
  const full = one.capacity > 0 ? Math.min(one.hours / one.capacity, 1) : 1
  const past = one.on < today
  const outline = `M1 1v${HEIGHT - 10}q0 8 8 8h${WIDTH - 18}q8 0 8-8v-${HEIGHT - 10}`
  const date = `${weekday(one.on)} ${shortDate(day(one.on), today).replace(/ \d{4}$/, '')}`
  const words = `${Math.round(one.hours)} of ${Math.round(one.capacity)} h`
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      aria-label={`${date} ${words}, ${one.visits} visits${one.promised ? `, ${one.promised} promised` : ''}`}
      onClick={() => onChoose(one.on)}
      data-day={one.on}
      data-row={number}
      className={`relative rounded-b-lg ${isUnder ? 'outline-3 outline-copper' : ''}`}
      style={{ width: WIDTH, height: HEIGHT }}
    >
      <svg width={WIDTH} height={HEIGHT} aria-hidden className="absolute inset-0">
        <clipPath id={`basin-${one.on}`}>
          <path d={outline} />
        </clipPath>
        <rect
          clipPath={`url(#basin-${one.on})`}
          x="0"
          y={(HEIGHT - 2) * (1 - full)}
          width={WIDTH}
          height={HEIGHT}
          className={isChosen ? 'fill-water/45' : past ? 'fill-water-pale/50' : 'fill-water-pale'}
        />
        <path
          d={outline}
          fill="none"
          className={isChosen ? 'stroke-copper' : 'stroke-ink'}
          strokeWidth={isChosen ? 2.5 : 1.2}
        />
      </svg>
      <span className="relative block pt-1.5 text-center leading-tight whitespace-nowrap">
        <span className={isChosen ? 'block text-[13px] font-bold' : 'block text-[13px]'}>{date}</span>{' '}
        <span className="block text-fine">{words}</span>
      </span>
    </button>
  )
}

/** The first day that has room for anything, from a day on. */
export function firstWorkingDay(weeks: Schema['LoadWeekOut'][], today: string): string | undefined {
  const days = weeks.flatMap((week) => week.days).filter((one) => one.on >= today && one.capacity > 0)
  return days.find((one) => one.visits > 0)?.on ?? days[0]?.on
}

export function shifted(iso: string, days: number): string {
  return isoDay(day(iso) + days * 86_400_000)
}
