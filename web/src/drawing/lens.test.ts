import { describe, expect, it } from 'vitest'

import { lensOutline } from './lens'

describe('the outline of a window', () => {
  it('is thickest where the dates lie closest', () => {
    const outline = lensOutline([100, 900, 1300, 1500, 1700, 3000, 8000])
    const widest = outline.reduce((a, b) => (b.width > a.width ? b : a))
    expect(widest.days).toBeGreaterThan(1300)
    expect(widest.days).toBeLessThan(1700)
    expect(outline[0]).toEqual({ days: 100, width: 0 })
    expect(outline.at(-1)).toEqual({ days: 8000, width: 0 })
  })

  it('is thinner throughout for an unsure window than for a sure one', () => {
    const most = (days: number[]) => Math.max(...lensOutline(days).map((point) => point.width))
    expect(most([100, 500, 1500, 3000, 5000, 7000, 9000])).toBeLessThan(most([100, 110, 120, 130, 140, 150, 160]))
  })

  it('starts wide today where the limit is likely reached', () => {
    const [first] = lensOutline([0, 0, 0, 0, 300, 700, null])
    expect(first?.days).toBe(0)
    expect(first?.width).toBeCloseTo(Math.SQRT1_2, 2)
  })

  it('never turns back in time or widens past full', () => {
    for (const days of [
      [0, 0, 0, 0, 0, 0, 0],
      [0, 2, 2, 2, 9, 9, 40],
      [5, null, null, null, null, null, null],
    ]) {
      const outline = lensOutline(days)
      for (let at = 1; at < outline.length; at++)
        expect(outline[at]!.days).toBeGreaterThanOrEqual(outline[at - 1]!.days)
      for (const point of outline) expect(point.width).toBeLessThanOrEqual(1)
    }
  })

  it('draws nothing where nothing is known', () => {
    expect(lensOutline([null, null, null, null, null, null, null])).toEqual([])
  })
})
