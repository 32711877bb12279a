import { max } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import { area, curveStepAfter, line, stack } from 'd3-shape'

import type { Schema } from '../../api/client'
import { addDays, day, isoDay, shortMonthYear, weekOf } from '../../lib/dates'
import type { Axis } from './axis'

type Component = Schema['Component']

export const STRATA: { component: Component; name: string; fill: string }[] = [
  { component: 'sediment', name: 'flush', fill: 'fill-ochre' },
  { component: 'scale', name: 'descale', fill: 'fill-ochre-pale' },
  { component: 'anode', name: 'anode', fill: 'fill-moss' },
  { component: 'relief_valve', name: 'relief valve', fill: 'fill-slate' },
  { component: 'expansion_tank', name: 'expansion tank', fill: 'fill-ash' },
]

interface Props {
  weeks: Schema['WeekOut'][]
  /** Another course to hold these against, drawn as an edge. */
  against?: Schema['WeekOut'][]
  today: string
  axis: Axis
  height: number
}

/** Hours of work falling due, week by week, as strata. What is overdue lies in the present week, so that one is cut. */
export function HoursStrata({ weeks, against = [], today, axis, height }: Props) {
  const table = weekly(weeks, today, axis.end)
  const layers = stack<(typeof table)[number], Component>()
    .keys(STRATA.map((one) => one.component))
    .value((week, component) => week.hours[component])(table)
  const total = (week: (typeof table)[number]) => STRATA.reduce((sum, one) => sum + week.hours[one.component], 0)
  const ordinary = max(table.slice(1), total) ?? 1
  const top = Math.max(ordinary * 1.25, 4)
  const y = scaleLinear([0, top], [height, 10]).clamp(true)
  const shape = area<[number, number]>()
    .x((_, at) => axis.x(table[at]!.start))
    .y0((band) => y(band[0]))
    .y1((band) => y(band[1]))
    .curve(curveStepAfter)
  const edge = line<(typeof table)[number]>()
    .x((week) => axis.x(week.start))
    .y((week) => y(total(week)))
    .curve(curveStepAfter)
  const now = table[0] ? total(table[0]) : 0
  const marks = [Math.round(top / 2), Math.round(top / 1.15)]
  return (
    <g>
      {marks.map((hours) => (
        <line
          key={hours}
          x1={0}
          x2={axis.x.range()[1]}
          y1={y(hours)}
          y2={y(hours)}
          className="stroke-line"
          strokeDasharray="2 4"
        />
      ))}
      {layers.map((layer, at) => (
        <path
          key={layer.key}
          d={shape(layer as unknown as [number, number][]) ?? undefined}
          className={`${STRATA[at]!.fill} stroke-ink`}
          strokeWidth="0.6"
        />
      ))}
      {marks.map((hours) => (
        <text
          key={hours}
          x={(axis.x.range()[1] ?? 0) - 4}
          y={y(hours) - 3}
          textAnchor="end"
          className="fill-ink stroke-ground text-[11px] [paint-order:stroke]"
          strokeWidth="3"
        >
          {hours} h a week
        </text>
      ))}
      {against.length > 0 && (
        <path
          d={edge(weekly(against, today, axis.end)) ?? undefined}
          fill="none"
          className="stroke-ink"
          strokeWidth="1.4"
          strokeDasharray="3 2"
        >
          <title>as it is set now</title>
        </path>
      )}
      {now > top && (
        <text x={axis.x(day(today)) + 14} y={20} className="fill-copper-deep text-[11px] font-bold">
          {Math.round(now)} h due now
        </text>
      )}
      <line x1={0} x2={axis.x.range()[1]} y1={height} y2={height} className="stroke-ink" strokeWidth="1.2" />
    </g>
  )
}

/** The same hours month by month, for who does not see the strata. */
export function HoursTable({ weeks, today, end }: { weeks: Props['weeks']; today: string; end: number }) {
  const months = new Map<string, Record<Component, number>>()
  for (const { start, hours } of weekly(weeks, today, end)) {
    const sum = months.get(shortMonthYear(start))
    if (sum) for (const { component } of STRATA) sum[component] += hours[component]
    else months.set(shortMonthYear(start), { ...hours })
  }
  return (
    // A table takes the width that it needs: only a box around it can be hidden.
    <div className="sr-only">
      <table>
        <caption>Hours of work falling due by month; what is overdue stands in the first</caption>
        <thead>
          <tr>
            <th scope="col">Month</th>
            {STRATA.map((one) => (
              <th key={one.component} scope="col">
                {one.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[...months].map(([month, hours]) => (
            <tr key={month}>
              <th scope="row">{month}</th>
              {STRATA.map((one) => (
                <td key={one.component}>{Math.round(hours[one.component])}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** A row a week without gaps, from this week to the axis' end. */
function weekly(weeks: Schema['WeekOut'][], today: string, end: number) {
  const rows = []
  for (let start = day(weekOf(today)); start < end; start = addDays(isoDay(start), 7)) {
    const hours: Record<Component, number> = {
      sediment: 0,
      scale: 0,
      anode: 0,
      relief_valve: 0,
      expansion_tank: 0,
      tank: 0,
    }
    for (const one of weeks) if (day(one.week) === start) hours[one.component] += one.hours
    rows.push({ start, hours })
  }
  return rows
}
