import 'fake-indexeddb/auto'

import { cleanup, fireEvent, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../../api/client'
import { rendered } from '../../../test/rendered'
import { heaterOptions, logOptions } from '../../heaters/queries'
import { guideOptions } from '../queries'
import { GuidePage } from './GuidePage'
import { advanced, begun, type Guide, type Stand } from './interlock'
import vectors from './interlock.vectors.json'

const GAS = (vectors as unknown as { guide: Guide }[])[0]!.guide
const FIGURES = [
  { name: 'drain_minutes', value: 24.4, unit: 'min', formula: 'A / (Cd a) · √(2 h / g)', source: 'Torricelli' },
  { name: 'heat_up_minutes', value: 132, unit: 'min', formula: 'm c ΔT / P', source: 'plate' },
]
const guide = (part: object = {}) =>
  ({ ...GAS, heater_id: 4, components: ['sediment'], possible: ['sediment', 'anode', 'relief_valve'], flush_method: 'jetting', figures: FIGURES, usual_readings: { tap_c: [30, 75] }, may_override: false, ...part }) as Schema['GuideOut']
const LOG = {
  measure: true,
  judgements: [{ rule: 'flush_or_leave', verdict: 'leave_alone', because: ['9 years old and no flush on record'], ask_lead: true, licensed: false }],
  forecasts: [
    { component: 'sediment', state: { depth_mm: { p10: 10, p50: 22, p90: 40 } } },
    { component: 'relief_valve', state: { probability_stuck: { p10: 0.01, p50: 0.06, p90: 0.1 } } },
  ],
  entries: [{ on: '2026-01-08', by: 'Nadia', lines: [{ task: 'flush', words: 'Pulsed drain: heavy' }, { task: 'anode_inspection', words: 'Rod half gone' }], marks: {} }],
} as unknown as Schema['LogOut']
const HEATER = { id: 4, site: { name: 'Marram Bakery', hazards: ['Dog in the yard.'] } }

function page(told = guide()) {
  return rendered(
    <Routes>
      <Route path="/visit/:heaterId/guide" element={<GuidePage />} />
      <Route path="/visit/:heaterId" element={<p>the findings</p>} />
    </Routes>,
    { at: '/visit/4/guide', known: [[heaterOptions(4).queryKey, HEATER], [logOptions(4).queryKey, LOG], [guideOptions(4).queryKey, told], [guideOptions(4, ['sediment', 'anode']).queryKey, guide({ components: ['sediment', 'anode'] })]] },
  )
}

const heading = () => screen.getAllByRole('heading', { level: 2 }).at(0)!.textContent
const begin = () => userEvent.click(screen.getByRole('button', { name: /^Begin/ }))
const state = () => screen.getByRole('list', { name: 'State of the heater' }).textContent

/** Steps as the interpreter has them, each done or, where it is held, left out. */
function straight(until: string): Stand[] {
  const stands = [begun(GAS)]
  for (;;) {
    const stand = stands.at(-1)!
    const now = stand.left[0]
    if (!now || now.id === until) return stands
    const next = advanced(GAS, stand, { kind: 'done', step: now.id, choice: 0 }) ?? advanced(GAS, stand, { kind: 'skipped', step: now.id, choice: 0 })!
    stands.push(next)
  }
}

/** Steps on as whoever taps does; by the words alone, since asking for roles on every step takes long. */
function on(until: string) {
  for (let left = straight(until).length - 1; left > 0; left--) {
    const done = screen.queryByText<HTMLButtonElement>('Done')
    fireEvent.click(done && !done.disabled ? done : screen.getByText('Leave out'))
  }
}

vi.setConfig({ testTimeout: 30_000 })

beforeEach(() => {
  localStorage.clear()
  vi.stubGlobal('scrollTo', vi.fn())
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

it('tells before the first step what is to be done, how long it takes and what to carry', async () => {
  page()
  expect(screen.getByText('Dog in the yard.')).toBeTruthy()
  expect(screen.getByRole('button', { name: 'Flush' }).getAttribute('aria-pressed')).toBe('true')
  expect(screen.getByText(/hose for hot water, bucket, cloth filter/)).toBeTruthy()
  expect(screen.getByText(/Better left alone: 9 years old and no flush on record. Ask the lead first/)).toBeTruthy()
  expect(within(screen.getByRole('heading', { name: 'To expect' }).parentElement!).getAllByRole('listitem').map((one) => one.textContent)).toEqual([
    'about 22 mm of deposit on the floor',
    'the relief valve stuck, in 6 of 100 such',
    'this visit was drawn for a measurement: depth or thickness is asked for',
  ])
  expect(screen.getByText('Last time, 8 January, Nadia: Pulsed drain: heavy; Rod half gone.')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Anode' }))
  expect(screen.getByRole('button', { name: 'Anode' }).getAttribute('aria-pressed')).toBe('true')
  expect(screen.getByRole('button', { name: /^Begin: \d+ steps, about \d/ })).toBeTruthy()
})

it('warns of work for a licence that is not held', () => {
  const held = structuredClone(guide())
  held.procedures.arrival!.steps[0]!.licence = 'electrical'
  page(held)
  expect(screen.getByText(/a licence for electrical work, which you do not hold/)).toBeTruthy()
})

it('goes a step at a time, shows what is open now, and goes back', async () => {
  page()
  await begin()
  const first = heading()
  await userEvent.click(screen.getByRole('button', { name: 'Done' }))
  expect(heading()).not.toBe(first)
  await userEvent.click(screen.getByRole('button', { name: 'Back' }))
  expect(heading()).toBe(first)
  on('isolate_water.close_cold')
  expect(state()).toContain('coldopen')
  await userEvent.click(screen.getByRole('button', { name: 'Done' }))
  expect(state()).toContain('coldshut')
})

it('holds a step that would hurt, says the way out, and lets only the lead go on', async () => {
  page()
  await begin()
  on('trial.rated_hose')
  await userEvent.click(screen.getByRole('button', { name: 'Leave out' }))
  expect(within(screen.getByRole('alert')).getByText('Hose on first.')).toBeTruthy()
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Held' }).disabled).toBe(true)
  expect(screen.queryByLabelText('Why it is done all the same')).toBeNull()
  cleanup()
  localStorage.clear()
  page(guide({ may_override: true }))
  await begin()
  on('trial.rated_hose')
  await userEvent.click(screen.getByRole('button', { name: 'Leave out' }))
  await userEvent.type(screen.getByLabelText('Why it is done all the same'), 'A fixed pipe leads away')
  await userEvent.click(screen.getByRole('button', { name: 'Do it' }))
  const { events } = JSON.parse(localStorage.getItem('aquifer.visit.4')!) as { events: { kind: string; why: string }[] }
  expect(events.at(-1)).toMatchObject({ kind: 'despite', why: 'A fixed pipe leads away' })
})

it('goes another way where the step shows something else', async () => {
  page()
  await begin()
  on('trial.crack')
  await userEvent.type(screen.getByLabelText(/Depth of the deposit/), '31')
  expect(JSON.parse(localStorage.getItem('aquifer.visit.4')!)).toMatchObject({ flush: { depth_before_mm: 31 } })
  await userEvent.click(screen.getByRole('button', { name: 'It only trickles, or nothing comes' }))
  expect(screen.getByText('The drain does not run')).toBeTruthy()
})

it('is where it was after the device was off, and asks for what is seen where it is seen', async () => {
  page()
  await begin()
  on('full_drain.drain_empty')
  expect(screen.getByRole('timer').getAttribute('aria-label')).toBe('0 of about 24 minutes')
  expect(screen.getByText(/Torricelli/)).toBeTruthy()
  await userEvent.click(screen.getByRole('radio', { name: 'heavy' }))
  const here = heading()
  cleanup()
  page()
  expect(heading()).toBe(here)
  expect(screen.getByRole('radio', { name: 'heavy' }).getAttribute('aria-checked')).toBe('true')
})

it('asks back where a tap is unusually hot, and keeps the reading with its step', async () => {
  page()
  await begin()
  on('verify.tap_temperature')
  expect(screen.getByText('132 min')).toBeTruthy()
  await userEvent.type(screen.getByLabelText(/Hottest water at the tap/), '88')
  expect(screen.getByText(/read it once more/)).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Done' }))
  const { events } = JSON.parse(localStorage.getItem('aquifer.visit.4')!) as { events: { step: string; tap_c?: number }[] }
  expect(events.at(-1)).toMatchObject({ step: 'verify.tap_temperature', tap_c: 88 })
})

it('looks at the end whether everything is as it is left', async () => {
  page()
  await begin()
  on('the end')
  expect(heading()).toBe('Everything is as it is left')
  await userEvent.click(screen.getByRole('link', { name: 'Look over and save' }))
  expect(screen.getByText('the findings')).toBeTruthy()
  cleanup()
  localStorage.clear()
  page()
  await begin()
  for (let left = begun(GAS).left.length; left > 0; left--) {
    const now = screen.queryByText<HTMLButtonElement>('Done')
    const stops = screen.queryByText(/Open the drain|Dial from pilot/) !== null
    fireEvent.click(now && !now.disabled && !stops ? now : screen.getByText('Leave out'))
  }
  expect(within(screen.getByRole('alert')).getByText('it is not heating')).toBeTruthy()
})
