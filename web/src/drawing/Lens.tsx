import { area, curveMonotoneX } from 'd3-shape'

import { lensOutline } from './lens'

interface Props {
  reachedDays: (number | null)[]
  /** Position of a day counted from the forecast's own. */
  x: (days: number) => number
  y: number
  height: number
  className: string
  /** An outline in dashes: it estimated. */
  dashed?: boolean
}

export function Lens({ reachedDays, x, y, height, className, dashed = false }: Props) {
  const outline = lensOutline(reachedDays)
  const draw = area<{ days: number; width: number }>()
    .x((point) => x(point.days))
    .y0((point) => y - (point.width * height) / 2)
    .y1((point) => y + (point.width * height) / 2)
    .curve(curveMonotoneX)
  return <path d={draw(outline) ?? undefined} className={className} {...(dashed ? { strokeDasharray: '3 2' } : {})} />
}
