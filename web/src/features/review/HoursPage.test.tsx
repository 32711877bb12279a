import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { HoursPage } from './HoursPage'
import { promiseWords, verdictWords } from './hoursWords'
import { hoursOptions } from './queries'

afterEach(cleanup)

const held = (more: Partial<Schema['HoursHeldOut']> = {}): Schema['HoursHeldOut'] => ({
  visits: 329,
  ratio: 1.01,
  inside: 0.82,
  over: [0.75, 0.97, 1.3],
  window: [0.72, 1.31],
  verdict: 'hold',
  ...more,
})

const hours = (more: Partial<Schema['HoursOut']> = {}): Schema['HoursOut'] => ({
  visits: 693,
  since: '2025-12-01',
  learned_from: 364,
  held: held(),
  assumed_held: held({ ratio: 1.31, verdict: 'too_short' }),
  promises: { visits: 0, planned: 0, took: 0, promised: 0, early: 0, late: 0, late_minutes: 0 },
  rows: [
    { work: 'arriving', assumed: 0.3, learned: 0.5, low: 0.25, high: 0.75, times: 693, share: null },
    { work: 'new_rod', assumed: 0.25, learned: 0.2, low: 0.15, high: 0.3, times: 158, share: 0.45 },
    { work: 'new_relief_valve', assumed: 0.75, learned: 0.75, low: 0.5, high: 1, times: 0, share: 0 },
  ],
  ...more,
})

const text = () => document.body.textContent.replaceAll('\u00a0', ' ')

it('says whether the hours held, against what, and what the parts of a visit are planned for', () => {
  rendered(<HoursPage />, { known: [[hoursOptions.queryKey, hours()]] })
  expect(screen.getByRole('heading', { level: 2 }).textContent).toContain('The hours hold: visits took 101')
  expect(text()).toContain('against what 364 visits before had taught')
  expect(text()).toContain('eight of ten between 75 % and 130 %; told was 72 % to 131 %, where 82 % of them lie.')
  expect(text()).toContain('before any visit was timed they would have taken 131 % of their hours')
  const cells = (name: RegExp) =>
    within(screen.getByRole('row', { name }))
      .getAllByRole('cell')
      .map((one) => one.textContent)
  expect(cells(/^Arriving/)).toEqual(['30 min', '15 min to 45 min', '18 min', '693'])
  // How often a part is needed is told where one was.
  expect(screen.getByRole('rowheader', { name: /New rod/ }).textContent).toContain('needed at 45')
  expect(screen.getByRole('rowheader', { name: /New relief/ }).textContent).not.toContain('needed')
})

it('draws each mean where it lies between none and the longest', () => {
  rendered(<HoursPage />, { known: [[hoursOptions.queryKey, hours()]] })
  const [band, assumed, mean] = [
    ...screen.getByRole('row', { name: /^Arriving/ }).querySelectorAll<HTMLElement>('[style]'),
  ].map((one) => [one.style.left, one.style.width])
  expect([band, assumed, mean]).toEqual([
    ['25%', '50%'],
    ['30%', ''],
    ['50%', ''],
  ])
})

it('does not judge by what it does not have', () => {
  const nothing = held({ visits: 3, verdict: 'unknown', over: [0.8, 1, 1.2] })
  rendered(<HoursPage />, {
    known: [
      [hoursOptions.queryKey, hours({ visits: 3, learned_from: 0, held: nothing, assumed_held: nothing, rows: [] })],
    ],
  })
  expect(screen.getByRole('heading', { level: 2 }).textContent).toContain('Too few visits')
  expect(text()).toContain('3 timed visits since')
  expect(text()).toContain('against what is assumed until visits tell')
  expect(text()).not.toContain('before any visit was timed they')
})

it('says what became of what was planned and promised', () => {
  const told = { visits: 45, planned: 4000, took: 4160, promised: 38, early: 2, late: 3, late_minutes: 14 }
  const plain = (one: Parameters<typeof promiseWords>[0]) => promiseWords(one).replaceAll('\u00a0', ' ')
  expect(plain(told)).toBe(
    'As they stood in the plan, 45 visits took 104 % of their time. ' +
      'Of 38 promised times 33 were kept; 3 came late, half of them by 14 min or more, 2 early.',
  )
  expect(plain({ ...told, visits: 0, early: 0, late: 0 })).toBe('Of 38 promised times 38 were kept.')
  rendered(<HoursPage />, { known: [[hoursOptions.queryKey, hours({ promises: told })]] })
  expect(text()).toContain('Of 38 promised times 33 were kept')
})

it('says which way the hours are wrong', () => {
  const words = (verdict: Schema['HoursHeld'], ratio: number) => verdictWords(held({ verdict, ratio }))
  expect(words('too_short', 1.25)).toMatch(/too short: they took 125/)
  expect(words('too_long', 0.8)).toMatch(/too long: they took 80/)
  expect(words('uneven', 1)).toMatch(/stray otherwise/)
})
