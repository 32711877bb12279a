import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { DemandPage } from './DemandPage'
import { laterMonth } from './demandWords'
import { demandOptions } from './queries'

beforeEach(() => sized(900, 300))
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const fan = (middle: number) => ({ low: middle - 2, middle, high: middle + 3 })
const kind = (name: string, part: object = {}) => ({
  kind: name,
  counts: [...Array<number>(12).fill(5), 9, 8, 7],
  first: '2025-08-01',
  months: Array.from({ length: 12 }, (_, at) => fan(6 + at)),
  quarter: { low: 15, middle: 21, high: 27 },
  year: { low: 110, middle: 138, high: 160 },
  has_season: true,
  has_trend: false,
  by_the_base: { low: 171.4, middle: 180, high: 190.6 },
  agree: false,
  ...part,
})
const month = (month: string, short: number, so: Schema['Shortness'], crew = 400) => ({
  month,
  crew,
  planned: 320.4,
  calls: { low: 4, middle: 8, high: 12 },
  call_hours: 1.5,
  short,
  so,
})
const DEMAND = {
  reckoned_on: '2026-11-01',
  first: '2026-11-01',
  kinds: [kind('calls'), kind('flushes', { has_season: false, by_the_base: null, agree: true })],
  hours: [
    month('2026-11-01', 0.02, 'fits'),
    month('2026-12-01', 0.3, 'may_be'),
    month('2027-01-01', 0.81, 'likely'),
    month('2027-02-01', 1, 'nobody', 0),
  ],
  held: { inside: 9, of: 11 },
} as Schema['DemandOut']
const page = (demand: Schema['DemandOut'] = DEMAND, may: Schema['Action'][] = ['read', 'set_practice']) =>
  rendered(<DemandPage />, { may, known: [[demandOptions.queryKey, demand]] })

it('tells a kind’s last year, the next, and that record and heaters do not agree', async () => {
  page()
  const kinds = within(screen.getByRole('navigation', { name: 'Kinds' })).getAllByRole('button')
  expect(kinds.map((one) => one.textContent)).toEqual([
    'Calls nobody planned69 in 12 months; the next: 110 to 160',
    'Flushes69 in 12 months; the next: 110 to 160',
  ])
  expect(screen.getByText('has a season')).toBeTruthy()
  expect(screen.getByText(/A year by what came: 110 to 160; by the heaters themselves: 171 to 191/)).toBeTruthy()
  expect(screen.getByText(', which do not agree')).toBeTruthy()
  expect(screen.getByText(/Of 11 months told so far and over, 9 lay in their windows/)).toBeTruthy()
  await userEvent.click(kinds[1]!)
  expect(screen.getByText('no season and no trend that stand out')).toBeTruthy()
  expect(screen.queryByText(/by the heaters themselves/)).toBeNull()
})

it('warns of months in which hours are short', () => {
  page()
  const rows = within(screen.getByRole('table')).getAllByRole('row').slice(1)
  expect(rows.map((row) => within(row).getAllByRole('cell').at(-1)!.textContent)).toEqual([
    'fits',
    'may be short, in 30 in 100',
    'short in 81 in 100: find hours, or move visits',
    'nobody works then',
  ])
  expect(within(rows[0]!).getByRole('rowheader').textContent).toBe('the rest of November 2026')
  expect(within(rows[1]!).getByRole('rowheader').textContent).toBe('December 2026')
  expect(within(rows[0]!).getAllByRole('cell')[2]!.textContent).toBe('6 to 18')
})

it('draws a bar for each month that came and a window for each that comes, and has them as a table', async () => {
  page()
  const drawn = screen.getByRole('img', { name: /Calls nobody planned by month; expected .* 6, 7, 8/ })
  expect(drawn.querySelectorAll('title')).toHaveLength(15 + 12)
  await userEvent.click(screen.getByRole('button', { name: 'As a table' }))
  const table = within(screen.getByRole('region', { name: 'Months as a table' }))
  expect(table.getByRole('row', { name: 'October 2026 7' })).toBeTruthy()
  expect(table.getByRole('row', { name: 'November 2026 6, between 4 and 9' })).toBeTruthy()
})

it('lets the lead have it reckoned, and nobody else', async () => {
  const sent = answering({ status: 202, body: null })
  const nothing = { ...DEMAND, reckoned_on: null, first: null, kinds: [], hours: [] }
  page(nothing)
  expect(screen.getByText(/were not reckoned yet/)).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Reckon it now' }))
  expect(await screen.findByText('Asked for; look again in a minute.')).toBeTruthy()
  expect(sent.map((one) => one.path)).toEqual(['/api/demand'])
  cleanup()
  page({ ...nothing, reckoned_on: '2026-11-01' }, ['read'])
  expect(screen.getByText(/nothing yet to carry on/)).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Reckon it now' })).toBeNull()
})

it('counts months over the turn of a year', () => {
  expect([0, 1, 2, 14].map((months) => laterMonth('2026-11-01', months))).toEqual([
    '2026-11-01',
    '2026-12-01',
    '2027-01-01',
    '2028-01-01',
  ])
})
