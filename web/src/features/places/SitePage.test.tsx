import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { zonesOptions } from '../../session/session'
import { answering, refusal, rendered } from '../../test/rendered'
import { siteOptions } from '../../records/placeQueries'
import { SiteForm } from './SiteForm'
import { SitePage } from './SitePage'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const site = (part: object = {}) =>
  ({
    id: 3,
    name: 'Marram Bakery',
    street: 'Quay 2',
    town: 'Weir',
    customer: 'Marram',
    customer_id: 5,
    phone: '555-0101',
    zone: 'Chalk',
    zone_id: 7,
    hazard: 'Low beam.',
    hazards: ['Low beam.'],
    access: '',
    softened: false,
    people: null,
    business: 'restaurant',
    fixtures: null,
    hot_water_l_per_day: 820,
    occupied_share: 0.5,
    practice: null,
    static_pressure_kpa: null,
    closed_system: true,
    dusty: false,
    ...part,
  }) as unknown as Schema['SiteOut']
const heater = (id: number, part: object = {}) => ({
  id,
  tag: `T-${id}`,
  kind: 'gas_tank',
  location: 'cellar',
  bank: '',
  depth_share: null,
  anode_left: null,
  next_component: 'sediment',
  next_due_on: '2027-03-10',
  ...part,
})
const feature = (part: object = {}) => ({
  id: 1,
  kind: 'house_shut_off',
  name: 'house shut-off',
  group: 'shut_off',
  form: 'gate valve',
  where: 'pit',
  heater_id: null,
  severity: '',
  condition_words: 'sound',
  do_not_operate: false,
  use_instead: '',
  note: '',
  seen_on: '2026-03-08',
  ...part,
})
const PAGE = {
  site: site(),
  heaters: [heater(1), heater(2, { location: 'attic', next_component: null })],
  features: [feature()],
  unseen: [{ kind: 'floor_drain', name: 'floor drain', group: 'drain', heater_id: null }],
  open_ends: [],
}

function page(part: object = {}, may: Schema['Action'][] = ['read', 'edit_register', 'record_place']) {
  answering()
  rendered(
    <Routes>
      <Route path="/sites/:siteId" element={<SitePage />} />
    </Routes>,
    { at: '/sites/3', may, known: [[siteOptions(3).queryKey, { ...PAGE, ...part }]] },
  )
}
const stands = () => within(screen.getByRole('region', { name: 'What stands here' }))

it('says hazards first, and whom to call', () => {
  page()
  expect(screen.getByText('Low beam.')).toBeTruthy()
  expect(screen.getByRole('link', { name: '555-0101' }).getAttribute('href')).toBe('tel:555-0101')
})

it('lists its heaters with what is next, and its use as it is known', () => {
  page()
  const here = within(screen.getByRole('region', { name: 'Heaters and use' }))
  expect(here.getByRole('link', { name: /^Cellar/ }).textContent).toContain('Flush: week of 8 March 2027')
  expect(here.getByRole('link', { name: /^Attic/ }).textContent).not.toContain('Flush')
  const use = Object.fromEntries(
    here.getAllByRole('term').map((term) => [term.textContent, term.nextElementSibling!.textContent]),
  )
  expect(use).toMatchObject({
    People: 'a restaurant',
    'Hot water': '820 L a day, metered',
    'Hot fixtures': 'not known',
    'Lived in': '50 % of the year',
    Pressure: 'not known',
    System: 'closed',
    Access: 'nothing noted',
  })
})

it('tells which valve not to touch and what to use instead', () => {
  page({
    features: [
      feature({ do_not_operate: true, severity: 'danger', condition_words: 'brittle', use_instead: 'the street cock' }),
      feature({
        id: 2,
        kind: 'heater_shut_off',
        name: 'cold shut-off',
        heater_id: 2,
        do_not_operate: true,
        condition_words: 'seized',
        seen_on: '2021-01-05',
      }),
    ],
  })
  expect(stands().getByText(/Don’t touch: brittle. Use the street cock./).className).toContain('oxide')
  // Of several heaters it is said which is meant; and that nobody has looked for long.
  expect(stands().getByText(/, attic, gate valve, pit/)).toBeTruthy()
  expect(stands().getByText(/Don’t touch: seized. Use the next valve up./).textContent).toContain('long not looked at')
})

it('offers to write down what nobody has looked at, to whoever records it', async () => {
  page()
  await userEvent.click(stands().getByRole('button', { name: 'floor drain' }))
  expect(await screen.findByRole('dialog', { name: 'Floor drain' })).toBeTruthy()
  cleanup()
  page({}, ['read'])
  expect(stands().queryByRole('button')).toBeNull()
  expect(stands().getByText(/floor drain/)).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Edit site' })).toBeNull()
})

it('sends a site as it was typed, shares as shares, and empty as not known', async () => {
  const sent = answering({ body: PAGE })
  rendered(<SiteForm site={site()} onDone={vi.fn()} />, {
    known: [[zonesOptions.queryKey, [{ id: 7, name: 'Chalk' }]]],
  })
  await userEvent.clear(screen.getByLabelText(/^Lived in/))
  await userEvent.type(screen.getByLabelText(/^Lived in/), '40')
  await userEvent.clear(screen.getByLabelText(/^Hot water/))
  await userEvent.selectOptions(screen.getByLabelText('System'), '')
  await userEvent.click(screen.getByRole('button', { name: 'Save site' }))
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]).toMatchObject({ method: 'PATCH', path: '/api/sites/3' })
  expect(sent[0]!.body).toMatchObject({
    occupied_share: 0.4,
    hot_water_l_per_day: null,
    closed_system: null,
    business: 'restaurant',
    people: null,
    zone_id: 7,
  })
})

it('tells who changed the site meanwhile, keeps what was typed, and saves from there when it is meant', async () => {
  const told = 'Nadia changed this meanwhile: street is now 9 Mill Lane.'
  const sent = answering(
    { status: 409, body: { code: 'changed_meanwhile', message: told, fields: { version: '12' } } },
    { body: PAGE },
  )
  const done = vi.fn()
  rendered(<SiteForm site={site({ version: 7 })} onDone={done} />)
  await userEvent.type(screen.getByLabelText(/^Name/), ' East')
  await userEvent.click(screen.getByRole('button', { name: 'Save site' }))
  expect(await screen.findByText(told)).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>(/^Name/).value).toContain(' East')
  await userEvent.click(screen.getByRole('button', { name: 'Save site' }))
  await waitFor(() => expect(done).toHaveBeenCalled())
  expect(sent.map((one) => (one.body as Schema['SitePatch']).version)).toEqual([7, 12])
})

it('keeps what was typed and says at which field it cannot be so', async () => {
  answering(refusal('Not accepted.', { static_pressure_kpa: 'This is not a number that fits here.' }))
  const done = vi.fn()
  rendered(<SiteForm site={site()} onDone={done} />)
  await userEvent.type(screen.getByLabelText(/^Static pressure/), 'high')
  await userEvent.click(screen.getByRole('button', { name: 'Save site' }))
  expect(await screen.findByText('This is not a number that fits here.')).toBeTruthy()
  expect(screen.getByLabelText(/^Static pressure/)).toHaveProperty('value', 'high')
  expect(done).not.toHaveBeenCalled()
})
