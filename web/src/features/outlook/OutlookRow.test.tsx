import { cleanup, render } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { day } from '../../lib/dates'
import { TODAY, UNITS } from '../../test/rendered'
import { outlookAxis } from './axis'
import { OutlookRow } from './OutlookRow'

const AXIS = outlookAxis(TODAY, 800)
const days = (first: number) => [0, 1, 2, 3, 4, 5, 6].map((step) => first + 30 * step)

function drawn(part: object, row: object = {}) {
  const window = {
    component: 'sediment',
    as_of: TODAY,
    due_on: '2027-03-10',
    latest_on: null,
    reached_days: days(30),
    ...part,
  }
  const whole = {
    id: 3,
    site: 'Pell',
    street: 'Hill 1',
    kind: 'gas_tank',
    zone: 'Chalk',
    hazard: '',
    capacity_l: 189,
    installed_on: null,
    install_certainty: 'unknown',
    depth_share: null,
    anode_left: null,
    guessed: [],
    windows: [window],
    ...row,
  } as unknown as Schema['OutlookRowOut']
  const { container } = render(
    <OutlookRow number={0} row={whole} axis={AXIS} today={TODAY} units={UNITS} chosen={false} onChoose={vi.fn()} />,
  )
  return container.querySelector('button > :last-child > svg')!
}

afterEach(cleanup)

it('sets our date where it stands on the axis', () => {
  const dot = drawn({}).querySelector('circle')!
  expect(Number(dot.getAttribute('cx'))).toBeCloseTo(AXIS.x(day('2027-03-10')), 3)
})

it('marks what is overdue since before the axis by an arrow and its month, and sets no dot', () => {
  const svg = drawn({ due_on: '2024-05-02' })
  expect(svg.querySelector('circle')).toBeNull()
  expect(svg.querySelector('text')!.textContent).toBe('May 2024')
})

it('marks every service that is overdue since before the axis, so that no row is first for no visible reason', () => {
  for (const component of ['anode', 'relief_valve', 'expansion_tank']) {
    expect(
      drawn({ component, due_on: '2019-05-02', latest_on: '2020-05-02' }).querySelectorAll('path.fill-copper'),
    ).toHaveLength(1)
    cleanup()
  }
})

it('draws what estimated with a broken edge', () => {
  const outlined = (svg: Element) => svg.querySelectorAll('[stroke-dasharray]').length
  expect(outlined(drawn({}, { guessed: ['its age'] }))).toBeGreaterThan(outlined(drawn({})))
})

it('closes a cap on its last day, and counts the days gone by since', () => {
  const cap = (latest: string) => drawn({ component: 'relief_valve', due_on: '2026-12-20', latest_on: latest })
  const closes = cap('2027-01-15')
  expect(closes.querySelector('path.fill-slate')!.getAttribute('d')).toContain(`L${AXIS.x(day('2027-01-15'))} `)
  const late = cap('2026-11-01').querySelector('line[stroke-dasharray]')!
  expect([Number(late.getAttribute('x1')), Number(late.getAttribute('x2'))]).toEqual([
    AXIS.x(day('2026-11-01')),
    AXIS.x(day(TODAY)),
  ])
  // One that closes long after the axis, or closed before it, has no place on it.
  expect(cap('2031-01-01').querySelector('path')).toBeNull()
  expect(cap('2020-01-01').querySelector('line[stroke-dasharray]')).toBeNull()
})

it('marks an advised new heater by a square, and only on the axis', () => {
  const square = (due: string | null) => drawn({ component: 'tank', due_on: due }).querySelector('rect')
  expect(square('2027-05-01')).not.toBeNull()
  expect([square(null), square('2040-05-01'), square('2010-05-01')]).toEqual([null, null, null])
})
