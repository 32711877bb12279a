import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { RegisterPage } from './RegisterPage'

const row = (id: number, part: object = {}) =>
  ({
    id,
    tag: `T-${id}`,
    site: `House ${id}`,
    street: 'Quarry Lane',
    location: 'cellar',
    kind: 'gas_tank',
    capacity_l: 189,
    zone: 'Chalk',
    hazard: '',
    left_off: '',
    installed_on: '2020-11-25',
    install_certainty: 'estimated',
    depth_share: null,
    anode_left: null,
    next_component: 'sediment',
    next_due_on: '2027-03-10',
    ...part,
  }) as unknown as Schema['HeaterRowOut']

let asked: URLSearchParams[] = []
let rows: Schema['HeaterRowOut'][] = []
let total = 0

beforeEach(() => {
  sized(900, 600)
  asked = []
  rows = [row(1), row(2, { kind: 'gas_tankless', installed_on: null, next_component: null, hazard: 'Low beam.' })]
  total = 2
  vi.stubGlobal('fetch', (request: Request) => {
    const url = new URL(request.url)
    if (url.pathname === '/api/heaters') asked.push(url.searchParams)
    const offset = Number(url.searchParams.get('offset') ?? 0)
    const answers: Record<string, unknown> = {
      '/api/heaters': { total, rows: rows.slice(offset, offset + 100) },
      '/api/open-ends': { total: 3, rows: [], by_severity: { danger: 1 } },
    }
    const body = answers[url.pathname] ?? []
    return Promise.resolve(new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } }))
  })
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

const page = (at = '/register', may?: Schema['Action'][]) => rendered(<RegisterPage />, { at, ...(may ? { may } : {}) })
const list = () => within(screen.getByRole('region', { name: 'Heaters on record' }))

it('tells each heater in a line, and what is not known of it', async () => {
  page()
  const [first, second] = [
    await screen.findByRole('button', { name: /House 1/ }),
    await screen.findByRole('button', { name: /House 2/ }),
  ]
  expect(first.textContent).toMatch(/Quarry Lane, cellarT-1gas tank, 189 LChalk~ 6 yFlushweek of 8 March 2027/)
  expect(second.textContent).toMatch(/^! Hazard: .+ House 2/)
  expect(second.textContent).toMatch(/not knownno forecast yet$/)
})

it('asks for what the sentence says', async () => {
  page('/register?which=guessed&zone=7&kind=gas_tank&q=quay')
  await screen.findByRole('button', { name: /House 1/ })
  expect(Object.fromEntries(asked[0]!)).toMatchObject({ guessed: 'true', zone_id: '7', kind: 'gas_tank', q: 'quay' })
  const labels = screen.getByRole('link', { name: 'Labels' }).getAttribute('href')!
  expect(labels).toContain('guessed=true')
  expect(labels).toContain('zone_id=7')
})

it('asks anew as words are typed, and keeps them in the address', async () => {
  page()
  await screen.findByRole('button', { name: /House 1/ })
  await userEvent.type(screen.getByLabelText('Words to look for'), 'weir ')
  await waitFor(() => expect(asked.at(-1)!.get('q')).toBe('weir'))
})

it('fetches on only when the end of a long list comes into view', async () => {
  rows = Array.from({ length: 240 }, (_, at) => row(at + 1))
  total = 240
  page()
  await screen.findByRole('button', { name: /House 1Q/ })
  expect(list().getAllByRole('button').length).toBeLessThan(60)
  expect(asked.map((query) => query.get('offset'))).toEqual(['0'])
})

it('offers to change all of them only to whoever edits, and never in the archive', async () => {
  page()
  expect(await screen.findByRole('button', { name: 'Change all 2' })).toBeTruthy()
  cleanup()
  page('/register?which=archived')
  await screen.findByRole('button', { name: /House 1/ })
  expect(screen.queryByRole('button', { name: /^Change all/ })).toBeNull()
  cleanup()
  page('/register', ['read'])
  await screen.findByRole('button', { name: /House 1/ })
  expect(screen.queryByRole('button', { name: /^Change all/ })).toBeNull()
  expect(screen.queryByRole('button', { name: 'Add a heater' })).toBeNull()
})

it('shows why beside the list for the heater that is chosen', async () => {
  page()
  await userEvent.click(await screen.findByRole('button', { name: /House 2/ }))
  const why = await screen.findByRole('complementary', { name: 'House 2: what is due and why' })
  expect(within(why).getByText('Low beam.')).toBeTruthy()
})

it('says whether nothing fits or nothing is on record yet', async () => {
  rows = []
  total = 0
  page('/register?q=nowhere')
  expect(await screen.findByText(/No heater fits these words/)).toBeTruthy()
  cleanup()
  page()
  expect(await screen.findByText(/No heater is on record yet/)).toBeTruthy()
})
