import type { QueryKey } from '@tanstack/react-query'
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { zonesOptions } from '../../session/session'
import { answering, rendered, UNITS } from '../../test/rendered'
import { sized } from '../../test/sized'
import { AheadPage } from './AheadPage'
import { decisionWords, nameOf, sentences } from './aheadWords'
import { importsOptions } from '../../records/importQueries'
import { besideOptions, projectionOptions, projectionsHeldOptions, projectionsOptions } from './queries'
import { sent } from './TryDecision'

type Row = Schema['ProjectionRowOut']
const fan = (middle: number, by = 10) => ({ low: middle - by, middle, high: middle + by })
const decision = (told: Partial<Schema['DecisionOut']>): Schema['DecisionOut'] => ({
  kind: 'practice',
  value: null,
  word: null,
  zone_id: null,
  zone: '',
  share: null,
  list_name: '',
  ...told,
})
const row = (id: number, decisions: Schema['DecisionOut'][] = [], told: Partial<Row> = {}): Row => ({
  id,
  name: '',
  asked_on: '2026-11-25',
  asked_by: 'Lead',
  years: 2,
  state: 'ready',
  error: '',
  parts_left: 0,
  decisions,
  ...told,
})
const whole = (one: Row, hours: number[]): Schema['ProjectionOut'] => ({
  ...one,
  heaters: 400,
  until: ['2027-11-25', '2028-11-25'],
  currency: '¤',
  missing: [],
  crew_hours: 2000,
  joining: 12,
  leaving: 0.03,
  calls_a_year: 31,
  accepted: 0.4,
  softened: 0,
  replaced: 0,
  taken_over: 0,
  series: [
    { name: 'hours', by_year: hours.map((each) => fan(each)) },
    { name: 'hours/gas', by_year: hours.map((each) => fan(each - 100)) },
    { name: 'hours/plumbing', by_year: hours.map(() => fan(0, 0)) },
    { name: 'leaks', by_year: hours.map(() => fan(30)) },
    { name: 'left', by_year: hours.map((each) => fan(each * 20)) },
  ],
  groups: [
    { by: 'water', rows: [{ name: 'Chalk', heaters: 300, hours: 700, income: 50_000, cost: 20_000 }] },
    { by: 'kind', rows: [{ name: 'gas_tank', heaters: 400, hours: 900, income: 60_000, cost: 30_000 }] },
  ],
  season: { first_week: '2026-11-30', visits: 501, flushes: 123, descales: 63 },
  losing: {
    of: 210,
    sites: 11,
    rows: Array.from({ length: 11 }, (_, place) => ({
      site_id: 40 + place,
      site: `Mill Lane ${place}`,
      plan: place ? 'Yearly care' : '',
      heaters: place ? 1 : 3,
      hours: 2.5,
      income: 80,
      cost: 120 - place,
    })),
  },
})
const NOW = row(1)
const YEARLY = row(2, [decision({ word: 'annual' })])
const difference = (name: string, over: number, less: number, same = 0): Schema['DifferenceOut'] => ({
  name,
  by_year: [fan(over / 2), fan(over / 2)],
  over_all: fan(over),
  less_share: less,
  same_share: same,
})
const BESIDE = {
  differences: [difference('hours', -140, 0.97), difference('left', 1200, 0.1), difference('leaks', 0, 0, 1)],
}
const KNOWN: [QueryKey, unknown][] = [
  [projectionsOptions.queryKey, [YEARLY, NOW]],
  [projectionOptions(1).queryKey, whole(NOW, [900, 990])],
  [projectionOptions(2).queryKey, whole(YEARLY, [850, 900])],
  [besideOptions(1, 2).queryKey, BESIDE],
  [projectionsHeldOptions.queryKey, { rows: [], inside: 0 }],
  [zonesOptions.queryKey, [{ id: 7, name: 'Chalk', hardness_class: 'hard' }]],
]
const known = KNOWN

beforeEach(() => sized(700, 400))
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

it('draws the base as it is against what the crew can plan, and tells the same as a table', () => {
  rendered(<AheadPage />, { known })
  expect(screen.getByRole('img', { name: 'Hours by year: as it is 900, 990' })).toBeTruthy()
  const table = screen.getByRole('table', { name: 'As it is' })
  expect(within(table).getByRole('row', { name: /^Hours/ }).textContent).toBe('Hours900890–910990980–1,000')
  // No heater asks for a plumbing license.
  expect(within(table).queryByText(/plumbing/)).toBeNull()
  expect(within(table).getByRole('row', { name: /^What is left/ }).textContent).toContain('¤18k')
  expect(
    screen.getByText(/The season planned from .* has 501 visits, 123 flushes, 63 descales in its year/),
  ).toBeTruthy()
  expect(screen.getByText(/12 heaters join in a year and 3.% of the sites leave; 31 calls/)).toBeTruthy()
})

it('puts what was tried beside it, with both as tables and how sure the difference is', () => {
  rendered(<AheadPage />, { known, at: '/review/ahead?with=2' })
  const name = 'Hours by year: as it is 900, 990; Cleaning yearly 850, 900'
  expect(screen.getByRole('img', { name })).toBeTruthy()
  expect(screen.getByRole('table', { name: 'Cleaning yearly' })).toBeTruthy()
  expect(screen.getByText(/140 hours fewer over all, so in 97.% of the futures/)).toBeTruthy()
})

it('offers the quarter on paper to whoever keeps the prices', () => {
  rendered(<AheadPage />, { known })
  expect(screen.queryByRole('link', { name: /quarter/ })).toBeNull()
  cleanup()
  rendered(<AheadPage />, { known, may: ['read', 'keep_prices'] })
  expect(screen.getByRole('link', { name: /quarter/ }).getAttribute('href')).toBe('/api/quarterly.pdf')
})

it('draws what was chosen, money with its currency', () => {
  rendered(<AheadPage />, { known, at: '/review/ahead?what=left' })
  expect(screen.getByRole('img', { name: 'What is left by year: as it is ¤18k, ¤20k' })).toBeTruthy()
})

it('tells it in three sentences, with how sure it is', () => {
  const now = whole(NOW, [900, 990])
  const other = whole(YEARLY, [850, 900])
  expect(sentences(now, null, null, '')).toEqual([
    'The base asks for up to 1,000 hours a year, 50\u00a0% of the 2,000 that the crew can plan.',
    '60 tanks leak in 2 years; a year leaves ¤19k after work and materials.',
  ])
  expect(sentences(now, other, BESIDE, 'Yearly').slice(1)).toEqual([
    'Yearly: 140 hours fewer over all, so in 97\u00a0% of the futures.',
    'It leaves ¤1,200 more over all (1,190 to 1,210), so in 90\u00a0% of the futures; as many leaks.',
  ])
  const fewer = { ...other, crew_hours: 1500 }
  expect(sentences(now, fewer, BESIDE, 'One fewer')[1]).toContain('; the crew could then plan 1,500 a year.')
  const sure = { differences: [difference('hours', -140, 0.996), ...BESIDE.differences.slice(1)] }
  expect(sentences(now, other, sure, 'Yearly')[1]).toContain('so in nearly all futures')
  const none = { differences: BESIDE.differences.map((one) => ({ ...one, same_share: 1 })) }
  expect(sentences(now, other, none, 'Same').slice(1)).toEqual(['Same: as many hours.', 'What is left is the same.'])
})

it('names each decision in the words and units of the company', () => {
  const words = (told: Partial<Schema['DecisionOut']>) => decisionWords(decision(told), UNITS)
  expect(words({ kind: 'crew', value: -1 })).toBe('1 person fewer')
  expect(words({ kind: 'prices', value: 1.05 })).toBe('Prices and plans 5\u00a0% up')
  expect(words({ kind: 'water', value: 0.8, zone_id: 7, zone: 'Chalk' })).toBe('Chalk 20\u00a0% softer')
  expect(words({ kind: 'softeners', value: 250, share: 0.3 })).toBe(
    'Softeners offered above 250 mg/L, taken by 30\u00a0%',
  )
  expect(nameOf(row(3, [decision({ kind: 'replace', value: 30 }), decision({ kind: 'crew', value: 2 })]), UNITS)).toBe(
    'The 30 likeliest tanks to fail replaced now; 2 people more',
  )
})

it('sends what is typed in per cent as a share or a factor, and nothing that is no number', () => {
  const draft = { word: '', zone: '', share: '', list: '' }
  expect(sent({ ...draft, kind: 'tolerance', value: '10' }, UNITS)).toEqual({ kind: 'tolerance', value: 0.1 })
  expect(sent({ ...draft, kind: 'prices', value: '-5' }, UNITS)).toEqual({ kind: 'prices', value: 0.95 })
  expect(sent({ ...draft, kind: 'water', value: '20', zone: '7' }, UNITS)).toEqual({
    kind: 'water',
    value: 1.2,
    zone_id: 7,
  })
  expect(sent({ ...draft, kind: 'crew', value: 'two' }, UNITS)).toBeNull()
  expect(sent({ ...draft, kind: 'practice', value: '', word: 'annual' }, UNITS)).toEqual({
    kind: 'practice',
    word: 'annual',
  })
})

it('takes over the heaters of a list that was checked, in the place of so many like ours', async () => {
  const sheet = (id: number, can_be_tried: boolean) => ({ id, can_be_tried, file_name: `bought ${id}.csv` })
  const lists = [sheet(4, true), sheet(5, false)]
  const bought = decision({ kind: 'take_over', list_name: 'bought 4.csv' })
  const asked = answering({ status: 201, body: row(5, [bought], { state: 'working', parts_left: 1 }) })
  rendered(<AheadPage />, {
    known: [...known, [importsOptions.queryKey, lists]],
    may: ['read', 'set_practice', 'import'],
  })
  fireEvent.click(screen.getByRole('button', { name: 'Try a decision' }))
  fireEvent.change(screen.getByLabelText('What'), { target: { value: 'take_over' } })
  const from = screen.getByLabelText('From')
  expect(
    within(from)
      .getAllByRole('option')
      .map((one) => one.textContent),
  ).toEqual(['heaters like ours', 'bought 4.csv'])
  fireEvent.change(from, { target: { value: '4' } })
  expect(screen.queryByLabelText(/How many/)).toBeNull()
  fireEvent.click(screen.getByRole('button', { name: 'Live the years' }))
  await waitFor(() => expect(asked[0]?.body).toMatchObject({ decisions: [{ kind: 'take_over', list_id: 4 }] }))
  expect(decisionWords(bought, UNITS)).toBe('The heaters of bought 4.csv taken over')
})

it('asks for what is tried, and shows it when it comes', async () => {
  const asked = answering({
    status: 201,
    body: row(5, [decision({ kind: 'crew', value: 1 })], { state: 'working', parts_left: 1 }),
  })
  rendered(<AheadPage />, { known, may: ['read', 'set_practice'] })
  fireEvent.click(screen.getByRole('button', { name: 'Try a decision' }))
  fireEvent.change(screen.getByLabelText('What'), { target: { value: 'crew' } })
  fireEvent.change(screen.getByLabelText(/with a minus fewer/), { target: { value: 'one' } })
  expect(screen.getByRole('button', { name: 'Live the years' }).hasAttribute('disabled')).toBe(true)
  fireEvent.change(screen.getByLabelText(/with a minus fewer/), { target: { value: '1' } })
  fireEvent.click(screen.getByRole('button', { name: 'Live the years' }))
  await waitFor(() => expect(asked).toHaveLength(1))
  expect(asked[0]!.body).toEqual({ name: '', years: 5, decisions: [{ kind: 'crew', value: 1 }] })
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
})

it('offers a first reckoning to whoever may ask for it, and says what it will tell', () => {
  const empty = [[projectionsOptions.queryKey, []]] as [QueryKey, unknown][]
  rendered(<AheadPage />, { known: empty })
  expect(screen.queryByRole('button', { name: /Reckon/ })).toBeNull()
  cleanup()
  rendered(<AheadPage />, { known: empty, may: ['read', 'set_practice'] })
  expect(screen.getByRole('button', { name: 'Reckon the next 5 years' })).toBeTruthy()
})

it('says what is left while it is reckoned, and why it could not be', () => {
  const working = row(1, [], { state: 'working', parts_left: 3 })
  const at = (one: Row) =>
    [
      [projectionsOptions.queryKey, [one]],
      [projectionOptions(1).queryKey, { ...whole(one, []), series: [] }],
    ] as [QueryKey, unknown][]
  rendered(<AheadPage />, { known: at(working) })
  expect(screen.getByRole('status').textContent).toContain('3 parts of the base are left')
  cleanup()
  rendered(<AheadPage />, { known: at({ ...working, state: 'failed', error: 'The program ended 3 times.' }) })
  expect(screen.getByRole('alert').textContent).toContain('The program ended 3 times.')
})

it('holds what came of earlier ones against what was told', () => {
  const held = {
    rows: [
      { asked_on: '2025-11-25', until: '2026-11-25', name: 'visits', came: 380, low: 370, middle: 385, high: 400 },
      { asked_on: '2025-11-25', until: '2026-11-25', name: 'leaks', came: 40, low: 20, middle: 27, high: 33 },
    ],
    inside: 1,
  }
  const told = KNOWN.map(([key, data]) => (key === projectionsHeldOptions.queryKey ? [key, held] : [key, data]))
  rendered(<AheadPage />, { known: told as [QueryKey, unknown][] })
  const table = screen.getByRole('table', { name: 'What came of it: 1 of 2 in their range' })
  expect(within(table).getByRole('row', { name: /^Tanks that leak/ }).textContent).toContain('20–3340outside')
  expect(within(table).getByRole('row', { name: /^Visits/ }).textContent).not.toContain('outside')
})

it('tells which sites cost more than they bring, the worst first, and where each is looked at', async () => {
  rendered(<AheadPage />, { known })
  const losing = within(screen.getByRole('region', { name: 'Sites that cost more than they bring' }))
  expect(losing.getByRole('heading').textContent).toBe('11 of 210 sites cost more than they bring')
  expect(losing.getAllByRole('link')).toHaveLength(8)
  const first = losing.getAllByRole('row')[1]!
  expect(first.textContent).toBe('Mill Lane 0 · 3 heatersnone2.5¤80¤-40')
  expect(within(first).getByRole('link').getAttribute('href')).toBe('/sites/40')
  await userEvent.click(losing.getByRole('button', { name: 'Show all of them' }))
  expect(losing.getAllByRole('link')).toHaveLength(11)
})
