import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, refusal, rendered, TODAY } from '../../../test/rendered'
import { attachmentsOptions } from '../../../records/attachmentQueries'
import { dayOptions, stockOptions } from '../../../records/roundQueries'
import { MyRound } from './MyRound'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const service = (heater_id: number, component: string) => ({
  heater_id,
  tag: `T-${heater_id}`,
  kind: 'gas_tank',
  component,
  method: 'exercise',
  hours: 0.5,
})
const appointment = {
  id: 1,
  site: 'Quarry',
  street: '1 Mill Rise',
  town: 'Scarrow',
  site_id: 8,
  customer: 'Quarry Ltd',
  reason: 'complaint',
  said: 'lukewarm',
  photos: ['5b0c0a56-0000-4000-8000-000000000001'],
  decides: 'Ida Brandt',
  access: 'key under the mat',
  note: '',
  located: true,
  latitude: -41.2,
  longitude: -28.27,
  phone: '555-0101',
  standing: 'promised',
  earliest: 510,
  latest: 600,
  hazard: 'Hatch drops',
  services: [service(1, 'sediment'), service(1, 'anode'), service(2, 'relief_valve')],
}
const round = (user_id: number | undefined) => ({
  user_id,
  member_id: 5,
  back: 900,
  done: [] as object[],
  calls: [{ appointment, arrives: 530, begins: 540, ends: 640 }],
})

it('leads to each heater once, with the promise and the hazard', () => {
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, { on: TODAY, rounds: [round(1)], without_time: [] }]] })
  expect(screen.getByText('9:00 to 10:40 · promised between 8:30 and 10:00')).toBeTruthy()
  for (const words of [
    'Hatch drops',
    'complaint: lukewarm',
    'Ida Brandt decides about more work.',
    'Access: key under the mat',
  ])
    expect(screen.getByText(words)).toBeTruthy()
  expect(screen.getAllByRole('link').map((one) => one.getAttribute('href'))).toEqual([
    'geo:-41.2,-28.27?q=1%20Mill%20Rise%2C%20Scarrow',
    'tel:555-0101',
    '/sites/8',
    '/visit/1',
    '/visit/2',
  ])
})

it('shows nobody the round of somebody else', () => {
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, { on: TODAY, rounds: [round(77)], without_time: [] }]] })
  expect(screen.queryByText('Quarry')).toBeNull()
})

const day = { on: TODAY, rounds: [round(1)], without_time: [] }

it('says late in two taps, and what that moved', async () => {
  const sent = answering({ body: [appointment, appointment] })
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, day]] })
  await userEvent.click(screen.getByRole('button', { name: 'Running late' }))
  await userEvent.click(screen.getByRole('button', { name: '20 min' }))
  expect(sent).toEqual([{ method: 'POST', path: '/api/rounds/mine/1/late', body: { minutes: 20 } }])
  expect(await screen.findByText(/2 visits are later/)).toBeTruthy()
})

it('says why it could not be done, with words for the office, and keeps them where that was refused', async () => {
  const sent = answering(refusal('Somebody moved it.'))
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, day]] })
  await userEvent.click(screen.getByRole('button', { name: 'Could not do it' }))
  await userEvent.type(screen.getByLabelText('What the office should know'), 'dog')
  await userEvent.click(screen.getByRole('button', { name: 'No one home' }))
  expect(sent[0]!.body).toEqual({ why: 'nobody_home', words: 'dog' })
  expect((await screen.findByRole('alert')).textContent).toContain('ring the office')
  expect(screen.getByLabelText<HTMLInputElement>('What the office should know').value).toBe('dog')
})

it('tells what the truck has to carry and has not, and takes it as loaded', async () => {
  const line = (part: string, to_add: number) => ({ part, expected: 1, quantity: 2, held: 2 - to_add, to_add })
  const trucks = [
    { member_id: 9, name: 'Other', lines: [line('rod', 1)] },
    { member_id: 5, name: 'Tamsin', lines: [line('hose washer', 2), line('valve', 0)] },
  ]
  rendered(<MyRound />, {
    known: [
      [dayOptions(TODAY).queryKey, day],
      [stockOptions(TODAY).queryKey, { service_level: 0.9, trucks, to_buy: [] }],
    ],
  })
  expect(screen.getByText('To load: 1 thing')).toBeTruthy()
  expect(screen.queryByText('rod')).toBeNull()
  const sent = answering({ body: {} })
  await userEvent.click(screen.getByText('To load: 1 thing'))
  await userEvent.click(screen.getByRole('button', { name: 'Loaded: 2 hose washer' }))
  expect(sent[0]).toMatchObject({ method: 'POST', path: '/api/stock-moves' })
  expect(sent[0]!.body).toMatchObject({ part: 'hose washer', quantity: 2, source: null, target: 5 })
})

it('goes along the rope: what is done, what is next, and any other by its knot or its line', async () => {
  const later = { ...appointment, id: 2, site: 'Mill', reason: 'due', note: 'gate 4411' }
  const calls = [
    { appointment, arrives: 0, begins: 0, ends: 1 },
    { appointment: later, arrives: 1380, begins: 1380, ends: 1439 },
  ]
  const done = [{ id: 9, site_id: 3, site: 'Forge', begins: 420 }]
  rendered(<MyRound />, {
    known: [[dayOptions(TODAY).queryKey, { on: TODAY, rounds: [{ ...round(1), calls, done }], without_time: [] }]],
  })
  const rope = screen.getByRole('list', { name: 'The day' })
  expect(rope.textContent).toContain('done: Forge')
  expect(screen.getByRole('button', { name: '23:00, Mill, next' }).getAttribute('aria-pressed')).toBe('true')
  expect(screen.getByText('gate 4411')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: '0:00, Quarry' }))
  expect(screen.queryByText('gate 4411')).toBeNull()
  await userEvent.click(within(screen.getByRole('list', { name: 'The other visits' })).getByRole('button'))
  expect(screen.getByText('gate 4411')).toBeTruthy()
})

it('puts a heater on record that nobody knew of, and leads to its visit', async () => {
  const sent = answering({ body: { id: 77 } })
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, { on: TODAY, rounds: [round(1)], without_time: [] }]] })
  await userEvent.click(screen.getByRole('button', { name: 'Another heater stands here' }))
  const form = within(screen.getByRole('dialog', { name: 'Another heater at Quarry' }))
  await userEvent.selectOptions(form.getByLabelText('What it is'), 'electric_tank')
  await userEvent.type(form.getByLabelText('Tag that you put on it'), ' Q-7 ')
  await userEvent.type(form.getByLabelText('Where it stands'), 'attic')
  await userEvent.type(form.getByLabelText('Size on its plate L'), 'big')
  await userEvent.click(form.getByRole('button', { name: 'Put it on record and begin' }))
  expect(form.getByText('a number')).toBeTruthy()
  expect(sent).toEqual([])
  await userEvent.clear(form.getByLabelText('Size on its plate L'))
  await userEvent.type(form.getByLabelText('Size on its plate L'), '150')
  await userEvent.click(form.getByRole('button', { name: 'Put it on record and begin' }))
  expect(sent[0]?.path).toBe('/api/heaters')
  expect(sent[0]?.body).toEqual({
    site_id: 8,
    kind: 'electric_tank',
    tag: 'Q-7',
    location: 'attic',
    note: '',
    capacity_l: 150,
    install_certainty: 'unknown',
    flush_history: 'unknown',
  })
})

it('shows the photographs that came with what was said, and no others of the site', () => {
  const picture = { id: 4, kind: 'photograph', caption: 'rust at the seam', visit_client_id: appointment.photos[0] }
  rendered(<MyRound />, {
    known: [
      [dayOptions(TODAY).queryKey, { on: TODAY, rounds: [round(1)], without_time: [] }],
      [attachmentsOptions({ site_id: 8 }).queryKey, [picture, { ...picture, id: 5, visit_client_id: null }]],
    ],
  })
  const sent = within(screen.getByRole('list', { name: 'Photographs that they sent' }))
  expect(sent.getAllByRole('img').map((one) => one.getAttribute('alt'))).toEqual(['rust at the seam'])
  expect(sent.getByRole('link').getAttribute('href')).toBe('/api/attachments/4/file')
})
