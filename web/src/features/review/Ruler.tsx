import { scaleLog } from 'd3-scale'

import type { Schema } from '../../api/client'
import { timesWords } from './words'

const WIDTH = 96

/** Ratios by name on one ruler: how far each lies from as much as is there. */
export function Ruler({ ratios, label }: { ratios: Schema['RatioOut'][]; label: string }) {
  const furthest = Math.max(1.25, ...ratios.map((one) => Math.max(one.ratio, 1 / one.ratio)))
  const x = scaleLog()
    .domain([1 / furthest, furthest])
    .range([4, WIDTH - 4])
  return (
    <ul aria-label={label}>
      {ratios.map((one) => (
        <li key={one.name} className="flex items-center gap-2">
          <svg width={WIDTH} height="20" aria-hidden className="shrink-0">
            <line x1={x(1)} x2={x(1)} y1="0" y2="20" className="stroke-ink" />
            <line x1={x(1)} x2={x(one.ratio)} y1="10" y2="10" className="stroke-ochre" strokeWidth="3" />
            <circle cx={x(one.ratio)} cy="10" r="4" className="fill-ochre-deep" />
          </svg>
          <span className="min-w-0 flex-1 wrap-break-word">{one.name}</span>
          <span className="shrink-0 text-soft">{timesWords(one.ratio)}</span>
        </li>
      ))}
    </ul>
  )
}
