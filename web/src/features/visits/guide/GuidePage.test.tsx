import 'fake-indexeddb/auto'

import { act, cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../../api/client'
import { rendered } from '../../../test/rendered'
import { straight, written as wrote } from '../../../test/walked'
import { heaterOptions, logOptions } from '../../../records/heaterQueries'
import { guideOptions } from '../queries'
import { GuidePage } from './GuidePage'
import { beginVisit, forgetVisit, inEffect } from '../../../device/eventLog'
import { device } from '../../../device/store'
import type { Guide } from './state'
import vectors from './interlock.vectors.json'

const { visits, computed } = vectors as unknown as {
  visits: { guide: Guide }[]
  computed: { name: string; tree: unknown; inputs: Record<string, number> }[]
}
const GAS = visits[0]!.guide
const TITLES: Record<string, string> = {
  drain_minutes: 'How long it drains',
  dissolved_g: 'Lime that was dissolved',
  burn_seconds: 'How soon it burns',
}
const LABELS: Record<string, string> = { bore_mm: 'Bore of the drain', water_c: 'Water at the faucet' }
const UNITS: Record<string, string> = { dissolved_g: 'g', burn_seconds: 's', water_c: 'temperature_c' }
const FIGURES = computed.slice(0, computed.length / 3).map((one) => ({
  name: one.name,
  title: TITLES[one.name] ?? one.name,
  unit: one.name.endsWith('minutes') ? 'min' : (UNITS[one.name] ?? '1'),
  tree: one.tree,
  reads: 'as read',
  source: 'a table',
  writes: one.name === 'dissolved_g' ? 'descale.dissolved_g' : '',
  inputs: Object.entries(one.inputs).map(([name, value]) => ({
    name,
    label: LABELS[name] ?? name,
    unit: name.endsWith('_mm') ? 'length_mm' : (UNITS[name] ?? '1'),
    low: name === 'bore_mm' ? 3 : -1e6,
    high: name === 'bore_mm' ? 60 : 1e6,
    value,
    field: name === 'water_c' ? 'verify.tap_c' : '',
  })),
}))
const RULE = {
  rule: 'blocked_drain',
  question: 'The drain does not run: what now?',
  answers: [{ field: 'flush.drain_flow', above: null }],
  cases: [
    {
      at: ['trickle'],
      verdict: 'leave_drain',
      because: ['9 years old and never flushed'],
      ask_lead: true,
      licensed: false,
    },
  ],
  options: [{ says: 'Try breath and wire.', follows: true }],
}
const guide = (part: object = {}) =>
  ({
    ...GAS,
    heater_id: 4,
    components: ['sediment'],
    possible: ['sediment', 'anode', 'relief_valve'],
    flush_method: 'jetting',
    figures: FIGURES,
    on_site_rules: [RULE],
    prepare: ['Please clear a metre.'],
    upkeep: ['burner'],
    extras: [],
    parts: [
      { part: 'hose washer', probability: 1 },
      { part: 'relief valve {pressure_kpa:1034}', probability: 0.06 },
    ],
    session: null,
    usual_readings: { 'verify.tap_c': [30, 75] },
    may_override: false,
    left_as: '',
    ...part,
  }) as unknown as Schema['GuideOut']
const LOG = {
  measure: true,
  judgements: [
    {
      rule: 'flush_or_leave',
      verdict: 'leave_alone',
      because: ['9 years old and no flush on record'],
      ask_lead: true,
      licensed: false,
    },
  ],
  forecasts: [
    { component: 'sediment', state: { depth_mm: { p10: 10, p50: 22, p90: 40 } } },
    { component: 'relief_valve', state: { probability_stuck: { p10: 0.01, p50: 0.06, p90: 0.1 } } },
  ],
  entries: [
    {
      on: '2026-01-08',
      by: 'Nadia',
      lines: [
        { task: 'flush', words: 'Pulsed drain: heavy' },
        { task: 'anode_inspection', words: 'Rod half gone' },
      ],
      marks: {},
    },
  ],
} as unknown as Schema['LogOut']
const HEATER = {
  id: 4,
  tag: 'T-4',
  shut_offs: [],
  open_ends: [],
  guessed: [],
  site: { name: 'Marram Bakery', hazards: ['Dog in the yard.'] },
}

function page(told = guide()) {
  return rendered(
    <Routes>
      <Route path="/visit/:heaterId" element={<GuidePage />} />
    </Routes>,
    {
      at: '/visit/4',
      known: [
        [heaterOptions(4).queryKey, HEATER],
        [logOptions(4).queryKey, LOG],
        [guideOptions(4).queryKey, told],
        [guideOptions(4, ['sediment', 'anode']).queryKey, guide({ components: ['sediment', 'anode'] })],
      ],
    },
  )
}

const heading = () => screen.getAllByRole('heading', { level: 2 }).at(0)!.textContent
const begin = () => userEvent.click(screen.getByRole('button', { name: /^Begin/ }))
const press = (name: string | RegExp) => userEvent.click(screen.getByRole('button', { name }))
const state = () => screen.getByRole('list', { name: 'State of the heater' }).textContent
const written = async () => inEffect(await device.taps.toArray())

/** A step is read before it is tapped away. */
const settled = () => act(() => new Promise((done) => setTimeout(done, 300)))

/** The page of a visit that was begun and went on until a step. */
async function at(until: string, told = guide()) {
  await beginVisit(4, told, 1, 'Marram Bakery, T-4')
  const visit = (await device.visits.toCollection().first())!.clientId
  await wrote(visit, straight(GAS, until))
  page(told)
  await screen.findByText(/^step |^all done/)
  await settled()
  return visit
}

vi.setConfig({ testTimeout: 30_000 })

beforeEach(async () => {
  await Promise.all([device.visits.clear(), device.taps.clear(), device.unsent.clear()])
  vi.stubGlobal('scrollTo', vi.fn())
  vi.stubGlobal('fetch', () => Promise.reject(new TypeError('no signal')))
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

it('tells before the first step what is to be done, how long it takes and what to carry', async () => {
  page()
  await screen.findByText('Dog in the yard.')
  expect(screen.getByRole('button', { name: 'Flush' }).getAttribute('aria-pressed')).toBe('true')
  expect(screen.getByText(/hose for hot water, bucket, cloth filter/)).toBeTruthy()
  expect(screen.getByText(/Better left alone: 9 years old and no flush on record. Ask the lead first/)).toBeTruthy()
  expect(
    within(screen.getByRole('heading', { name: 'To expect' }).parentElement!)
      .getAllByRole('listitem')
      .map((one) => one.textContent),
  ).toEqual([
    'about 22 mm of deposit on the floor',
    'the relief valve stuck, in 6 of 100 such',
    'this visit was drawn for a measurement: depth or thickness is asked for',
  ])
  expect(screen.getByText('Last time, 8 January, Nadia: Pulsed drain: heavy; Rod half gone.')).toBeTruthy()
  expect(screen.getByText('And due to be cleaned: burner and air intake.')).toBeTruthy()
  expect(
    within(screen.getByRole('heading', { name: 'To carry' }).parentElement!)
      .getAllByRole('listitem')
      // Besides what may be wanted if it goes otherwise.
      .filter((one) => !one.closest('details'))
      .map((one) => one.textContent),
  ).toEqual(['hose washerneeded', 'relief valve 1034 kPa6 in 100'])
  expect(screen.getByText('Please clear a metre.')).toBeTruthy()
  await press('Anode')
  expect(screen.getByRole('button', { name: 'Anode' }).getAttribute('aria-pressed')).toBe('true')
  expect(screen.getByRole('button', { name: /^Begin: \d+ steps, about \d/ })).toBeTruthy()
})

it('warns of work for a licence that is not held', async () => {
  const told = structuredClone(guide())
  told.procedures.arrival!.steps[0]!.licence = 'electrical'
  page(told)
  expect(await screen.findByText(/an? electrical license, which you do not hold/)).toBeTruthy()
})

it('goes a step at a time, shows what is open now, and goes back', async () => {
  page()
  await screen.findByRole('button', { name: /^Begin/ })
  await begin()
  await screen.findByText(/^step 1 of/)
  const first = heading()
  // What cannot hurt shares one Done.
  expect(screen.getByRole('list', { name: 'And then' }).textContent).toContain('heater on record')
  await press('Done')
  await screen.findByText(/^step 4 of/)
  await settled()
  expect(heading()).not.toBe(first)
  await press('Back')
  await press('Nothing yet: tapped by mistake')
  await screen.findByText(/^step 1 of/)
  expect(heading()).toBe(first)
  // What was taken back is in the eventLog, and not in effect.
  expect((await device.taps.toArray()).map((one) => one.kind)).toContain('undo')
  expect(await written()).toEqual([])
})

it('says each step and its caution to who does not see that it changed', async () => {
  page()
  await screen.findByRole('button', { name: /^Begin/ })
  await begin()
  await screen.findByText(/^step 1 of/)
  const heard = () => screen.getAllByRole('status').find((one) => one.className === 'sr-only')!.textContent
  const first = heard()
  expect(first).toContain(heading())
  await press('Done')
  await screen.findByText(/^step 4 of/)
  await settled()
  expect(heard()).not.toBe(first)
  expect(heard()).toContain(heading())
})

it('changes the drawn valves with the steps', async () => {
  await at('isolate_water.close_cold')
  expect(state()).toContain('cold open')
  await press('Done')
  await waitFor(() => expect(state()).toContain('cold shut'))
})

it('takes a finger that comes down twice for one step, not for two', async () => {
  await at('isolate_water.close_cold')
  const before = (await written()).length
  fireEvent.click(screen.getByRole('button', { name: 'Done' }))
  fireEvent.click(screen.getByRole('button', { name: 'Done' }))
  await waitFor(() => expect(state()).toContain('cold shut'))
  fireEvent.click(screen.getByRole('button', { name: 'Done' }))
  await settled()
  const taps = (await written()).slice(before)
  expect(new Set(taps.map((one) => one.step))).toEqual(new Set(['isolate_water.close_cold']))
})

/** The step before it, with the hose left out. */
const hoseLeftOut = (until: string) =>
  straight(GAS, until, (event) =>
    event.step.startsWith('trial.') ? { ...event, kind: 'skipped', why: 'not needed' } : event,
  )

async function withoutAHose(told = guide()) {
  await beginVisit(4, told, 1, 'Marram Bakery, T-4')
  const visit = (await device.visits.toCollection().first())!.clientId
  await wrote(visit, hoseLeftOut('full_drain.open_drain_cycles'))
  page(told)
  await screen.findByText(/^step /)
  await settled()
  return visit
}

it('holds a step that would hurt, offers the way out, and lets only the lead override', async () => {
  const visit = await withoutAHose()
  expect(await screen.findByText(/may scald, and no hot-water hose/)).toBeTruthy()
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Not safe yet' }).disabled).toBe(true)
  expect(screen.queryByText('Override')).toBeNull()
  await press('Put on a hot-water hose with somebody at its end.')
  expect(await screen.findByRole('heading', { name: 'Screw on a hot-water hose.' })).toBeTruthy()
  await settled()
  await press('Done')
  await waitFor(() => expect(heading()).toBe('Open the drain in small cycles.'))
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Done' }).disabled).toBe(false)
  cleanup()
  await forgetVisit(visit)
  await withoutAHose(guide({ may_override: true }))
  await userEvent.click(screen.getByText('Override', { selector: 'summary' }))
  await userEvent.type(screen.getByLabelText('Reason for the override'), 'A fixed pipe leads away')
  await settled()
  await press('Override')
  await waitFor(async () =>
    expect((await written()).at(-1)).toMatchObject({ kind: 'override', why: 'A fixed pipe leads away' }),
  )
})

it('asks the lead from a held step, and goes on when the lead says so', async () => {
  const visit = await withoutAHose()
  await press('Ask the lead')
  await press('It is held: may I go on?')
  expect(await screen.findByText(/No answer yet/)).toBeTruthy()
  const asked = (await written()).at(-1)!
  expect(asked).toMatchObject({ kind: 'asked', why: 'It is held: may I go on?' })
  await device.taps.add({
    ...asked,
    clientId: 'advice',
    device: 'office',
    clock: asked.clock + 1,
    kind: 'advised',
    by: 'Tamsin',
    of: asked.clientId,
    go_on: true,
    why: 'a fixed pipe is fine',
    visit,
  })
  await userEvent.click(await screen.findByRole('button', { name: 'Go on, as Tamsin said' }))
  await waitFor(async () =>
    expect((await written()).at(-1)).toMatchObject({
      kind: 'override',
      of: 'advice',
      why: 'Tamsin said so: a fixed pipe is fine',
    }),
  )
})

it('skips what matters with a reason, and asks on the way back what was done at the heater', async () => {
  await at('isolate_water.close_cold')
  await press('Skip step')
  await press('It is so already')
  await waitFor(async () =>
    expect((await written()).at(-1)).toMatchObject({
      kind: 'skipped',
      step: 'isolate_water.close_cold',
      why: 'It is so already',
    }),
  )
  await waitFor(() => expect(state()).toContain('cold not known'))
  await settled()
  await press('Back')
  await press('Nothing yet: tapped by mistake')
  await waitFor(() => expect(heading()).toMatch(/Shut the cold valve/))
  expect(state()).toContain('cold not known')
})

it('takes a look that was too quick again', async () => {
  await beginVisit(4, guide(), 1, 'Marram Bakery, T-4')
  const visit = (await device.visits.toCollection().first())!.clientId
  await wrote(visit, straight(GAS, 'arrival.outlet'))
  // Written two seconds ago; the tap before it now.
  const before = (await device.taps.toArray()).at(-1)!
  await device.taps.update(before.clientId, { at: new Date(Date.now() + 200).toISOString() })
  page()
  await screen.findByText(/^step /)
  await settled()
  await press('Done')
  expect((await screen.findByRole('alert')).textContent).toMatch(/Look once more/)
  expect(heading()).toMatch(/Follow the relief pipe/)
})

it('has at every step what else is found, and leaves the heater off where that ends the work', async () => {
  await at('isolate_water.close_cold')
  await press('Something else')
  await press('The relief valve weeps')
  await waitFor(() => expect(heading()).toMatch(/Gauge on a hose faucet/))
  await settled()
  await press('Something else')
  await press('The tank runs out')
  await waitFor(async () =>
    expect((await device.taps.toArray()).some((one) => one.kind === 'outside' && one.name === 'runs_out')).toBe(true),
  )
  await waitFor(() => expect(screen.getByText('Stop the water')).toBeTruthy())
})

it('lets one device lead, and says so on the other', async () => {
  const visit = await at('isolate_water.close_cold')
  const last = (await device.taps.toArray()).sort((a, b) => a.clock - b.clock).at(-1)!
  await device.taps.add({
    ...last,
    clientId: 'theirs',
    device: 'other',
    clock: 99,
    kind: 'took_over',
    step: '',
    choice: 0,
    by: 'Nadia',
    visit,
  })
  expect(await screen.findByRole('heading', { name: 'Another device leads this visit' })).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Done' })).toBeNull()
  await settled()
  await press('Lead from here: more may have been done')
  await waitFor(() => expect(screen.queryByRole('heading', { name: 'Another device leads this visit' })).toBeNull())
  expect(state()).toContain('cold not known')
})

it('goes another way where the step shows something else, and judges with whoever sees it', async () => {
  await at('trial.crack')
  await userEvent.type(screen.getByLabelText(/Depth of the deposit/), '31')
  await waitFor(async () =>
    expect((await written()).at(-1)).toMatchObject({ kind: 'answered', field: 'flush.depth_before_mm', value: 31 }),
  )
  await userEvent.click(screen.getByRole('radio', { name: 'trickle' }))
  const verdict = await screen.findByRole('region', { name: 'The drain does not run: what now?' })
  expect(within(verdict).getByRole('heading').textContent).toBe('Close it and leave it')
  expect(within(verdict).getByText('The lead decides.')).toBeTruthy()
  expect(within(verdict).getByText('So we do.')).toBeTruthy()
  await press('Not a drop: air or flake')
  expect(await screen.findByText('The drain does not run')).toBeTruthy()
})

it('is where it was after the device was off, and asks for what is seen where it is seen', async () => {
  await at('full_drain.drain_empty')
  expect(screen.getByRole('timer').getAttribute('aria-label')).toMatch(/^0 of about 4[0-9] minutes$/)
  await userEvent.click(screen.getByRole('radio', { name: 'heavy' }))
  await waitFor(() => expect(screen.getByRole('radio', { name: 'heavy' }).getAttribute('aria-checked')).toBe('true'))
  const here = heading()
  cleanup()
  page()
  await screen.findByText(/^step /)
  await settled()
  expect(heading()).toBe(here)
  expect(screen.getByRole('radio', { name: 'heavy' }).getAttribute('aria-checked')).toBe('true')
})

it('asks back where a tap is unusually hot, and takes it when it is said twice', async () => {
  await at('verify.tap_temperature')
  await userEvent.type(screen.getAllByLabelText(/Hottest water at the faucet/)[0]!, '88')
  expect(await screen.findByText(/88 °C is unusual: 30 °C to 75 °C is/)).toBeTruthy()
  expect((await written()).some((one) => one.value === 88)).toBe(false)
  await press('It is so')
  await waitFor(async () => expect((await written()).at(-1)).toMatchObject({ field: 'verify.tap_c', value: 88 }))
})

it('keeps what was typed and asked about when whoever typed it goes on', async () => {
  await at('verify.tap_temperature')
  await userEvent.type(screen.getAllByLabelText(/Hottest water at the faucet/)[0]!, '88')
  expect((await written()).some((one) => one.value === 88)).toBe(false)
  await userEvent.tab()
  await userEvent.tab()
  await waitFor(async () => expect((await written()).at(-1)).toMatchObject({ field: 'verify.tap_c', value: 88 }))
  expect(screen.getByText(/88 °C is unusual/)).toBeTruthy()
})

it('computes with what was read, says what is allowed, and keeps a reading', async () => {
  await at('full_drain.drain_empty')
  await userEvent.click(screen.getAllByText(/How long it drains:/)[0]!)
  const bore = screen.getByLabelText(/Bore of the drain/)
  await userEvent.clear(bore)
  await userEvent.type(bore, '19')
  expect(screen.getAllByText(/^10\.\d min$/).length).toBeGreaterThan(0)
  await userEvent.clear(bore)
  await userEvent.type(bore, '900')
  expect(screen.getByRole('alert').textContent).toBe('Bore of the drain: allowed is 3 mm to 60 mm.')
  await press('Calculators')
  await userEvent.click(screen.getAllByText(/Lime that was dissolved:/)[0]!)
  await press('Keep as a reading: Lime that was dissolved, 84 g')
  await waitFor(async () => expect((await written()).at(-1)).toMatchObject({ field: 'descale.dissolved_g', value: 84 }))
})

it('takes a figure that was tried in a calculator for a reading only when somebody keeps it', async () => {
  await at('full_drain.drain_empty')
  await press('Calculators')
  await userEvent.click(screen.getAllByText(/How soon it burns:/)[0]!)
  const water = screen.getByLabelText(/Water at the faucet/)
  await userEvent.clear(water)
  await userEvent.type(water, '70')
  expect(screen.getAllByText(/^1 s$/).length).toBeGreaterThan(0)
  const told = async () => (await written()).filter((one) => one.kind === 'answered')
  expect(await told()).toEqual([])
  await press('Keep as a reading: Water at the faucet, 70 °C')
  await waitFor(async () => expect(await told()).toMatchObject([{ field: 'verify.tap_c', value: 70 }]))
  expect(await screen.findByText('Kept as a reading: Water at the faucet, 70 °C')).toBeTruthy()
})

it('says at the end that all is well only where nothing can be otherwise', async () => {
  const visit = await at('the end')
  expect(heading()).toBe('Everything is as it should be left')
  expect(screen.getByRole('link', { name: 'Review and save' }).getAttribute('href')).toBe('/visit/4/close')
  cleanup()
  await forgetVisit(visit)
  await beginVisit(4, guide(), 1, 'Marram Bakery, T-4')
  const another = (await device.visits.toCollection().first())!.clientId
  await wrote(
    another,
    straight(GAS, 'the end', (one) =>
      /energise|light_pilot/.test(one.step) && one.kind === 'done' ? { ...one, kind: 'skipped', why: 'no time' } : one,
    ),
  )
  page()
  expect(within(await screen.findByRole('alert')).getByText(/only the pilot burns/)).toBeTruthy()
})

it('tells by itself that nobody was here for so long that others may have been', async () => {
  const visit = await at('isolate_water.close_cold')
  expect(state()).not.toContain('heat not known')
  cleanup()
  const every = await device.taps.toArray()
  await device.taps.bulkPut(
    every.map((one) => ({ ...one, at: new Date(Date.parse(one.at) - 3 * 3600_000).toISOString() })),
  )
  page()
  await waitFor(async () =>
    expect(
      (await device.taps.toArray())
        .filter((one) => one.visit === visit && one.kind === 'outside')
        .map((one) => one.name),
    ).toEqual(['away']),
  )
})

it('leads everybody out at a reading of carbon monoxide, asked back first', async () => {
  await beginVisit(4, guide({ usual_readings: { 'look.co_ppm': [0, 9] } }), 1, 'Marram Bakery, T-4')
  page(guide({ usual_readings: { 'look.co_ppm': [0, 9] } }))
  await userEvent.type(await screen.findByLabelText(/Carbon monoxide in the air/), '80')
  expect(heading()).toMatch(/Sniff low and high/)
  await press('It is so')
  await waitFor(() => expect(heading()).not.toMatch(/Sniff low and high/))
  expect(screen.queryByText('Look first')).toBeNull()
})

it('tells what to know before the first step, and at a step what is on record of its piece', async () => {
  page(guide({ to_know: ['Gate code 4471'], on_record: { cold_valve: 'gate, behind the panel' } }))
  expect(await screen.findByText('Gate code 4471')).toBeTruthy()
  cleanup()
  await at('isolate_water.close_cold', guide({ on_record: { cold_valve: 'gate, behind the panel' } }))
  expect(screen.getByText('On record: gate, behind the panel')).toBeTruthy()
})
