import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { device } from '../../device/store'
import { rendered } from '../../test/rendered'
import { VisitListPage } from './VisitListPage'

let asked: string[] = []
const row = (id: number, part: object = {}) => ({
  id,
  tag: `T-${id}`,
  site: `House ${id}`,
  street: 'Quarry Lane',
  location: '',
  kind: 'gas_tank',
  hazard: '',
  depth_share: null,
  anode_left: null,
  windows: [
    { component: 'anode', due_on: '2027-05-01' },
    { component: 'sediment', due_on: '2026-12-02' },
    { component: 'tank', due_on: null },
  ],
  ...part,
})
const begun = (clientId: string, part: object = {}) =>
  device.visits.add({
    clientId,
    heaterId: 4,
    by: 1,
    name: 'Marram Bakery, T-4',
    revision: 1,
    cursor: 0,
    waits: false,
    trouble: '',
    closing: false,
    aside: false,
    recorded: null,
    ...part,
  })

beforeEach(async () => {
  asked = []
  await Promise.all([device.visits.clear(), device.taps.clear(), device.unsent.clear()])
  vi.stubGlobal('fetch', (request: Request) => {
    const url = new URL(request.url)
    if (url.pathname !== '/api/outlook') return new Promise<Response>(() => undefined)
    const words = url.searchParams.get('q') ?? ''
    asked.push(words)
    const rows = words === 'nowhere' ? [] : [row(1, { hazard: 'Dog in the yard.' }), row(2, { location: 'attic' })]
    return Promise.resolve(
      new Response(JSON.stringify({ rows, total: rows.length, offset: 0 }), {
        headers: { 'Content-Type': 'application/json' },
      }),
    )
  })
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

it('says of each heater what is due first, and its hazard', async () => {
  rendered(<VisitListPage />)
  const first = await screen.findByRole('link', { name: /House 1/ })
  expect(first.getAttribute('href')).toBe('/visit/1')
  expect(first.textContent).toMatch(/gas tank · T-1Flush: week of 30 NovemberDog in the yard\.$/)
  expect(screen.getByRole('link', { name: /House 2/ }).textContent).toContain('T-2 · attic')
})

it('puts what was begun here first, and out of the way while a name is looked for', async () => {
  await begun('mine')
  await begun('theirs', { by: 8, name: 'Pell School, T-9' })
  await begun('saved', { closing: true, name: 'Mill, T-5' })
  rendered(<VisitListPage />)
  expect(await screen.findByRole('link', { name: /Go on at Marram Bakery/ })).toBeTruthy()
  expect(screen.queryByText(/Pell School|Mill/)).toBeNull()
  await userEvent.type(screen.getByLabelText('Name, street or tag'), ' weir')
  await waitFor(() => expect(asked.at(-1)).toBe('weir'))
  expect(screen.queryByRole('link', { name: /Go on at/ })).toBeNull()
})

it('says that no heater has such a name', async () => {
  rendered(<VisitListPage />)
  await userEvent.type(screen.getByLabelText('Name, street or tag'), 'nowhere')
  expect(await screen.findByText(/Try the number on its tag/)).toBeTruthy()
})
