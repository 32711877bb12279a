import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, beforeEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { AheadPage, sentences } from './AheadPage'
import { aheadOptions } from './queries'

const fan = (middle: number) => ({ low: middle - 10, middle, high: middle + 10 })
const side = (practice: Schema['Practice'], hours: number[], flushes: number): Schema['AheadOut']['sides'][number] => ({
  practice,
  hours: hours.map(fan),
  counts: ['visits', 'flushes', 'descales', 'rods', 'relief_valves', 'leaks'].map((name) => ({
    name,
    by_year: hours.map(() => fan(name === 'flushes' ? flushes : 20)),
  })),
})
const AHEAD: Schema['AheadOut'] = {
  heaters: 400,
  asked_of: 400,
  until: ['2027-11-25', '2028-11-25'],
  crew_hours: 2000,
  sides: [side('condition', [900, 990], 220), side('annual', [850, 900], 300)],
  fewer_share: 0.97,
  hours_more: [fan(-50), fan(-90)],
}

beforeEach(() => sized(700, 400))
afterEach(cleanup)

it('draws both practices against what the crew can plan, and tells the same as tables', () => {
  rendered(<AheadPage />, { known: [[aheadOptions(3, 'annual').queryKey, AHEAD]] })
  expect(screen.getByRole('img', { name: 'Hours by year: by risk 900, 990; yearly 850, 900' })).toBeTruthy()
  const [now, other] = screen.getAllByRole('table')
  expect(within(now!).getByRole('row', { name: /^Flushes/ }).textContent).toBe('Flushes220210–230220210–230')
  expect(within(other!).getByRole('row', { name: /^Hours/ }).textContent).toBe('Hours850840–860900890–910')
})

it('tells it in three sentences, with how sure it is', () => {
  expect(sentences(AHEAD)).toEqual([
    'The base asks for up to 1,000 hours a year, 50\u00a0% of the 2,000 that the crew can plan.',
    'Cleaning yearly would take 140 hours fewer over all, so in 97\u00a0% of the futures.',
    'It flushes 600 times, the practice as it is 440.',
  ])
  expect(sentences({ ...AHEAD, hours_more: [fan(40), fan(10)], fewer_share: 0.1 })[1]).toBe(
    'Cleaning yearly would take 50 hours more over all, so in 90\u00a0% of the futures.',
  )
  expect(sentences({ ...AHEAD, crew_hours: 0 })[0]).toBe('The base asks for up to 1,000 hours a year.')
  const same = { ...AHEAD, sides: [AHEAD.sides[0]!, AHEAD.sides[0]!] }
  expect(sentences(same)[1]).toBe('Choose another practice to see it beside this one.')
})
