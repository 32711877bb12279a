import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { zoneOptions } from '../../records/waterQueries'
import { ZonePage } from './ZonePage'

beforeEach(() => sized())
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

const taken = (id: number, part: object = {}) => ({
  id,
  taken_on: '2026-03-08',
  method: 'strip',
  site_id: null,
  site: '',
  total_hardness_mg_l: 280,
  alkalinity_mg_l: null,
  ph: null,
  conductivity_us_cm: null,
  iron_mg_l: null,
  may_be_off_by: 1.2,
  ...part,
})
const ZONE = {
  id: 7,
  name: 'Chalk',
  code: 'CHK',
  tests: 2,
  hardness_mg_l: 280,
  hardness_class: 'very hard',
  carbonate_is_known: false,
  log_sd: 0.47,
  saturation_index_60: 0.91,
  potential_60_mg_l: 48.2,
  softened_potential_60_mg_l: 0,
  heaters: 20,
  softened_heaters: 4,
  in_words: 'Your supply is very hard.',
  supply: 'mains',
  note: 'from chalk',
  practice: '',
  assumed: [
    { figure: 'alkalinity_mg_l', value: 214.33 },
    { figure: 'ph', value: 7.4 },
  ],
  tests_taken: [taken(1), taken(2, { site_id: 3, site: 'Marram Bakery', ph: 7.5 })],
  seasons: [{ name: 'summer', other: 'Upland', share_of_year: 0.25, other_share: 0.6 }],
  kinds: [
    { kind: 'gas_tank', component: 'sediment', pace: 0.47, pace_low: 0.1, pace_high: 0.9, heaters: 12 },
    { kind: 'gas_tankless', component: 'scale', pace: -0.47, pace_low: -1.2, pace_high: 0.2, heaters: 3 },
    { kind: 'electric_tank', component: 'anode', pace: 0.02, pace_low: -0.3, pace_high: 0.3, heaters: 5 },
  ],
  sites_total: 9,
  sites_with_a_test: 1,
  without_a_test: [{ id: 4, name: 'Pell School', street: 'Hill 1', heaters: 2, softened: true }],
  points: [],
  outline: null,
}

function page(part: object = {}, may: Schema['Action'][] = ['read', 'edit_register', 'record_place']) {
  rendered(
    <Routes>
      <Route path="/water/:zoneId" element={<ZonePage />} />
    </Routes>,
    { at: '/water/7', may, known: [[zoneOptions(7).queryKey, { ...ZONE, ...part }]] },
  )
}
const press = (name: string) => userEvent.click(screen.getByRole('button', { name }))

it('says what is assumed of a water and what that costs', () => {
  answering()
  page()
  expect(
    screen.getByText(
      /Not tested, so assumed: alkalinity 214, pH 7.4. That alone makes dates here unsure by a factor of 1.6./,
    ),
  ).toBeTruthy()
  expect(screen.getByText(/Summer: for 25 % of the year 60 % of it is Upland./)).toBeTruthy()
  cleanup()
  page({ log_sd: 0.01 })
  expect(screen.queryByText(/unsure by a factor/)).toBeNull()
})

it('lists its tests, those of one site by its name, and gives a figure that none tells no room', () => {
  answering()
  page()
  const rows = within(screen.getByRole('table')).getAllByRole('row').slice(1)
  expect(
    within(rows[0]!)
      .getAllByRole('cell')
      .map((cell) => cell.textContent),
  ).toEqual(['8 March', 'strip', '280 mg/L', ''])
  expect(screen.getAllByRole('columnheader').map((head) => head.textContent)).toEqual([
    'Taken',
    'How',
    'Hardness',
    'pH',
  ])
  expect(within(rows[1]!).getByRole('link', { name: 'Marram Bakery' }).getAttribute('href')).toBe('/sites/3')
})

it('says how fast each kind goes on it against what the water alone suggests', () => {
  answering()
  page()
  const said = (words: RegExp) => screen.getByText(words).closest('li')!.textContent
  expect(said(/^gas tank, flush/i)).toContain('1.6 times faster 1.1 to 2.5 (12)')
  expect(said(/^gas tankless, descale/i)).toContain('1.6 times slower 0.8 to 3.3 (3)')
  expect(said(/^electric tank, anode/i)).toContain('as suggested 0.7 to 1.3 (5)')
})

it('keeps a test with what was read, where it was taken', async () => {
  const sent = answering({ body: ZONE })
  page()
  await press('Add a test')
  await userEvent.selectOptions(screen.getByLabelText('How'), 'strip')
  await userEvent.selectOptions(screen.getByLabelText('Where'), '4')
  await userEvent.type(screen.getByLabelText(/^Hardness/, { selector: 'input' }), '265')
  await userEvent.type(screen.getByLabelText('pH'), '7,3')
  await press('Keep the test')
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]).toMatchObject({
    path: '/api/zones/7/tests',
    body: {
      method: 'strip',
      site_id: 4,
      taken_on: '2026-11-25',
      total_hardness_mg_l: 265,
      ph: 7.3,
      alkalinity_mg_l: null,
      iron_mg_l: null,
    },
  })
})

it('says at which figure a test cannot be so, and keeps all that was typed', async () => {
  const sent = answering(refusal('Not accepted.', { ph: 'This is not a number that fits here.' }))
  page()
  await press('Add a test')
  await userEvent.type(screen.getByLabelText(/^Hardness/, { selector: 'input' }), '265')
  await userEvent.type(screen.getByLabelText('pH'), 'neutral')
  await press('Keep the test')
  expect(await screen.findByText('This is not a number that fits here.')).toBeTruthy()
  expect(sent[0]!.body).toMatchObject({ ph: 'no number', total_hardness_mg_l: 265 })
  expect(screen.getByLabelText('pH')).toHaveProperty('value', 'neutral')
})

it('asks once about a figure that is hardly so, and takes it when it is said again', async () => {
  const asks = '22 mg/L where 280 mg/L was usual. Was it grains?'
  const sent = answering(refusal(asks, { sure: asks }))
  page()
  await press('Add a test')
  const hardness = screen.getByLabelText(/^Hardness/, { selector: 'input' })
  await userEvent.type(hardness, '22')
  await press('Keep the test')
  expect(await screen.findByText(asks)).toBeTruthy()
  await press('It is so: keep it')
  await waitFor(() => expect(sent).toHaveLength(2))
  expect(sent.map((one) => (one.body as { sure: boolean }).sure)).toEqual([false, true])
  // Another figure is asked about anew.
  await userEvent.type(hardness, '5')
  expect(screen.getByRole('button', { name: 'Keep the test' })).toBeTruthy()
})

it('fetches the supplier’s figures of a main, and offers that for no well', async () => {
  const sent = answering({ body: { new: 0 } })
  page()
  await press('Fetch the supplier’s figures')
  expect(sent[0]!.method).toBe('POST')
  cleanup()
  page({ supply: 'well' })
  expect(screen.queryByRole('button', { name: 'Fetch the supplier’s figures' })).toBeNull()
  expect(screen.getByText(/Each well is a water of its own/)).toBeTruthy()
})

it('lets whoever only reads change nothing', () => {
  answering()
  page({}, ['read'])
  for (const name of ['Add a test', 'Edit', 'Fetch the supplier’s figures'])
    expect(screen.queryByRole('button', { name })).toBeNull()
})
