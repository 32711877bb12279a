import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered, TODAY } from '../../test/rendered'
import { MoneyPage } from './MoneyPage'
import { contractOptions, moneyOptions, planFitOptions, quotesOptions } from '../../records/moneyQueries'
import { Quote } from './Quote'
import { SiteContract } from '../../records/SiteContract'
import { amountOf, amountWords } from '../../records/moneyWords'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const MAY: Schema['Action'][] = ['read', 'keep_prices']
const quote = (part: object = {}) =>
  ({
    id: 4,
    version: 2,
    state: 'draft',
    steps: ['sent', 'dropped'],
    what: 'relief_valve',
    why: ['it passed no water', 'carry a spare'],
    raised_on: '2026-11-20',
    sent_on: null,
    answered_on: null,
    valid_until: null,
    warranty_until: null,
    done_on: null,
    heater_id: 9,
    tag: 'T-9',
    site_id: 3,
    site: 'Marram Bakery',
    customer: 'Marram',
    phone: '555-0101',
    total: '130.00',
    lines: [{ key: 'relief_valve', words: 'Relief valve', quantity: '1.00', price: '130.00' }],
    ...part,
  }) as Schema['QuoteOut']
const stage = (quotes: number, total: string) => ({ quotes, total })
const STAGES = {
  draft: stage(1, '130.00'),
  sent: stage(2, '60.00'),
  accepted: stage(3, '1250.50'),
  done: stage(0, '0.00'),
  declined: stage(0, '0.00'),
  lapsed: stage(0, '0.00'),
  dropped: stage(0, '0.00'),
}
const QUOTES = { currency: '¤', stages: STAGES, quotes: [quote()] } as Schema['QuotesOut']
const PLAN = {
  id: 5,
  version: 8,
  name: 'Yearly',
  yearly: '96.00',
  includes: ['sediment'],
  call_out: true,
  parts_off: '0.10',
  sites: 12,
}
const BOOK = {
  settings: { currency: '¤', hour_cost: '46.00', quotes_last_days: 60 },
  plans: [PLAN],
  prices: [{ id: 1, version: 7, key: 'call_out', words: 'Coming to you', price: '38.00', cost: '0.00' }],
  missing: ['softener'],
} as unknown as Schema['MoneyOut']
const page = (may = MAY) =>
  rendered(<MoneyPage />, {
    may,
    known: [
      [quotesOptions('draft').queryKey, QUOTES],
      [moneyOptions.queryKey, BOOK],
    ],
  })

it('writes and reads amounts without adding anything up', () => {
  expect(['1680.00', '37.40', '-1234567.05', '0.00'].map((one) => amountWords(one, '¤'))).toEqual([
    '¤ 1,680',
    '¤ 37.40',
    '−¤ 1,234,567.05',
    '¤ 0',
  ])
  expect(['38', ' 37.4 ', '37,40', '1,680', '-2', '1.999', 'much', ''].map(amountOf)).toEqual([
    '38',
    '37.4',
    '37.40',
    '1680',
    null,
    null,
    null,
    null,
  ])
})

it('shows how much stands in each stage and takes the chosen one from the address', () => {
  page()
  const stages = screen.getByRole('group', { name: 'Stages' })
  expect(
    within(stages)
      .getAllByRole('button')
      .map((one) => one.textContent),
  ).toEqual([
    '1 draft¤ 130',
    '2 with the customer¤ 60',
    '3 to be done¤ 1,250.50',
    '0 done¤ 0',
    '0 declined¤ 0',
    '0 lapsed¤ 0',
    '0 not sent¤ 0',
  ])
  expect(within(stages).getByRole('button', { pressed: true }).textContent).toContain('draft')
  expect(screen.getByRole('link', { name: 'last month' }).getAttribute('href')).toBe(
    '/api/money/books.csv?first=2026-10-01&last=2026-10-31',
  )
})

it('takes a quote a step on, with its version, and says why it does not go', async () => {
  const sent = answering(refusal('No price yet for Relief valve.'))
  rendered(<Quote one={quote()} currency="¤" today={TODAY} may />)
  expect(screen.getByText('It passed no water; carry a spare.')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Mark as sent' }))
  expect(sent).toEqual([{ method: 'POST', path: '/api/money/quotes/4/state', body: { version: 2, to: 'sent' } }])
  expect((await screen.findByRole('alert')).textContent).toBe('No price yet for Relief valve.')
})

it('says of a part that we stand for that it costs nothing', () => {
  rendered(<Quote one={quote({ warranty_until: '2027-03-01' })} currency="¤" today={TODAY} may />)
  expect(screen.getByText('We fitted it and stand for it until 1 March 2027: no charge.')).toBeTruthy()
})

it('rewrites the lines of a draft and holds back what is no amount', async () => {
  const sent = answering({ body: quote() })
  rendered(<Quote one={quote()} currency="¤" today={TODAY} may />)
  await userEvent.click(screen.getByRole('button', { name: 'Its lines' }))
  await userEvent.click(screen.getByRole('button', { name: 'Another line' }))
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save the lines' }).disabled).toBe(true)
  await userEvent.type(screen.getByRole('textbox', { name: 'Line 2' }), 'Pipe to the floor')
  await userEvent.type(screen.getByRole('textbox', { name: 'Price of line 2' }), '18,50')
  await userEvent.click(screen.getByRole('button', { name: 'Save the lines' }))
  expect(sent[0]!.body).toEqual({
    version: 2,
    lines: [
      { key: 'relief_valve', words: 'Relief valve', quantity: '1', price: '130.00' },
      { key: 'other', words: 'Pipe to the floor', quantity: '1', price: '18.50' },
    ],
  })
})

it('changes a price where it stands, prices what is missing, and ticks what a plan includes', async () => {
  const sent = answering({ body: {} })
  page()
  const price = screen.getByRole('textbox', { name: 'Price of Coming to you' })
  await userEvent.clear(price)
  await userEvent.type(price, 'much{Enter}')
  expect(price.getAttribute('aria-invalid')).toBe('true')
  expect(sent).toEqual([])
  await userEvent.clear(price)
  await userEvent.type(price, '40{Enter}')
  await userEvent.type(screen.getByRole('textbox', { name: 'Price of softener' }), '900')
  await userEvent.click(screen.getByRole('button', { name: 'Add' }))
  await userEvent.click(screen.getByRole('checkbox', { name: 'Yearly includes anode' }))
  expect(sent.map((one) => one.body)).toEqual([
    { key: 'call_out', words: 'Coming to you', price: '40', cost: '0.00', version: 7 },
    { key: 'softener', words: 'Softener', price: '900', cost: '0', version: 0 },
    { name: 'Yearly', yearly: '96.00', includes: ['sediment', 'anode'], call_out: true, parts_off: '0.10', version: 8 },
  ])
})

it('keeps a price that was typed over somebody else’s, and saves it by the version that was told', async () => {
  const said = 'Tamsin changed this meanwhile: price is now 42.00.'
  const sent = answering(refusal(said, { version: '9', price: 'is now 42.00' }, 'changed_meanwhile'), { body: {} })
  page()
  const price = screen.getByRole<HTMLInputElement>('textbox', { name: 'Price of Coming to you' })
  await userEvent.clear(price)
  await userEvent.type(price, '40{Enter}')
  expect((await screen.findByRole('alert')).textContent).toBe(said)
  expect(price.value).toBe('40')
  await userEvent.type(price, '{Enter}')
  expect(sent).toHaveLength(2)
})

it('lets whoever may not change prices read them', () => {
  page(['read'])
  expect(screen.queryByRole('textbox')).toBeNull()
  expect(screen.queryByRole('button', { name: 'Mark as sent' })).toBeNull()
  expect(screen.getByRole<HTMLInputElement>('checkbox', { name: 'Yearly includes flush' }).disabled).toBe(true)
})

it('says which plan a site is on', () => {
  const known: [readonly unknown[], unknown][] = [
    [contractOptions(3).queryKey, { plan_id: 5, plan: 'Yearly', begins_on: '2026-03-01' }],
    [moneyOptions.queryKey, BOOK],
  ]
  rendered(<SiteContract siteId={3} />, { may: MAY, known })
  expect(screen.getByRole('combobox', { name: 'Plan' }).textContent).toBe('Yearly')
  cleanup()
  rendered(<SiteContract siteId={3} />, { may: ['read'], known })
  expect(screen.getByText('Yearly')).toBeTruthy()
  expect(screen.getByText('since 1 March')).toBeTruthy()
})

it('says which plan fits a site, and of each what the customer pays and what is left', async () => {
  const fan = (low: number, high: number) => ({ low, middle: (low + high) / 2, high })
  const row = {
    plan_id: null,
    plan: '',
    is_now: true,
    pays: fan(120, 180),
    left: fan(20, 60),
    pays_off: 0.95,
    pays_surely: true,
  }
  const rows = [
    { ...row, fits: false },
    { ...row, plan_id: 5, plan: 'Yearly', is_now: false, pays: fan(96.4, 110), fits: true },
    {
      ...row,
      plan_id: 6,
      plan: 'All',
      is_now: false,
      left: fan(-90, -20),
      pays_off: 0,
      pays_surely: false,
      fits: false,
    },
    { ...row, plan_id: 7, plan: 'Some', is_now: false, pays_off: 0.42, pays_surely: false, fits: false },
  ]
  const known: [readonly unknown[], unknown][] = [
    [contractOptions(3).queryKey, { plan_id: null, plan: '', begins_on: null }],
    [moneyOptions.queryKey, BOOK],
    [planFitOptions(3).queryKey, { currency: '¤', years: 5, costs: fan(80, 130), rows, missing: [] }],
  ]
  rendered(<SiteContract siteId={3} />, { may: MAY, known })
  await userEvent.click(screen.getByRole('button', { name: 'Which plan fits?' }))
  const lines = within(screen.getByRole('table')).getAllByRole('row').slice(1)
  expect(lines.map((line) => line.textContent)).toEqual([
    'no plan: pays each visit, as now¤ 120 to ¤ 180¤ 20 to ¤ 60pays, dearer for the customer',
    'Yearly¤ 96 to ¤ 110¤ 20 to ¤ 60fits',
    'All¤ 120 to ¤ 180−¤ 90 to −¤ 20costs us money',
    'Some¤ 120 to ¤ 180¤ 20 to ¤ 60pays in 42 of 100 futures',
  ])
  expect(screen.getByText(/the work here costs us ¤ 80 to ¤ 130/)).toBeTruthy()
})
