import clsx from 'clsx'
import { useRef } from 'react'

import type { Schema } from '../../api/client'
import { duration, FILLS, INKS, MARKS, serviceWords, STROKES } from '../../records/roundWords'
import { clock, hour } from '../../lib/clock'
import { useRows } from '../../ui/useRows'
import type { Carry } from './useCarry'

interface Props {
  rounds: Schema['RoundOut'][]
  width: number
  height: number
  chosen: number | undefined
  onChoose: (id: number) => void
  carry: Carry
  /** Deals out somebody's day; left out where nobody may. */
  onAway?: ((round: Schema['RoundOut']) => void) | undefined
}

const TOP = 34
const LEFT = 46
const NOTE = 15

/** Rounds as ropes: a visit is a knot, driving is twisted, slack hangs. A knot is drawn to where it is wanted. */
export function Ropes({ rounds, width, height, chosen, onChoose, carry, onAway }: Props) {
  const first = Math.floor(Math.min(...rounds.map((one) => one.begins), 480) / 60) * 60
  const last = Math.max(...rounds.map((one) => Math.max(one.ends, one.back)), 960) + 12
  const y = (minutes: number) => TOP + ((minutes - first) / (last - first)) * (height - TOP - 6)
  const column = (width - LEFT) / Math.max(rounds.length, 1)
  const frame = useRef<SVGSVGElement>(null)
  const count = rounds.reduce((sum, one) => sum + one.calls.length, 0)
  const onKeyDown = useRows(frame, { count, across: true })
  const before = rounds.map((_, at) => rounds.slice(0, at).reduce((sum, one) => sum + one.calls.length, 0))
  const under = carry.visit && carry.target && rounds.findIndex((one) => one.member_id === carry.target!.member_id)
  const hours = []
  for (let at = first; at <= last; at += 60) hours.push(at)
  return (
    <svg
      ref={frame}
      width={width}
      height={height}
      role="group"
      aria-label="Rounds of the day"
      className="select-none"
      onKeyDown={carry.byKeys ? undefined : onKeyDown}
    >
      {hours.map((at) => (
        <g key={at}>
          <line x1={LEFT - 6} x2={width - 8} y1={y(at)} y2={y(at)} className="stroke-line" strokeWidth="0.7" />
          <text x={LEFT - 10} y={y(at) + 4} textAnchor="end" className="fill-soft text-[11px]">
            {hour(at)}
          </text>
        </g>
      ))}
      {rounds.map((one, at) => (
        <rect
          key={one.member_id}
          data-member={one.member_id}
          data-first={first}
          data-last={last}
          x={LEFT + column * at}
          y={y(first)}
          width={column}
          height={y(last) - y(first)}
          fill="transparent"
        />
      ))}
      {rounds.map((one, at) => (
        <Rope
          key={one.member_id}
          one={one}
          at={at}
          before={before[at]!}
          x={LEFT + 14 + column * at}
          room={column - 34}
          y={y}
          chosen={chosen}
          onChoose={onChoose}
          carry={carry}
          onAway={onAway}
        />
      ))}
      {carry.visit && carry.target && under !== null && under >= 0 && carry.isOnBoard && (
        <rect
          x={LEFT + 14 + column * under - 8}
          y={y(carry.target.begins)}
          width="16"
          height={Math.max(y(carry.target.begins + carry.visit.minutes) - y(carry.target.begins), 8)}
          rx="8"
          className={`fill-none ${carry.target.faults.length > 0 ? 'stroke-oxide' : 'stroke-copper'}`}
          strokeWidth="3"
          strokeDasharray="4 3"
        />
      )}
    </svg>
  )
}

interface RopeProps {
  one: Schema['RoundOut']
  at: number
  /** Visits of the rounds before it. */
  before: number
  x: number
  room: number
  y: (minutes: number) => number
  chosen: number | undefined
  onChoose: (id: number) => void
  carry: Carry
  onAway: Props['onAway']
}

function Rope({ one, at, before, x, room, y, chosen, onChoose, carry, onAway }: RopeProps) {
  const stroke = STROKES[at % STROKES.length]!
  const fill = FILLS[at % FILLS.length]!
  const letters = Math.floor(room / 6.6)
  const fine = Math.floor(room / 5)
  const cut = (text: string) => (text.length > letters ? `${text.slice(0, Math.max(letters - 1, 1))}…` : text)
  const firstName = one.name.split(' ')[0] ?? one.name
  const lastEnd = one.calls.at(-1)?.ends ?? one.begins
  return (
    <g>
      <text x={x - 6} y={14} className={`${fill} text-[15px] font-bold`}>
        {MARKS[at]}
      </text>
      <text x={x + 10} y={13} className="fill-ink text-[13px] font-bold">
        {cut(one.helper ? `${firstName} and ${one.helper.split(' ')[0]}` : firstName)}
      </text>
      <text x={x + 10} y={26} className="fill-soft text-[10.5px]">
        {(one.calls.length
          ? `${duration(one.driving)} driving, back ${clock(one.back)}`
          : one.able.filter((word) => word !== 'two people').join(', ')
        ).slice(0, fine)}
      </text>
      {onAway && one.calls.length > 0 && (
        <g
          role="button"
          tabIndex={0}
          aria-label={`${one.name} is away: deal out the day`}
          className="cursor-pointer outline-none [&:focus-visible>rect]:stroke-water"
          onClick={() => onAway(one)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' && event.key !== ' ') return
            event.preventDefault()
            onAway(one)
          }}
        >
          <rect x={x + room - 34} y={-2} width={44} height={26} fill="transparent" strokeWidth="2" />
          <text x={x + room + 6} y={13} textAnchor="end" className="fill-copper-deep text-[11px] underline">
            away?
          </text>
        </g>
      )}
      <line x1={x} x2={x} y1={y(one.begins)} y2={y(one.ends)} className="stroke-line" strokeWidth="2" />
      {one.calls.map((call, number) => {
        const from = one.calls[number - 1]?.ends ?? one.begins
        return (
          <g key={call.appointment.id}>
            <path d={twisted(x, y(from), y(call.arrives))} fill="none" className={stroke} strokeWidth="1.4" />
            {call.begins > call.arrives && (
              <path
                d={slack(x, y(call.arrives), y(call.begins))}
                fill="none"
                className={stroke}
                strokeWidth="1"
                strokeDasharray="1 2.5"
              />
            )}
            <Knot
              call={call}
              number={number}
              row={before + number}
              mark={MARKS[at] ?? ''}
              who={one.name}
              x={x}
              y={y}
              fill={fill}
              cut={cut}
              isChosen={call.appointment.id === chosen}
              onChoose={onChoose}
              carry={carry}
            />
          </g>
        )
      })}
      {one.lunch !== null && one.lunch_minutes > 0 && (
        <text x={x + 12} y={y(one.lunch + one.lunch_minutes / 2) + 4} className="fill-soft text-[10.5px] italic">
          lunch
        </text>
      )}
      {one.calls.length > 0 && (
        <path d={twisted(x, y(lastEnd), y(one.back))} fill="none" className={stroke} strokeWidth="1.4" />
      )}
      {one.calls.length === 0 && (
        <text
          x={x + 12}
          y={y((one.begins + one.ends) / 2)}
          className={`text-[12px] ${INKS[at % INKS.length]!.replace('text-', 'fill-')}`}
        >
          free all day
        </text>
      )}
    </g>
  )
}

interface KnotProps {
  call: Schema['CallOut']
  number: number
  row: number
  mark: string
  who: string
  x: number
  y: (minutes: number) => number
  fill: string
  cut: (text: string) => string
  isChosen: boolean
  onChoose: (id: number) => void
  carry: Carry
}

function Knot({ call, number, row, mark, who, x, y, fill, cut, isChosen, onChoose, carry }: KnotProps) {
  const { appointment } = call
  const top = y(call.begins)
  const tall = Math.max(y(call.ends) - top, 8)
  const promised = appointment.standing === 'promised' || appointment.standing === 'offered'
  const services = serviceWords(appointment.services)
  const site = cut(appointment.site)
  const below = tall >= 2 * NOTE - 5 ? cut(services) : ''
  // What is seen comes first: who speaks to the machine says what they see.
  const rest = [
    `${mark}${number + 1}`,
    `${clock(call.begins)} to ${clock(call.ends)}`,
    below === services ? '' : services,
    site === appointment.site ? '' : appointment.site,
    promised ? 'promised' : '',
    appointment.standing === 'kept' ? 'kept on this day' : '',
    appointment.hazard ? `hazard: ${appointment.hazard}` : '',
    `by ${who}`,
  ]
  const words = `${[site, below].filter(Boolean).join(' ')}, ${rest.filter(Boolean).join(', ')}`
  return (
    <g
      role="button"
      data-row={row}
      tabIndex={0}
      aria-pressed={isChosen}
      aria-label={words}
      aria-keyshortcuts="m"
      className={clsx(
        'cursor-pointer touch-none outline-none [&:focus-visible>rect]:stroke-water',
        carry.visit?.id === appointment.id ? 'opacity-40' : '',
      )}
      onPointerDown={(event) => event.button === 0 && carry.press(appointment, { x: event.clientX, y: event.clientY })}
      onClick={(event) => !carry.wasCarried(event) && onChoose(appointment.id)}
      onKeyDown={(event) => {
        if (event.key === 'm') carry.take(appointment)
        if (event.key !== 'Enter' && event.key !== ' ') return
        event.preventDefault()
        onChoose(appointment.id)
      }}
    >
      <rect x={x - 12} y={top - 1} width={220} height={tall + 2} fill="transparent" strokeWidth="2" />
      {promised && appointment.earliest !== null && appointment.latest !== null && (
        <path
          d={`M${x - 8} ${y(appointment.earliest)}h-5V${y(appointment.latest + appointment.minutes)}h5`}
          fill="none"
          className="stroke-water"
          strokeWidth="2"
        />
      )}
      <rect
        x={x - 6}
        y={top}
        width="12"
        height={tall}
        rx="6"
        className={`${fill} ${isChosen ? 'stroke-copper' : 'stroke-transparent'}`}
        strokeWidth="3"
      />
      {appointment.standing === 'kept' && <circle cx={x} cy={top + tall / 2} r="2.4" className="fill-sheet" />}
      {appointment.hazard && <path d={`M${x - 15} ${top + 8}l5-8 5 8z`} className="fill-oxide" />}
      <text
        x={x + 12}
        y={top + Math.min(tall / 2 + 4, 11)}
        className={`fill-ink text-[12px] ${isChosen ? 'font-bold underline' : 'font-semibold'}`}
      >
        {site}
      </text>{' '}
      {below && (
        <text x={x + 12} y={top + 24} className="fill-soft text-[10.5px]">
          {below}
        </text>
      )}
    </g>
  )
}

/** Driving: the rope twists, once for about every eight pixels. */
function twisted(x: number, from: number, to: number): string {
  const long = to - from
  if (long <= 0) return ''
  const turns = Math.max(1, Math.round(long / 8))
  const step = long / turns
  let path = `M${x} ${from}`
  for (let turn = 0; turn < turns; turn++) path += `q${turn % 2 ? -5 : 5} ${step / 2} 0 ${step}`
  return path
}

/** Waiting: the rope hangs. */
function slack(x: number, from: number, to: number): string {
  return `M${x} ${from}q9 ${(to - from) / 2} 0 ${to - from}`
}
