import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import { companyOptions, meOptions } from '../session/session'
import { History } from './History'
import { historyOptions } from './placeQueries'

afterEach(cleanup)

const line = (part: Partial<Schema['RecordLineOut']>): Schema['RecordLineOut'] => ({
  record: 'heater',
  named: 'T-1',
  done: 'changed',
  field: '',
  before: '',
  after: '',
  ...part,
})
const change = (part: Partial<Schema['RecordChangeOut']>): Schema['RecordChangeOut'] => ({
  change: 'c1',
  at: '2026-11-25T08:03:00Z',
  by: 'Ines',
  file: '',
  lines: [line({ field: 'location', before: 'cellar', after: 'attic' })],
  ...part,
})

function shown(changes: Schema['RecordChangeOut'][], may = ['edit_register']) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } })
  queries.setQueryData(companyOptions.queryKey, { today: '2026-11-25' } as unknown as Schema['CompanyOut'])
  queries.setQueryData(meOptions.queryKey, { may } as unknown as Schema['MeOut'])
  queries.setQueryData(historyOptions('heaters', 7).queryKey, changes)
  render(
    <QueryClientProvider client={queries}>
      <History of="heaters" id={7} />
    </QueryClientProvider>,
  )
}

it('tells who changed what, when, from what to what', () => {
  shown([
    change({
      lines: [
        line({ field: 'location', before: 'cellar', after: 'attic' }),
        line({ record: 'part', named: 'anode', done: 'added' }),
      ],
    }),
  ])
  const [first] = screen.getAllByRole('listitem')
  expect(first?.textContent).toContain('25 November, 8:03 · Ines')
  expect(
    within(first!)
      .getAllByRole('listitem')
      .map((one) => one.textContent),
  ).toEqual(['Heater location: cellar attic', 'Anode added'])
})

it('offers to take back only the last change, and none of a file', () => {
  shown([change({}), change({ change: 'c0' })])
  expect(screen.getAllByRole('button', { name: 'Take this back' })).toHaveLength(1)
  cleanup()
  shown([change({ file: 'heaters.csv' }), change({ change: 'c0' })])
  expect(screen.queryByRole('button', { name: 'Take this back' })).toBeNull()
  expect(screen.getByText(/from heaters.csv/)).toBeTruthy()
  cleanup()
  shown([change({})], ['read'])
  expect(screen.queryByRole('button', { name: 'Take this back' })).toBeNull()
})

it('says so where nothing was changed', () => {
  shown([])
  expect(screen.getByText(/Nothing was changed/)).toBeTruthy()
})
