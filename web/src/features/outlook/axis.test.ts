import { describe, expect, it } from 'vitest'

import { day } from '../../lib/dates'
import { outlookAxis } from './axis'

describe('the outlook’s axis', () => {
  const axis = outlookAxis('2026-11-24', 600)

  it('has room for what is overdue and reaches past a year', () => {
    expect(axis.x(day('2026-11-24'))).toBeGreaterThan(50)
    expect(axis.x(day('2027-12-24'))).toBeLessThan(600)
    expect(axis.x(axis.end)).toBe(600)
  })

  it('names each month once, and a January by its year', () => {
    expect(new Set(axis.months.map((month) => month.at)).size).toBe(axis.months.length)
    expect(axis.months.filter((month) => month.isJanuary).map((month) => month.label)).toEqual(['2027', '2028'])
    for (const month of axis.months) expect(new Date(month.at).getUTCDate()).toBe(1)
  })
})
