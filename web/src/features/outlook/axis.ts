import { scaleLinear, type ScaleLinear } from 'd3-scale'

import { day } from '../../lib/dates'

const DAY = 86_400_000
const WEEKS_BEFORE = 9
const WEEKS_AFTER = 70

export interface Axis {
  start: number
  end: number
  x: ScaleLinear<number, number>
  months: { at: number; label: string; isJanuary: boolean }[]
}

/** The outlook's time axis: two months back, so that what is overdue has room, and sixteen ahead. */
export function outlookAxis(today: string, width: number): Axis {
  const start = day(today) - WEEKS_BEFORE * 7 * DAY
  const end = day(today) + WEEKS_AFTER * 7 * DAY
  return { start, end, x: scaleLinear([start, end], [0, width]), months: monthsBetween(start, end) }
}

function monthsBetween(start: number, end: number): Axis['months'] {
  const names = new Intl.DateTimeFormat('en', { month: 'short', timeZone: 'UTC' })
  const found: Axis['months'] = []
  const at = new Date(start)
  at.setUTCDate(1)
  at.setUTCMonth(at.getUTCMonth() + 1)
  for (; at.getTime() < end; at.setUTCMonth(at.getUTCMonth() + 1)) {
    const isJanuary = at.getUTCMonth() === 0
    const label = isJanuary ? String(at.getUTCFullYear()) : names.format(at)
    found.push({ at: at.getTime(), label, isJanuary })
  }
  return found
}
