import { cleanup, render } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { TODAY } from '../../test/rendered'
import { outlookAxis } from './axis'
import { HoursStrata, STRATA } from './HoursStrata'

const AXIS = outlookAxis(TODAY, 800)
const week = (monday: string, component: string, hours: number) =>
  ({ week: monday, component, hours, services: 1 }) as unknown as Schema['WeekOut']
const drawn = (weeks: Schema['WeekOut'][], against: Schema['WeekOut'][] = []) =>
  render(
    <svg>
      <HoursStrata weeks={weeks} against={against} today={TODAY} axis={AXIS} height={96} />
    </svg>,
  ).container

afterEach(cleanup)

it('lays the services of a week on each other in their order', () => {
  const paths = [...drawn([week('2026-12-07', 'sediment', 6), week('2026-12-07', 'anode', 3)]).querySelectorAll('path')]
  expect(paths.map((path) => path.getAttribute('class'))).toEqual(STRATA.map((one) => `${one.fill} stroke-ink`))
  const heights = (at: number) =>
    [...paths[at]!.getAttribute('d')!.matchAll(/[,V](\d+(?:\.\d+)?)/g)].map((found) => Number(found[1]))
  // The anode's layer stands on the flush's: nowhere lower than where that ends.
  expect(Math.min(...heights(2))).toBeLessThan(Math.min(...heights(0)))
})

it('cuts the present week at an ordinary one and says how much is due now', () => {
  const shown = drawn([week('2026-11-23', 'sediment', 180), week('2026-12-07', 'sediment', 8)])
  expect(shown.textContent).toContain('180 h due now')
  expect(shown.textContent).toMatch(/5 h a week/)
  cleanup()
  expect(drawn([week('2026-11-23', 'sediment', 7), week('2026-12-07', 'sediment', 8)]).textContent).not.toContain(
    'due now',
  )
})

it('draws what is set as an edge where another practice is tried, and not otherwise', () => {
  const weeks = [week('2026-12-07', 'sediment', 8)]
  expect(drawn(weeks).querySelector('title')).toBeNull()
  cleanup()
  expect(drawn(weeks, [week('2026-12-14', 'sediment', 5)]).querySelector('title')!.textContent).toBe('as it is set now')
})
