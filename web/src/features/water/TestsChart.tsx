import { max, min } from 'd3-array'
import { scaleLinear, scaleTime } from 'd3-scale'

import type { Schema } from '../../api/client'
import { day } from '../../lib/dates'
import { label, shown, type Units } from '../../lib/units'

const FAINT = 'fill-soft text-fine'

/** Hardness and alkalinity of the tests, over time; the zone's own filled, those of single sites hollow. */
export function TestsChart({
  tests,
  units,
  width,
  height,
}: {
  tests: Schema['TestOut'][]
  units: Units
  width: number
  height: number
}) {
  const known = tests.filter((one) => one.total_hardness_mg_l !== null || one.alkalinity_mg_l !== null)
  if (known.length === 0) return <p className="text-soft">No test says how hard this water is.</p>
  const newest = known.find((one) => one.total_hardness_mg_l !== null)?.total_hardness_mg_l
  const left = 62
  const first = min(known, (one) => day(one.taken_on))! - 60 * 86_400_000
  const last = max(known, (one) => day(one.taken_on))! + 60 * 86_400_000
  const top =
    1.15 * max(known, (one) => Math.max((one.total_hardness_mg_l ?? 0) * one.may_be_off_by, one.alkalinity_mg_l ?? 0))!
  const x = scaleTime()
    .domain([first, last])
    .range([left, width - 12])
  const y = scaleLinear()
    .domain([0, top])
    .range([height - 24, 8])
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={
        `Hardness and alkalinity in ${known.length} ` +
        `tests${newest == null ? '' : `, the newest hardness ${shown(units, 'hardness_mg_l', newest)}`}`
      }
    >
      {y.ticks(4).map((tick) => (
        <g key={tick}>
          <line x1={left} x2={width - 12} y1={y(tick)} y2={y(tick)} className="stroke-line" />
          <text x={left - 8} y={y(tick) + 4} textAnchor="end" className={FAINT}>
            {shown(units, 'hardness_mg_l', tick).split(' ')[0]}
          </text>
        </g>
      ))}
      <text x={left - 8} y={height - 4} textAnchor="end" className={FAINT}>
        {label(units, 'hardness_mg_l')}
      </text>
      {x.ticks(5).map((tick) => (
        <text key={tick.toISOString()} x={x(tick)} y={height - 4} textAnchor="middle" className={FAINT}>
          {tick.toLocaleDateString('en', { year: 'numeric', month: 'short', timeZone: 'UTC' })}
        </text>
      ))}
      {known.map((one) => {
        const at = x(day(one.taken_on))
        const own = one.site_id !== null
        return (
          <g key={one.id}>
            <title>{`${one.taken_on}, ${one.method}${one.site && `, at ${one.site}`}`}</title>
            {one.alkalinity_mg_l !== null && (
              <rect
                x={at - 3.5}
                y={y(one.alkalinity_mg_l) - 3.5}
                width="7"
                height="7"
                className={own ? 'fill-none stroke-water' : 'fill-water'}
                transform={`rotate(45 ${at} ${y(one.alkalinity_mg_l)})`}
              />
            )}
            {one.total_hardness_mg_l !== null && (
              <>
                <line
                  x1={at}
                  x2={at}
                  y1={y(one.total_hardness_mg_l * one.may_be_off_by)}
                  y2={y(one.total_hardness_mg_l / one.may_be_off_by)}
                  className="stroke-ochre"
                  strokeWidth="2"
                />
                <circle
                  cx={at}
                  cy={y(one.total_hardness_mg_l)}
                  r="4.5"
                  className={own ? 'fill-sheet stroke-ochre-deep' : 'fill-ochre-deep'}
                  strokeWidth="2"
                />
              </>
            )}
          </g>
        )
      })}
    </svg>
  )
}
