import { scaleLinear, scaleSqrt } from 'd3-scale'

import type { Schema } from '../../api/client'
import { PRACTICES } from './words'

interface Props {
  row: Schema['WaterPracticesOut']
  /** The largest figures among all plots that are held against each other. */
  most: { cleanings: number; over_days: number }
  width: number
  height: number
  /** Whether each practice is named beside its sign. */
  named?: boolean
}

const LEFT = 46
const FOOT = 34
const FAINT = 'fill-soft text-fine'

/** What each practice costs and leaves on one water: work to the right, days over a limit upwards. */
export function PracticePlot({ row, most, width, height, named = false }: Props) {
  const x = scaleLinear()
    .domain([0, most.cleanings])
    .nice()
    .range([LEFT, width - (named ? 150 : 16)])
  // By its root: the days of soft water could not be told apart beside those of hard water.
  const y = scaleSqrt()
    .domain([0, most.over_days])
    .nice()
    .range([height - FOOT, 12])
  const said = row.practices.map(
    (one) =>
      `${PRACTICES[one.practice].name}: ${one.cleanings.toFixed(1)} cleanings and ` +
      `${Math.round(one.over_days)} days over a heater`,
  )
  return (
    <svg width={width} height={height} role="img" aria-label={said.join('; ')}>
      {[0, 10, 50, 100, 200, 365]
        .filter((tick) => tick <= y.domain()[1]!)
        .map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={x.range()[1]} y1={y(tick)} y2={y(tick)} className="stroke-line" />
            <text x={LEFT - 8} y={y(tick) + 4} textAnchor="end" className={FAINT}>
              {tick}
            </text>
          </g>
        ))}
      {x.ticks(4).map((tick) => (
        <text key={tick} x={x(tick)} y={height - FOOT + 16} textAnchor="middle" className={FAINT}>
          {tick}
        </text>
      ))}
      {named && (
        <text x={LEFT} y={height - 3} className={FAINT}>
          cleanings a heater a year; upwards, days over its limit
        </text>
      )}
      {row.practices.map((one) => (
        <g key={one.practice} transform={`translate(${x(one.cleanings)} ${y(one.over_days)})`}>
          {one.practice === row.followed && (
            <circle r={named ? 13 : 10} className="fill-none stroke-copper" strokeWidth="2" />
          )}
          <PracticeSign practice={one.practice} size={named ? 7 : 5} />
          {named && (
            <text x="18" y="4" className="fill-ink text-fine">
              <tspan className="font-bold">{PRACTICES[one.practice].name}</tspan>
              <tspan x="18" dy="15" className="fill-soft">
                {one.hours.toFixed(1)} h, {Math.round(one.over_days)} days over
              </tspan>
            </text>
          )}
        </g>
      ))}
    </svg>
  )
}

/** A practice is told by its shape, wherever it is drawn. */
export function PracticeSign({ practice, size }: { practice: Schema['Practice']; size: number }) {
  const s = size
  const shapes: Record<Schema['Practice'], string> = {
    condition: `M${-s} 0a${s} ${s} 0 1 0 ${2 * s} 0a${s} ${s} 0 1 0 ${-2 * s} 0z`,
    annual: `M${-s * 0.9} ${-s * 0.9}h${1.8 * s}v${1.8 * s}h${-1.8 * s}z`,
    hard_water_half_yearly: `M0 ${-s * 1.1}L${s * 1.1} ${s * 0.9}H${-s * 1.1}z`,
    long_service: `M0 ${-s * 1.2}L${s * 1.2} 0L0 ${s * 1.2}L${-s * 1.2} 0z`,
  }
  return <path d={shapes[practice]} className={practice === 'condition' ? 'fill-water' : 'fill-ochre-deep'} />
}
