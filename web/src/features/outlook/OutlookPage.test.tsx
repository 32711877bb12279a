import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { zonesOptions } from '../../session/session'
import { rendered, TODAY } from '../../test/rendered'
import { sized } from '../../test/sized'
import { OutlookPage } from './OutlookPage'

const window = (part: object = {}) => ({
  component: 'sediment',
  as_of: TODAY,
  due_on: '2027-03-10',
  latest_on: null,
  reached_days: [10, 90, 120, 160, 200, 260, 300],
  ...part,
})
const row = (id: number, part: object = {}) =>
  ({
    id,
    site: `House ${id}`,
    street: 'Quarry Lane 3',
    kind: 'gas_tank',
    tag: `T-${id}`,
    zone: 'Chalk',
    hazard: '',
    capacity_l: 189,
    installed_on: '2020-11-25',
    install_certainty: 'known',
    depth_share: 0.4,
    anode_left: 0.5,
    guessed: [],
    windows: [window()],
    ...part,
  }) as unknown as Schema['OutlookRowOut']

const FIGURES = { services: 3, hours: 4, over_days: 5, weeks: [] }
let asked: URL[] = []
let rows: Schema['OutlookRowOut'][] = []
let fails = false

beforeEach(() => {
  sized(900, 600)
  asked = []
  fails = false
  rows = [row(1), row(2, { hazard: 'Gas smell reported.' })]
  vi.stubGlobal('fetch', (request: Request) => {
    const url = new URL(request.url)
    asked.push(url)
    const json = (body: unknown, status = 200) =>
      Promise.resolve(new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } }))
    if (url.pathname === '/api/outlook' && fails)
      return json({ code: 'broken', message: 'The base is being moved.', fields: {} }, 503)
    if (url.pathname === '/api/outlook') return json({ rows, total: rows.length, offset: 0 })
    if (url.pathname === '/api/outlook/weeks')
      return json([{ week: '2026-11-23', component: 'sediment', services: 4, hours: 5 }])
    if (url.pathname.endsWith('/trial')) return json({ heaters: 2, asked_of: 2, now: FIGURES, tried: FIGURES })
    return json([])
  })
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

const page = (at = '/outlook') =>
  rendered(<OutlookPage />, { at, known: [[zonesOptions.queryKey, [{ id: 7, name: 'Chalk' }]]] })
const pressed = () => screen.getAllByRole('button', { pressed: true }).map((one) => one.textContent)
const lists = () => asked.filter((url) => url.pathname === '/api/outlook').map((url) => url.searchParams)

it('asks for what its address says and for the hours beside it', async () => {
  page('/outlook?zone=7&kind=gas_tank&until=2027-02-24&order=benefit')
  expect(await screen.findByText(/House 1, Quarry Lane 3/)).toBeTruthy()
  expect(Object.fromEntries(lists()[0]!)).toMatchObject({
    zone_id: '7',
    kind: 'gas_tank',
    until: '2027-02-24',
    order: 'benefit',
    offset: '0',
  })
  const weeks = asked.find((url) => url.pathname === '/api/outlook/weeks')!
  expect(weeks.searchParams.get('kind')).toBe('gas_tank')
  expect(weeks.searchParams.has('order')).toBe(false)
})

it('says of each heater in words what its drawing shows, hazards first', async () => {
  rows = [
    row(2, {
      hazard: 'Gas smell reported.',
      guessed: ['year of installation'],
      windows: [window(), window({ component: 'tank', due_on: null })],
    }),
  ]
  page()
  const found = await screen.findByRole('button', { name: /House 2/ })
  expect(found.textContent).toMatch(
    /Hazard: Gas smell reported. Rests on a guess: year of installation. Flush: week of 8 March 2027/,
  )
  expect(within(found).getByText(/Gas tank|gas tank/).textContent).toMatch(/189 L, 6 y · Chalk/)
})

it('shows why for the first heater, and for the one that is chosen', async () => {
  page()
  expect(await screen.findByRole('complementary', { name: 'House 1: what is due and why' })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: /House 2/ }))
  expect(await screen.findByRole('complementary', { name: 'House 2: what is due and why' })).toBeTruthy()
  expect(pressed().some((one) => one?.includes('House 2'))).toBe(true)
})

it('draws only what is in view of a long list', async () => {
  rows = Array.from({ length: 100 }, (_, at) => row(at + 1))
  page()
  await screen.findByRole('button', { name: /House 1,/ })
  const list = screen.getByRole('region', { name: 'Heaters by urgency' })
  expect(within(list).getAllByRole('button').length).toBeLessThan(40)
})

it('says that nothing falls due, and what to do about it', async () => {
  rows = []
  page('/outlook?kind=mobile_tank')
  expect(await screen.findByText(/Nothing falls due with these words/)).toBeTruthy()
})

it('tells what the server had against it and asks again', async () => {
  fails = true
  page()
  expect((await screen.findByRole('alert')).textContent).toContain('The base is being moved.')
  fails = false
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(await screen.findByText(/House 1, Quarry Lane 3/)).toBeTruthy()
})

it('tries another practice beside the one that is set', async () => {
  page('/outlook?practice=annual&risk=0.1')
  await waitFor(() => expect(asked.some((url) => url.pathname.endsWith('/trial'))).toBe(true))
  const tried = asked.find((url) => url.pathname.endsWith('/trial'))!.searchParams
  expect([tried.get('practice'), tried.get('tolerance')]).toEqual(['annual', '0.1'])
})
