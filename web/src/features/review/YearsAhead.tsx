import { max } from 'd3-array'
import { scaleBand, scaleLinear } from 'd3-scale'

import type { Schema } from '../../api/client'

interface Props {
  years: Schema['YearAheadOut'][]
  today: string
  width: number
  height: number
}

const LEFT = 34
const FOOT = 44

/**
 * Tanks in the twelve months that end in each year: those that would fail, filled; those due for replacement by what
 * is accepted, a frame about them.
 */
export function YearsAhead({ years, today, width, height }: Props) {
  const x = scaleBand()
    .domain(years.map((one) => String(one.ahead)))
    .range([LEFT, width])
    .padding(0.28)
  const y = scaleLinear()
    .domain([0, Math.max(1, max(years, (one) => Math.max(one.failing, one.due)) ?? 1)])
    .nice()
    .range([height - FOOT, 8])
  const from = Number(today.slice(0, 4))
  const words = years.map(
    (one) =>
      `${one.ahead === 0 ? 'within 12 months' : `in year ${one.ahead + 1}`} ` +
      `${Math.round(one.failing)} fail, ${one.due} are due`,
  )
  return (
    <svg width={width} height={height} role="img" aria-label={`Tanks by year: ${words.join('; ')}`}>
      {y.ticks(5).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={width} y1={y(tick)} y2={y(tick)} className="stroke-line" />
          <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" className="fill-soft text-fine">
            {tick}
          </text>
        </g>
      ))}
      {years.map((one) => {
        const at = x(String(one.ahead)) ?? 0
        const wide = x.bandwidth()
        return (
          <g key={one.ahead}>
            <rect x={at} width={wide} y={y(one.failing)} height={y(0) - y(one.failing)} className="fill-ochre" />
            <rect
              x={at - 2.5}
              width={wide + 5}
              y={y(one.due)}
              height={y(0) - y(one.due)}
              className="fill-none stroke-copper"
              strokeWidth="2"
            />
            <text x={at + wide / 2} y={height - FOOT + 15} textAnchor="middle" className="fill-soft text-fine">
              {from + one.ahead + 1}
            </text>
          </g>
        )
      })}
      <rect x={LEFT} y={height - 14} width="12" height="10" className="fill-ochre" />
      <text x={LEFT + 18} y={height - 5} className="fill-ink text-fine">
        would fail if left alone
      </text>
      <rect x={LEFT + 158} y={height - 14} width="12" height="10" className="fill-none stroke-copper" strokeWidth="2" />
      <text x={LEFT + 176} y={height - 5} className="fill-ink text-fine">
        due for replacement
      </text>
    </svg>
  )
}
