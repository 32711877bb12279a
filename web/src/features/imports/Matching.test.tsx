import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { importsOptions } from '../../records/importQueries'
import { Matching } from './Matching'
import { columnsOptions } from './queries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const RUN: Schema['ImportOut'] = {
  id: 3,
  kind: 'heaters',
  file_name: 'theirs.xlsx',
  state: 'matching',
  message: '',
  rows_total: 0,
  rows_done: 0,
  counts: {},
  matched: false,
  started_at: '2026-11-25T08:00:00Z',
  by: 'Ines',
  can_undo: false,
  can_be_tried: false,
  sheets: [],
  sheet: '',
  columns: [
    { name: 'Asset', samples: ['N-1', 'N-2'], column: 'tag', written: '', words: [] },
    { name: 'Size', samples: ['50', ''], column: 'capacity_l', written: 'gal', words: [] },
    { name: 'Colour', samples: ['', ''], column: '', written: '', words: [] },
  ],
}
const COLUMNS: Schema['ColumnOut'][] = [
  { name: 'tag', words: 'tag', own: '', required: true, many: false, is_whose: false, ways: [] },
  { name: 'kind', words: 'kind', own: '', required: true, many: false, is_whose: false, ways: [] },
  {
    name: 'capacity_l',
    words: 'capacity',
    own: 'L',
    required: false,
    many: true,
    is_whose: false,
    ways: ['', 'l', 'gal'],
  },
]

function shown(run = RUN, known = COLUMNS) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } })
  queries.setQueryData(columnsOptions(run.kind).queryKey, known)
  render(
    <QueryClientProvider client={queries}>
      <Matching run={run} />
    </QueryClientProvider>,
  )
  return queries
}

it('says of which heater of its row a column tells, and asks what the words of each mean', () => {
  const words = [{ said: 'gas', means: 'gas_tank' }]
  const two = [1, 2].map((heater) => ({
    name: `WH${heater} Type`, samples: ['gas'], column: 'kind', written: '', words, heater,
  })) // prettier-ignore
  shown({ ...RUN, kind: 'list', columns: two })
  expect(within(screen.getByRole('row', { name: /^WH2/ })).getByText('of a row’s heater 2')).toBeTruthy()
  expect(screen.getByRole('row', { name: /^WH1/ }).textContent).not.toContain('heater 1')
  expect(screen.getByRole('group', { name: 'What the words under “WH2 Type” mean' })).toBeTruthy()
  expect(screen.getByRole('group', { name: 'What the words under “WH1 Type” mean' })).toBeTruthy()
})

it('shows each column with its first cells and what it was guessed to be', () => {
  shown()
  const row = screen.getByRole('row', { name: /^Size/ })
  expect(within(row).getByText('50')).toBeTruthy()
  expect(screen.getByLabelText<HTMLSelectElement>('Size is').value).toBe('capacity_l')
  expect(screen.getByLabelText<HTMLSelectElement>('Size is written in').value).toBe('gal')
  expect(screen.getByLabelText<HTMLSelectElement>('Colour is').value).toBe('')
  expect(within(screen.getByRole('row', { name: /^Colour/ })).getByText('nothing')).toBeTruthy()
  // Only a column that can be written in several ways is asked about them.
  expect(screen.queryByLabelText('Asset is written in')).toBeNull()
})

it('says which columns a file may have several of, and that a list without anybody comes in without rows', async () => {
  const who = { name: 'customer', words: 'customer', own: '', required: false, many: false, is_whose: true, ways: [] }
  shown({ ...RUN, kind: 'list', columns: RUN.columns.map((one) => ({ ...one, column: 'kind' })) }, [...COLUMNS, who])
  const options = within(screen.getByLabelText('Asset is')).getAllByRole('option')
  expect(options.map((one) => one.textContent)).toEqual([
    'leave it out', 'tag (needed)', 'kind (needed)', 'capacity (may be several)', 'customer',
  ]) // prettier-ignore
  await userEvent.selectOptions(screen.getByLabelText('Asset is'), 'tag')
  expect(screen.getByText(/^No column says who a customer is or where/)).toBeTruthy()
  await userEvent.selectOptions(screen.getByLabelText('Size is'), 'customer')
  expect(screen.queryByText(/^No column says who/)).toBeNull()
})

it('waits until every needed column is said, and sends what was said', async () => {
  const sent: unknown[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push(await request.json())
    return new Response(JSON.stringify({ ...RUN, state: 'checking' }), {
      headers: { 'Content-Type': 'application/json' },
    })
  })
  const queries = shown()
  queries.setQueryData(importsOptions.queryKey, [RUN])
  const check = screen.getByRole<HTMLButtonElement>('button', { name: 'Check the file so' })
  expect(check.disabled).toBe(true)
  expect(screen.getByText('Still to say which is the kind.')).toBeTruthy()
  await userEvent.selectOptions(screen.getByLabelText('Colour is'), 'kind')
  expect(check.disabled).toBe(false)
  // Another column forgets how the one before was written.
  await userEvent.selectOptions(screen.getByLabelText('Size is'), '')
  await userEvent.click(check)
  expect(sent).toEqual([
    {
      matches: [
        { name: 'Asset', column: 'tag', written: '' },
        { name: 'Size', column: '', written: '' },
        { name: 'Colour', column: 'kind', written: '' },
      ],
    },
  ])
  // The list of what was sent said that its columns are asked about, for as long as the page stayed open.
  await waitFor(() => expect(queries.getQueryState(importsOptions.queryKey)?.isInvalidated).toBe(true))
})

it('names the column that cannot be so', async () => {
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(
        JSON.stringify({
          code: 'import.columns',
          message: 'Both cannot be tag.',
          fields: { Colour: 'tag is taken already' },
        }),
        {
          status: 422,
          headers: { 'Content-Type': 'application/json' },
        },
      ),
    ),
  )
  shown()
  await userEvent.selectOptions(screen.getByLabelText('Colour is'), 'kind')
  await userEvent.click(screen.getByRole('button', { name: 'Check the file so' }))
  expect(await screen.findByText('tag is taken already')).toBeTruthy()
  expect(screen.getByRole('alert').textContent).toBe('Both cannot be tag.')
})

it('asks once what the words of an office mean, and sends it', async () => {
  const sent: { matches: Schema['MatchIn'][] }[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push((await request.json()) as { matches: Schema['MatchIn'][] })
    return new Response(JSON.stringify({ ...RUN, state: 'checking' }), {
      headers: { 'Content-Type': 'application/json' },
    })
  })
  const words = [
    { said: 'lp', means: 'gas_tank' },
    { said: 'teal', means: 'unknown' },
  ]
  shown({
    ...RUN,
    kind: 'list',
    columns: [
      { name: 'Asset', samples: [], column: 'tag', written: '', words: [] },
      { name: 'WH type', samples: ['LP'], column: 'kind', written: '', words },
    ],
  })
  expect(screen.getByLabelText<HTMLSelectElement>('lp means').value).toBe('gas_tank')
  expect(screen.getByLabelText<HTMLSelectElement>('teal means').selectedOptions[0]!.text).toBe(
    'nobody knows: look first',
  )
  await userEvent.selectOptions(screen.getByLabelText('teal means'), 'electric_tank')
  await userEvent.click(screen.getByRole('button', { name: 'Check the file so' }))
  expect(sent[0]!.matches[1]!.words).toEqual([
    { said: 'lp', means: 'gas_tank' },
    { said: 'teal', means: 'electric_tank' },
  ])
})
