import clsx from 'clsx'
import { min } from 'd3-array'
import { scaleLinear, scaleTime } from 'd3-scale'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords, day, shortMonthYear } from '../../lib/dates'
import { MEASURED, percent, timesWords } from './words'

interface Props {
  components: Schema['AccuracyOut'][]
  chosen: Schema['Component']
  onChoose: (component: Schema['Component']) => void
  today: string
  width: number
  height: number
}

const LEFT = 236
const RIGHT = 118
const AXIS = 26
const FAINT = 'fill-soft text-fine'

const VERDICTS: Record<Schema['Verdict'], string> = {
  holds: 'windows hold',
  too_narrow: 'windows were too narrow',
  too_wide: 'windows were wider than need be',
  unmeasured: 'nothing measured yet',
}

/** Each measurement where it fell in the window that was told before it: tracks of one time axis, as in a log. */
export function Tracks({ components, chosen, onChoose, today, width, height }: Props) {
  const first =
    min(
      components.flatMap((one) => one.checks),
      (one) => day(one.on),
    ) ?? day(today) - 365 * 86_400_000
  const x = scaleTime()
    .domain([first - 20 * 86_400_000, day(today)])
    .range([LEFT, width - RIGHT])
  const tall = Math.min((height - AXIS) / Math.max(components.length, 1), 190)
  const bottom = tall * components.length
  return (
    <div className="relative" style={{ width, height: bottom + AXIS }}>
      <svg width={width} height={bottom + AXIS} aria-hidden className="absolute inset-0">
        {x.ticks(6).map((tick) => (
          <g key={tick.toISOString()}>
            <line x1={x(tick)} x2={x(tick)} y1={0} y2={bottom} className="stroke-line" />
            <text x={x(tick)} y={bottom + 17} textAnchor="middle" className={FAINT}>
              {shortMonthYear(tick.getTime())}
            </text>
          </g>
        ))}
        <line x1={x(day(today))} x2={x(day(today))} y1={0} y2={bottom} className="stroke-ink" strokeWidth="1.5" />
        <text x={x(day(today)) + 6} y={bottom + 17} className="fill-ink text-fine">
          today
        </text>
        {components.map((one, row) => (
          <Track key={one.component} checks={one.checks} x={x} top={row * tall} tall={tall} today={today} />
        ))}
      </svg>
      {components.map((one, row) => (
        <button
          key={one.component}
          type="button"
          aria-pressed={one.component === chosen}
          onClick={() => onChoose(one.component)}
          className={clsx(
            'absolute left-0 flex flex-col items-start justify-center border-l-[3px] pr-3 pl-4 text-left',
            one.component === chosen ? 'border-copper bg-sheet' : 'border-transparent hover:border-line',
          )}
          style={{ top: row * tall + 6, height: tall - 12, width: LEFT - 14 }}
        >
          <strong className="text-lead">{MEASURED[one.component]?.name}</strong>
          {one.inside !== null && (
            <span>
              <strong>{Math.round(one.inside * one.measured)}</strong> of {one.measured} within, {percent(one.inside)}
            </span>
          )}
          <span className="text-soft">{VERDICTS[one.verdict]}</span>
        </button>
      ))}
    </div>
  )
}

interface TrackProps {
  checks: Schema['CheckOut'][]
  x: (at: number) => number
  top: number
  tall: number
  today: string
}

function Track({ checks, x, top, tall, today }: TrackProps) {
  const y = scaleLinear()
    .domain([0, 1])
    .range([top + tall - 14, top + 14])
  const [from, to] = [LEFT, x(day(today))]
  return (
    <g>
      <line x1={0} x2={to + RIGHT} y1={top + tall} y2={top + tall} className="stroke-line" />
      <rect x={from} width={to - from} y={y(0.9)} height={y(0.1) - y(0.9)} className="fill-water-pale" opacity="0.65" />
      <line x1={from} x2={to} y1={y(0.5)} y2={y(0.5)} className="stroke-water" strokeDasharray="2 4" />
      <text x={to + 8} y={y(0.96) + 4} className={FAINT}>
        faster than forecast
      </text>
      <text x={to + 8} y={y(0.5) + 4} className={FAINT}>
        as forecast
      </text>
      <text x={to + 8} y={y(0.04) + 4} className={FAINT}>
        slower than forecast
      </text>
      {checks.map((one) => (
        <Link key={one.heater_id} to={`/heaters/${one.heater_id}`} tabIndex={-1}>
          <Mark at={x(day(one.on))} strayed={one.strayed} y={y(Math.min(Math.max(one.place, 0.01), 0.99))} />
          <title>
            {`${one.site}, ${one.tag}, ${dateWords(one.on, today)}: ${timesWords(one.ratio)} what was ` + 'told'}
          </title>
        </Link>
      ))}
    </g>
  )
}

/** Round within the window, a wedge that points the way it strayed outside of it. */
function Mark({ at, strayed, y }: { at: number; strayed: Schema['Strayed'] | null; y: number }) {
  if (!strayed) return <circle cx={at} cy={y} r="4.2" className="fill-water stroke-sheet hover:fill-copper" />
  const up = strayed === 'faster' ? -1 : 1
  return (
    <path
      d={`M${at - 5} ${y - 3.5 * up}h10l-5 ${8 * up}z`}
      className="fill-ochre-deep stroke-sheet hover:fill-copper"
    />
  )
}
