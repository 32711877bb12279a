import clsx from 'clsx'
import { memo } from 'react'

import type { Schema } from '../../api/client'
import { HeaterSign } from '../../drawing/HeaterSign'
import { Lens } from '../../drawing/Lens'
import { addDays, day, dueWords, shortMonthYear, yearsBetween } from '../../lib/dates'
import { shown, type Units } from '../../lib/units'
import { COMPONENTS, KINDS } from '../../lib/words'
import type { Axis } from './axis'

export const ROW_HEIGHT = 46
export const LABEL_WIDTH = 306

interface Props {
  row: Schema['OutlookRowOut']
  /** Its place in the list. */
  number: number
  axis: Axis
  today: string
  units: Units
  chosen: boolean
  onChoose: (id: number, byKey: boolean) => void
}

const LANES: Record<Schema['Component'], { y: number; height: number; className: string; guessed: string }> = {
  sediment: { y: 13, height: 20, className: 'fill-ochre', guessed: 'stroke-ochre' },
  scale: { y: 13, height: 20, className: 'fill-ochre', guessed: 'stroke-ochre' },
  anode: { y: 37, height: 13, className: 'fill-moss', guessed: 'stroke-moss' },
  relief_valve: { y: 25, height: 10, className: 'fill-slate', guessed: 'stroke-slate' },
  expansion_tank: { y: 25, height: 7, className: 'fill-ash', guessed: 'stroke-ash' },
  tank: { y: 25, height: 9, className: 'fill-water', guessed: 'stroke-water' },
}

/** Caps close on a day; windows are guesses. */
const CAPPED: Schema['Component'][] = ['relief_valve', 'expansion_tank']

/** Remembered: while the list scrolls, only rows that come into view are drawn. */
export const OutlookRow = memo(function OutlookRow({ row, number, axis, today, units, chosen, onChoose }: Props) {
  const width = axis.x.range()[1] ?? 0
  const age = row.installed_on ? `${yearsBetween(row.installed_on, today)} y` : 'age unknown'
  const size = row.capacity_l && row.kind.endsWith('_tank') ? ` ${shown(units, 'volume_l', row.capacity_l)}` : ''
  return (
    <button
      type="button"
      data-row={number}
      aria-pressed={chosen}
      onClick={(event) => onChoose(row.id, event.detail === 0)}
      className={clsx(
        'flex w-full items-center border-b border-line text-left',
        chosen ? 'bg-sheet shadow-[inset_4px_0_0_var(--color-copper)]' : 'hover:bg-sheet/60',
      )}
      style={{ minHeight: ROW_HEIGHT }}
    >
      <span className="flex shrink-0 items-center gap-3 pl-5" style={{ width: LABEL_WIDTH }}>
        <HeaterSign kind={row.kind} depthShare={row.depth_share} anodeLeft={row.anode_left} height={30} />
        <span className="min-w-0 pr-2">
          <span className="block leading-5 font-bold">
            {row.hazard && <span className="text-oxide">! </span>}
            {row.site}, {row.street}
          </span>
          <span className="block text-fine text-soft">
            {KINDS[row.kind]}
            {size}, {row.installed_on && row.install_certainty === 'estimated' ? 'about ' : ''}
            {age} · {row.zone}
          </span>
        </span>
        <span className="sr-only">
          {row.hazard && `Hazard: ${row.hazard} `}
          {row.guessed.length > 0 && `Rests on a guess: ${row.guessed.join('; ')}. `}
          {row.windows.map((one) => `${COMPONENTS[one.component]}: ${dueWords(one.due_on, today)}.`).join(' ')}
        </span>
      </span>
      {/* As high as its row, which words that wrap make higher; by itself a drawing would be 150. */}
      <span className="relative shrink-0 self-stretch" style={{ width }}>
        <svg width={width} height="100%" aria-hidden className="absolute inset-0">
          {axis.months.map((month) => (
            <line
              key={month.at}
              x1={axis.x(month.at)}
              x2={axis.x(month.at)}
              y2="100%"
              className="stroke-line"
              strokeWidth={month.isJanuary ? 1.6 : 0.7}
            />
          ))}
          <line x1={axis.x(day(today))} x2={axis.x(day(today))} y2="100%" className="stroke-water" strokeWidth="1.5" />
          {row.windows.map((one) => (
            <Window key={one.component} window={one} axis={axis} today={today} guessed={row.guessed.length > 0} />
          ))}
        </svg>
      </span>
    </button>
  )
})

function Window({
  window,
  axis,
  today,
  guessed,
}: {
  window: Schema['WindowOut']
  axis: Axis
  today: string
  guessed: boolean
}) {
  if (window.component === 'tank') return <TankMark due={window.due_on} axis={axis} />
  const lane = LANES[window.component]
  const due = window.due_on ? day(window.due_on) : null
  const overdue = due !== null && due < axis.start
  const inView = due !== null && !overdue && due <= axis.end
  return (
    <g>
      {CAPPED.includes(window.component) ? (
        <CapWedge component={window.component} latest={window.latest_on} axis={axis} today={today} />
      ) : (
        <Lens
          reachedDays={window.reached_days}
          x={(days) => axis.x(addDays(window.as_of, days))}
          y={lane.y}
          height={lane.height}
          className={guessed ? `${lane.className} ${lane.guessed} [fill-opacity:0.3]` : lane.className}
          dashed={guessed}
        />
      )}
      {overdue && (
        <>
          <path d={`M3 ${lane.y}l6-4v8z`} className="fill-copper" />
          {lane.y < 20 && (
            <text x={12} y={lane.y + 3.5} className="fill-copper-deep text-[10px] font-semibold">
              {shortMonthYear(due)}
            </text>
          )}
        </>
      )}
      {inView && !CAPPED.includes(window.component) && (
        <circle cx={axis.x(due)} cy={lane.y} r={3.6} className="fill-sheet stroke-copper" strokeWidth="2.2" />
      )}
    </g>
  )
}

/** A cap that nothing lengthens: a wedge that closes on its last day, or the days gone by since. */
function CapWedge({
  component,
  latest,
  axis,
  today,
}: {
  component: Schema['Component']
  latest: string | null
  axis: Axis
  today: string
}) {
  if (!latest) return null
  const { y, height, className } = LANES[component]
  const end = day(latest)
  if (end > axis.end + 90 * 86_400_000) return null
  if (end < axis.start) return null
  const late = end < day(today)
  return (
    <>
      {late ? (
        <line
          x1={axis.x(end)}
          x2={axis.x(day(today))}
          y1={y}
          y2={y}
          className="stroke-slate"
          strokeWidth="2.6"
          strokeDasharray="3 3"
        />
      ) : (
        <path
          d={`M${axis.x(addDays(latest, -75))} ${y}L${axis.x(end)} ${y - height / 2}V${y + height / 2}Z`}
          className={className}
        />
      )}
      <line
        x1={axis.x(end)}
        x2={axis.x(end)}
        y1={y - height / 2 - 3}
        y2={y + height / 2 + 3}
        className="stroke-slate"
        strokeWidth="2.4"
      />
    </>
  )
}

/** When the tank itself is likelier to fail within a year than the company accepts. */
function TankMark({ due, axis }: { due: string | null; axis: Axis }) {
  if (!due) return null
  const at = day(due)
  if (at > axis.end || at < axis.start) return null
  return (
    <rect
      x={axis.x(at) + 7}
      y={LANES.tank.y - 4}
      width="8"
      height="8"
      className="fill-sheet stroke-water"
      strokeWidth="2"
    />
  )
}
