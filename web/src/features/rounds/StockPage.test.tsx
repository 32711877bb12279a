import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered, TODAY } from '../../test/rendered'
import { sized } from '../../test/sized'
import { stockOptions, weeksOptions } from '../../records/roundQueries'
import { StockPage } from './StockPage'

beforeEach(() => sized())
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

const line = (part: string, held: number, quantity: number) => ({
  part,
  expected: 1.26,
  quantity,
  held,
  to_add: Math.max(quantity - held, 0),
})
const STOCK = {
  service_level: 0.95,
  trucks: [
    { member_id: 8, name: 'Nadia', lines: [line('relief valve {pressure_kpa:1034}', 1, 2), line('hose washer', 9, 3)] },
  ],
  to_buy: [line('relief valve {pressure_kpa:1034}', 4, 11)],
  crew: [
    { member_id: 8, name: 'Nadia Thornley' },
    { member_id: 9, name: 'Joss Averill' },
  ],
  moved: [{ at: '', by: 'Ines', part: 'hose washer', quantity: 40, source: 'supplier', target: 'store' }],
}

function page(may: Schema['Action'][] = ['read', 'plan']) {
  rendered(<StockPage />, {
    at: '/rounds/stock?on=2026-11-30',
    may,
    known: [
      [stockOptions('2026-11-30').queryKey, STOCK],
      [weeksOptions(TODAY, 2).queryKey, []],
    ],
  })
}
const truck = () => within(screen.getByRole('region', { name: 'Trucks' }))

it('says what each truck lacks on the day, and what is to be bought', () => {
  page()
  const valve = truck().getByRole('rowheader', { name: 'relief valve 1034 kPa' }).closest('tr')!
  expect(
    within(valve)
      .getAllByRole('cell')
      .map((cell) => cell.textContent)
      .slice(0, 2),
  ).toEqual(['1.3', '2'])
  expect(within(valve).getAllByRole('cell').at(-1)!.textContent).toBe('1')
  const washer = truck().getByRole('rowheader', { name: 'hose washer' }).closest('tr')!
  expect(within(washer).getAllByRole('cell').at(-1)!.textContent).toBe('–')
  expect(within(screen.getByRole('region', { name: 'To buy' })).getByText('7')).toBeTruthy()
})

it('takes a count when it is left, and only one that is a number and another than before', async () => {
  const sent = answering({ body: {} })
  page()
  const count = screen.getByLabelText('relief valve 1034 kPa on the truck')
  const leaves = async (text: string) => {
    await userEvent.clear(count)
    if (text) await userEvent.type(count, text)
    fireEvent.blur(count)
  }
  for (const text of ['many', '-2', '1', '']) await leaves(text)
  expect(sent).toEqual([])
  expect(count).toHaveProperty('value', '1')
  await leaves('3')
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent.map((one) => one.body)).toEqual([{ part: 'relief valve {pressure_kpa:1034}', member_id: 8, quantity: 3 }])
})

it('lets whoever plans choose how seldom something may be missing; others read it', () => {
  page()
  expect(screen.getByRole('combobox', { name: 'Service level' }).textContent).toBe('95 days in 100')
  cleanup()
  page(['read'])
  expect(screen.queryByRole('combobox', { name: 'Service level' })).toBeNull()
  expect(screen.getByText(/95 days in 100/)).toBeTruthy()
})

it('takes in what came from the supplier, and moves it on to a truck', async () => {
  const sent = answering({ body: { quantity: 4 } })
  page(['read', 'count'])
  const moved = within(screen.getByRole('region', { name: 'Moved' }))
  expect(moved.getByRole('listitem').textContent).toBe('40 hose washercame in, the store')
  await userEvent.selectOptions(moved.getByLabelText('Part'), 'hose washer')
  await userEvent.type(moved.getByLabelText('How many'), '-4')
  expect(moved.getByText('a number above 0')).toBeTruthy()
  await userEvent.clear(moved.getByLabelText('How many'))
  await userEvent.type(moved.getByLabelText('How many'), '4')
  await userEvent.selectOptions(moved.getByLabelText('From'), 'the store')
  await userEvent.selectOptions(moved.getByLabelText('To'), 'Joss Averill')
  await userEvent.click(moved.getByRole('button', { name: 'Move them' }))
  expect(await moved.findByText('Moved: 4.')).toBeTruthy()
  const { client_id: key, ...body } = sent[0]!.body as Record<string, unknown>
  expect(body).toEqual({ part: 'hose washer', quantity: 4, received: false, source: null, target: 9 })
  expect(key).toMatch(/^[0-9a-f-]{36}$/)
})

it('gives loads and the order as files, and asks nobody to move who may not count', () => {
  page(['read'])
  expect(screen.queryByRole('button', { name: 'Move them' })).toBeNull()
  expect(screen.getByRole('link', { name: 'The order as a file' }).getAttribute('href')).toBe('/api/stock-order.csv')
  expect(screen.getByRole('link', { name: /loads as a file/ }).getAttribute('href')).toBe(
    '/api/stock/2026-11-30/loads.csv',
  )
})
