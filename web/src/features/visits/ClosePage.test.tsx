import 'fake-indexeddb/auto'

import { act, cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { beginVisit, tap, type Tapped } from '../../device/eventLog'
import { device } from '../../device/store'
import { rendered } from '../../test/rendered'
import { heaterOptions, logOptions } from '../../records/heaterQueries'
import { ClosePage } from './ClosePage'
import vectors from './guide/interlock.vectors.json'

// The pad draws on a canvas, which this page's tests have none of.
vi.mock('signature_pad')

const GUIDE = (vectors as unknown as { visits: { guide: Schema['GuideOut'] }[] }).visits[0]!.guide
const guide = {
  ...GUIDE,
  components: ['sediment', 'relief_valve'],
  on_site_rules: [],
  figures: [],
  upkeep: [],
  usual_readings: { 'expansion_tank.precharge_kpa': [70, 700] },
} as unknown as Schema['GuideOut']
const HEATER = {
  id: 4,
  tag: 'T-4',
  kind: 'gas_tank',
  is_tank: true,
  shut_offs: [],
  open_ends: [],
  guessed: [],
  parts: [{ kind: 'anode', alloy: 'magnesium' }, { kind: 'expansion_tank' }],
  site: { name: 'Marram Bakery', hazards: [] },
}
const LOG = {
  measure: false,
  judgements: [],
  forecasts: [],
  entries: [],
  upkeep: [{ item: 'burner', due_on: '2027-01-01', interval_months: 8.4, because: [] }],
}

beforeEach(async () => {
  await Promise.all([device.visits.clear(), device.taps.clear(), device.unsent.clear()])
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

/** What the server was sent; it answers as one that has the visit. */
function server(answer: Partial<Schema['VisitOut']> = {}) {
  const sent: { path: string; body: Record<string, unknown> }[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    if (request.method === 'GET') return new Promise<Response>(() => undefined)
    const body = (await request.json()) as Record<string, unknown>
    const path = new URL(request.url).pathname
    sent.push({ path, body })
    const told = path.endsWith('sessions')
      ? { client_id: body.client_id, components: guide.components, events: [], refused: [], cursor: 0, recorded: null }
      : path.endsWith('amendments')
        ? []
        : {
            id: 9,
            client_id: body.client_id,
            heater_id: 4,
            on: '2026-11-25',
            technician: 'Nadia',
            moved: [],
            follow_ups: [],
            already_recorded: false,
            not_in_record: [],
            ...answer,
          }
    return new Response(JSON.stringify(told), {
      status: path.endsWith('sessions') ? 200 : 201,
      headers: { 'Content-Type': 'application/json' },
    })
  })
  return sent
}

async function page(
  told: Tapped[] = [],
  may: Schema['Action'][] = ['read', 'record_visit', 'record_alone'],
  heater: object = HEATER,
  led: Schema['GuideOut'] = guide,
) {
  await beginVisit(4, led, 1, 'Marram Bakery, T-4')
  const visit = (await device.visits.toCollection().first())!.clientId
  if (told.length > 0) await tap(visit, ...told)
  rendered(
    <Routes>
      <Route path="/visit/:heaterId/close" element={<ClosePage />} />
      <Route path="/visit/:heaterId" element={<p>the briefing</p>} />
    </Routes>,
    {
      at: '/visit/4/close',
      may,
      known: [
        [heaterOptions(4).queryKey, heater],
        [logOptions(4).queryKey, LOG],
      ],
    },
  )
  await screen.findByRole('button', { name: 'Save the visit' })
  return visit
}

const answered = (field: string, value: Tapped['value']): Tapped => ({ kind: 'answered', field, value: value ?? null })
const group = (name: string) => screen.getByText(name, { selector: 'summary strong' }).closest('details')!
const save = () => userEvent.click(screen.getByRole('button', { name: 'Save the visit' }))
const radio = (name: string | RegExp) => userEvent.click(screen.getByRole('radio', { name, hidden: true }))

it('says what was to be done and is not told yet, and what was told of each thing in a line', async () => {
  server()
  await page([answered('flush.removed', 'heavy'), answered('flush.drain_flow', 'slow'), answered('rod.replaced', true)])
  expect(screen.getByText('Planned, not recorded yet: relief valve.')).toBeTruthy()
  expect(group('Flush').querySelector('summary')!.textContent).toBe('Flush heavy, slow')
  expect(group('Anode').querySelector('summary')!.textContent).toBe('Anode i fitted a new rod')
  expect(group('Look').querySelector('summary')!.textContent).toBe('Look not told')
  expect(screen.queryByText('Descale', { selector: 'summary strong' })).toBeNull()
})

it('leaves out with a word, and takes in again what is answered after all', async () => {
  server()
  await page([answered('flush.removed', 'heavy')])
  await userEvent.click(within(group('Flush')).getByText('Not flushed today'))
  await waitFor(() => expect(group('Flush').querySelector('summary')!.textContent).toBe('Flush Not flushed today'))
  await radio('trace')
  await waitFor(() => expect(group('Flush').querySelector('summary')!.textContent).toBe('Flush trace'))
})

it('asks back what is unusual, keeps the last number that could be read, and sends it as it is stored', async () => {
  const sent = server()
  await page([answered('expansion_tank.at_valve', 'air')])
  const charge = within(group('Expansion tank')).getByLabelText(/Charge as you found it/)
  await userEvent.type(charge, '345x')
  await userEvent.type(charge, '{Backspace}{Backspace}{Backspace}{Backspace}2000')
  expect(screen.getByRole('alert').textContent).toMatch(/2000 kPa is unusual: 70 kPa to 700 kPa is/)
  await userEvent.clear(charge)
  await userEvent.type(charge, '345,5')
  await waitFor(() => expect(group('Expansion tank').textContent).toContain('345.5 kPa'))
  await save()
  await screen.findByRole('heading', { name: 'Visit saved: new due dates' })
  expect(sent.at(-1)!.body).toMatchObject({ heater_id: 4, findings: [], supervised_by: null, signature: null })
  // The server takes what was found from what was tapped.
  const told = sent.flatMap((one) => (one.body.events as { field: string; value: unknown }[] | undefined) ?? [])
  expect(told.findLast((one) => one.field === 'expansion_tank.precharge_kpa')?.value).toBe(345.5)
})

it('does not save where nothing was found, or where an apprentice does not say under whom', async () => {
  const sent = server()
  const visit = await page([], ['read', 'record_visit'])
  await save()
  expect(screen.getByRole('alert').textContent).toMatch(/Record at least one finding/)
  await tap(visit, answered('valve.outcome', 'no_flow'))
  await waitFor(() => expect(group('Relief valve').textContent).toContain('Lever moves'))
  await save()
  expect(screen.getByRole('alert').textContent).toBe('Say under whom you worked.')
  await tap(visit, answered('supervised_by', 3))
  await screen.findByText('Choose …')
  await waitFor(async () => expect(await device.taps.count()).toBe(2))
  await save()
  await screen.findByRole('heading', { name: 'Visit saved: new due dates' })
  expect(sent.at(-1)!.body).toMatchObject({ supervised_by: 3 })
  // The device keeps nothing of it.
  expect(await device.visits.count()).toBe(0)
  expect(await device.taps.count()).toBe(0)
})

it('asks under whom only for what its technician is not signed off for', async () => {
  const sent = server()
  const visit = await page([answered('flush.removed', 'trace')], ['read', 'record_visit'], HEATER, {
    ...guide,
    supervision: ['anode', 'scale', 'tank'],
  })
  expect(screen.getByRole('option', { name: 'Alone' })).toBeTruthy()
  await tap(visit, answered('rod.grade', 'half'))
  await screen.findByRole('option', { name: 'Choose …' })
  await save()
  expect(screen.getByRole('alert').textContent).toBe('Say under whom you worked.')
  await tap(visit, answered('rod.grade', null))
  await screen.findByRole('option', { name: 'Alone' })
  // A look all round is work of its own.
  await tap(visit, answered('look.noise', 'popping'))
  await screen.findByRole('option', { name: 'Choose …' })
  await tap(visit, answered('look.noise', null))
  await screen.findByRole('option', { name: 'Alone' })
  await save()
  await screen.findByRole('heading', { name: 'Visit saved: new due dates' })
  expect(sent.at(-1)!.body).toMatchObject({ supervised_by: null })
})

it('opens the signature while something else is still being drawn', async () => {
  server()
  await page([])
  const signing = screen.getByText('Signature', { selector: 'summary' }).closest('details')!
  act(() => {
    fireEvent.click(screen.getByRole('button', { name: 'Save the visit' }))
    signing.open = true
    fireEvent(signing, new Event('toggle'))
  })
  expect(screen.getByLabelText('Who signs')).toBeTruthy()
})

it('saves what was tapped a moment before, however slowly it is written', async () => {
  const sent = server()
  await page([])
  // Both in one breath: nothing is written between them.
  fireEvent.click(screen.getByRole('radio', { name: /^Lever moves/, hidden: true }))
  fireEvent.click(screen.getByRole('button', { name: 'Save the visit' }))
  fireEvent.click(screen.getByRole('button', { name: 'Save the visit' }))
  await screen.findByRole('heading', { name: 'Visit saved: new due dates' })
  const told = sent.flatMap((one) => (one.body.events as { field: string; value: unknown }[] | undefined) ?? [])
  expect(told.map((one) => one.field)).toContain('valve.outcome')
  // What is told beside it may send it too: it is one visit all the same.
  const saved = sent.filter((one) => one.path === '/api/visits')
  expect(new Set(saved.map((one) => one.body.client_id)).size).toBe(1)
})

it('shows what follows, and adds what another device had saved without', async () => {
  const sent = server({
    already_recorded: true,
    not_in_record: ['Rod half gone'],
    follow_ups: [{ what: 'relief valve', why: ['it passed no water'], licensed: true, warranty_until: null }],
  })
  await page([answered('rod.grade', 'half')])
  await save()
  expect(await screen.findByRole('heading', { name: 'Nadia saved this visit first' })).toBeTruthy()
  expect(screen.getByText('Relief valve').parentElement!.textContent).toContain('for a licensed person')
  await userEvent.click(screen.getByRole('button', { name: 'Add it to the record' }))
  expect((await screen.findByRole('status')).textContent).toBe('It stands in the record as an amendment.')
  expect(sent.at(-1)).toMatchObject({ path: '/api/visits/9/amendments', body: { answers: { 'rod.grade': 'half' } } })
})

it('keeps a visit without a signal and says so', async () => {
  vi.stubGlobal('fetch', () => Promise.reject(new TypeError('no signal')))
  const visit = await page([answered('valve.outcome', 'flows_and_reseats')])
  await save()
  await screen.findByRole('heading', { name: 'Kept on this device' })
  // The second tap of a wet hand lands on what has come there, and does nothing yet.
  const next = screen.getByRole('link', { name: 'Next heater' })
  expect(fireEvent.click(next)).toBe(false)
  expect(screen.getByRole('heading', { name: 'Kept on this device' })).toBeTruthy()
  expect(await device.unsent.get(visit)).toMatchObject({ heater: 'Marram Bakery, T-4', by: 1 })
  expect(await device.taps.count()).toBe(1)
})

it('gives a visit back that the server refuses, with its reason and all that was told', async () => {
  vi.stubGlobal('fetch', async (request: Request) => {
    if (request.method === 'GET') return new Promise<Response>(() => undefined)
    const begun = request.url.endsWith('sessions')
    const body = begun
      ? { client_id: 'x', components: guide.components, events: [], refused: [], cursor: 0, recorded: null }
      : { code: 'visit.invalid', message: 'It is in the future.', fields: {} }
    return Promise.resolve(
      new Response(JSON.stringify(body), {
        status: begun ? 200 : 422,
        headers: { 'Content-Type': 'application/json' },
      }),
    )
  })
  await page([answered('valve.outcome', 'flows_and_reseats')])
  // A device that is slow to read: the answer is there before the visit is.
  const where = device.visits.where.bind(device.visits) as (by: unknown) => { toArray?: () => Promise<unknown> }
  vi.spyOn(device.visits, 'where').mockImplementation(((by: unknown) => {
    const found = where(by)
    const read = found.toArray?.bind(found)
    if (read)
      found.toArray = async () => {
        const all = await read()
        await new Promise((done) => setTimeout(done, 100))
        return all
      }
    return found
  }) as never)
  await save()
  expect((await screen.findByRole('alert')).textContent).toBe('It is in the future.')
  // The visit is read from the device anew.
  await waitFor(() => expect(group('Relief valve').textContent).toContain('Ran freely'))
})

it('has a line for the customer’s report, and tells the notes of the steps', async () => {
  const sent = server()
  const visit = await page([
    answered('rod.grade', 'half'),
    { kind: 'noted', step: 'arrival.look', why: 'the strap is loose', name: 'another_day' },
  ])
  expect(screen.getByRole('list', { name: 'Notes of this visit' }).textContent).toContain(
    'the strap is loosefor another day',
  )
  await userEvent.type(
    screen.getByLabelText('A line for the customer’s report'),
    'The valve behind the washer is yours.',
  )
  await save()
  await waitFor(() =>
    expect(sent.find((one) => one.path === '/api/visits')?.body).toMatchObject({
      client_id: visit,
      note: 'The valve behind the washer is yours.',
    }),
  )
})
