import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import { rendered, TODAY } from '../test/rendered'
import { answering } from '../test/rendered'
import { changesOptions, forecastOptions } from './outlookQueries'
import { WhyPanel } from './WhyPanel'

const forecast = (part: object = {}) =>
  ({
    component: 'sediment',
    as_of: TODAY,
    due_on: '2027-03-10',
    latest_on: null,
    decided_by: 'tolerance',
    method: 'drain_and_pulse',
    reached_days: [10, 90, 120, 160, 200, 260, 300],
    probability_today: 0.1,
    limit_value: 12,
    learned: '',
    reasons: [{ factor: 'hardness', ratio: 1.6, days: -120 }],
    ...part,
  }) as unknown as Schema['ForecastOut']
const ROW = {
  id: 4,
  site: 'Marram Bakery',
  street: 'Quay 2',
  kind: 'gas_tank',
  zone: 'Chalk',
  tag: 'T-4',
  hazard: '',
  capacity_l: 189,
  installed_on: '2020-11-25',
  depth_share: 0.3,
  anode_left: 0.5,
} as const

function panel(
  forecasts: Schema['ForecastOut'][],
  row: object = {},
  may: Schema['Action'][] = ['read', 'record_visit'],
) {
  rendered(<WhyPanel row={{ ...ROW, ...row }} />, {
    known: [
      [forecastOptions(4).queryKey, forecasts],
      [changesOptions(4).queryKey, []],
    ],
    may,
  })
}

beforeEach(() => void answering())
afterEach(cleanup)

describe('the window in words', () => {
  it.each([
    [{}, 'over its limit likely between 23 February 2027 and 12 August 2027; '],
    [{ reached_days: [0, 0, 20, 60, 90, 500, 700] }, 'perhaps over its limit already, likely by April 2028; '],
    [{ reached_days: [0, 0, 20, 60, 900, null, null] }, 'perhaps over its limit already, perhaps never; '],
    [{ reached_days: [0, 0, 0, 0, 0, 0, 0] }, 'almost surely over its limit already; '],
    [{ reached_days: [null, null, null, null, null, null, null] }, 'not over its limit within 30 years; '],
    [{ reached_days: [200, 800, 900, 1200, 1500, null, null] }, 'over its limit from February 2029 at the earliest; '],
    [{ component: 'anode', reached_days: [0, 0, 0, 0, 0, 0, 0] }, 'almost surely bare wire already; '],
    [{ component: 'relief_valve', latest_on: '2026-12-20' }, 'by 20 December at the latest; '],
    [{ component: 'expansion_tank', latest_on: null }, 'twelve months at most; '],
    [
      { component: 'tank', probability_today: 0.234, limit_value: 0.2 },
      '23 % likely to fail within 12 months; we advise a new one from 20 %',
    ],
  ])('%j', (part, words) => {
    panel([forecast(part)])
    const lines = screen.getAllByRole('button', { pressed: true })[0]!
    expect(lines.textContent).toContain(words)
  })
})

it('never calls anybody late for a new heater', () => {
  panel([forecast({ component: 'tank', due_on: '2025-01-01' }), forecast({ component: 'tank', due_on: '2027-06-01' })])
  expect(screen.getByText('advised now')).toBeTruthy()
  expect(screen.getByText('advised from June 2027')).toBeTruthy()
})

it('gives the reasons of the service that is picked', async () => {
  panel([
    forecast(),
    forecast({
      component: 'anode',
      reasons: [{ factor: 'setpoint', ratio: 1.2, days: -40 }],
      learned: 'This rod wears 1.3 times as fast as its water suggests.',
    }),
  ])
  expect(screen.getByRole('heading', { name: 'Flush: against a plain heater' })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: /^Anode/ }))
  expect(screen.getByRole('heading', { name: 'Anode: against a plain heater' })).toBeTruthy()
  expect(screen.getByText(/wears 1.3 times as fast/)).toBeTruthy()
})

it('says that a finding alone sets the date, and gives no factors for it', () => {
  panel([forecast({ component: 'relief_valve', decided_by: 'finding', latest_on: TODAY })])
  expect(screen.getByText(/It stuck or wept when it was last exercised/)).toBeTruthy()
  expect(screen.queryByText(/hardness/i)).toBeNull()
})

it('leads to the visit only whoever records one, and shows hazards and guesses', () => {
  panel([forecast()], { hazard: 'Dog in the yard.', guessed: ['its size'] })
  expect(screen.getByRole('link', { name: 'Record a visit' }).getAttribute('href')).toBe('/visit/4')
  expect(screen.getByText('Dog in the yard.')).toBeTruthy()
  expect(screen.getByText('Rests on a guess: its size.')).toBeTruthy()
  cleanup()
  panel([forecast()], {}, ['read'])
  expect(screen.queryByRole('link', { name: 'Record a visit' })).toBeNull()
  expect(screen.getByRole('link', { name: 'Open heater' }).getAttribute('href')).toBe('/heaters/4')
})

it('says of a tank that is left alone that it is, and proposes nothing', () => {
  panel([forecast({ due_on: null, latest_on: null, decided_by: 'left_alone', method: 'inspect' })])
  const told = screen.getByRole('button', { name: /^Flush: left alone/ }).textContent
  expect(told).toContain('old and never flushed: such tanks are left alone')
  expect(told).not.toContain('ook at the rod')
})
