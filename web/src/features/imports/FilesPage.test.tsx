import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { openEndsOptions } from '../../records/openEndQueries'
import { answering, rendered } from '../../test/rendered'
import { FilesPage } from './FilesPage'
import { importsOptions } from '../../records/importQueries'
import { baseFilesOptions, columnsOptions, importOptions, importRowsOptions } from './queries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const run = (part: Partial<Schema['ImportOut']>): Schema['ImportOut'] => ({
  id: 3,
  kind: 'heaters',
  file_name: 'heaters.csv',
  state: 'checked',
  message: '',
  rows_total: 4,
  rows_done: 4,
  counts: { create: 2, refuse: 2 },
  columns: [],
  matched: false,
  started_at: '2026-11-25T08:00:00Z',
  by: 'Ines',
  can_undo: false,
  can_be_tried: false,
  sheets: [],
  sheet: '',
  ...part,
})
const ROWS: Schema['ImportRowsOut'] = {
  total: 300,
  rows: [
    {
      number: 2,
      action: 'change',
      key: 'T-1',
      detail: { capacity_l: [189, 151], maker: ['', 'Brackwell'], installed_on: ['2018-06-15', '2019-06-15'] },
    },
    { number: 3, action: 'refuse', key: 'T-2', detail: { 'left out': 'sold 2018-06-15', said: 'since 2018-06-15' } },
    {
      number: 4,
      action: 'create',
      key: 'Ash · 1 Mill Ln',
      detail: {
        note: 'dog',
        telephone: '555-0101',
        serial: '2018-06-15',
        rod: 'magnesium, since 2018-06-15',
        heater: 'gas tank 50 gal',
        'not understood: T': 'x',
      },
    },
  ],
}

function shown(what: Schema['ImportOut'] | null, may?: Schema['Action'][]) {
  const known: [readonly unknown[], unknown][] = [
    [openEndsOptions({}).queryKey, { total: 0, rows: [], by_severity: {} }],
    [
      baseFilesOptions.queryKey,
      [{ id: 9, state: 'ready', done: 1, total: 1, bytes: 12_400_000, asked_at: '2026-11-24T17:05:00Z' }],
    ],
    [importsOptions.queryKey, what ? [what] : []],
    [columnsOptions('heaters').queryKey, [{ name: 'tag', words: 'tag', own: '', required: true, ways: [] }]],
  ]
  if (what) known.push([importOptions(3).queryKey, what], [importRowsOptions(3, undefined, what.state).queryKey, ROWS])
  rendered(<FilesPage />, { known, at: what ? '/register/files?run=3' : '/register/files', ...(may ? { may } : {}) })
}

it('offers to bring in, to take out and to write the whole base', () => {
  shown(null)
  expect(screen.getByRole('link', { name: 'heaters' }).getAttribute('href')).toBe('/api/records/heaters.csv')
  expect(screen.getByRole('link', { name: 'readings' }).getAttribute('href')).toBe('/api/readings.csv')
  expect(screen.getByRole('link', { name: '24 November, 17:05' }).getAttribute('href')).toBe('/api/base-files/9/file')
  expect(screen.getByText('12.4 MB')).toBeTruthy()
  expect(screen.getByText('needed')).toBeTruthy()
})

it('keeps the whole base to the lead, and files from who may not', () => {
  shown(null, ['read', 'import'])
  expect(screen.queryByText('The whole base')).toBeNull()
  cleanup()
  shown(null, ['read'])
  expect(screen.getByText('Files are for the planner and the lead.')).toBeTruthy()
})

it('tells row by row what a file would do', () => {
  shown(run({}))
  const rows = screen.getAllByRole('row').map((one) => one.textContent)
  expect(rows[1]).toBe('2changedT-1capacity_l 189 → 151maker empty → Brackwellinstalled_on 15 June 2018 → 15 June 2019')
  expect(rows[2]).toBe('3refusedT-2said since 2018-06-15left out sold 2018-06-15')
  // What it is first; a serial number is no day; figures stand side by side and what somebody wrote in lines alone.
  expect(rows[3]).toBe(
    '4newAsh · 1 Mill Lnheater gas tank 50 galserial 2018-06-15rod magnesium, since 15 June 2018telephone 555-0101' +
      'note dognot understood: T x',
  )
  expect(screen.getByText('magnesium, since 15 June 2018').parentElement?.textContent).not.toContain('dog')
  expect(screen.getByText('The first 3 of 300 are shown.')).toBeTruthy()
})

it('brings the right rows in without the refused ones only when it is said', async () => {
  const sent = answering({ body: run({ state: 'applying' }) })
  shown(run({}))
  expect(screen.queryByRole('button', { name: /^Bring in all/ })).toBeNull()
  expect(screen.getByRole('link', { name: /refused rows as a file/ }).getAttribute('href')).toBe(
    '/api/imports/3/refused.csv',
  )
  await userEvent.click(screen.getByRole('button', { name: 'Bring in the 2 right ones without them' }))
  expect(sent[0]).toEqual({ method: 'POST', path: '/api/imports/3/confirm', body: { without_refused: true } })
})

it('brings a file without refusals in whole', async () => {
  const sent = answering({ body: run({ state: 'applying' }) })
  shown(run({ counts: { create: 2, change: 1, same: 1 } }))
  expect(screen.queryByRole('link', { name: /as a file to mend/ })).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'Bring in all 3 rows' }))
  expect(sent[0]?.body).toEqual({ without_refused: false })
})

it('offers to match anew what was matched as the last time', () => {
  shown(run({ matched: true }))
  expect(screen.getByRole('button', { name: 'Match its columns anew' })).toBeTruthy()
  cleanup()
  shown(run({ state: 'applied', message: 'Without 2 refused rows.' }))
  expect(screen.queryByRole('button', { name: 'Match its columns anew' })).toBeNull()
  expect(screen.getByRole('alert').textContent).toBe('Without 2 refused rows.')
})

it('tells which files were sent and takes a whole list out again', async () => {
  const sent = answering({ status: 200, body: run({ kind: 'list', file_name: 'our list.csv', state: 'undone' }) })
  shown(
    run({
      kind: 'list',
      file_name: 'our list.csv',
      state: 'applied',
      counts: { create: 260, left_out: 3 },
      can_undo: true,
    }),
  )
  expect(screen.getByRole('heading', { name: 'our list.csv: brought in, and forecast anew' })).toBeTruthy()
  expect(screen.getByRole('button', { name: /our list.csv 25 November, Ines/ })).toBeTruthy()
  expect(screen.getByRole('button', { name: '3 left out' })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Take it all out again' }))
  await screen.findByRole('heading', { name: 'our list.csv: taken out again' })
  expect(sent[0]).toMatchObject({ method: 'POST', path: '/api/imports/3/undo' })
})

it('asks whether two of one name are one customer, and tells all that was ticked at once', async () => {
  const sent = answering({ body: run({ kind: 'list', state: 'checking' }) })
  const doubt = { 'perhaps another customer': 'the same name, another telephone' }
  const rows = [3, 5].map((number) => ({ number, action: 'create' as const, key: 'Ines Harrow', detail: doubt }))
  rendered(<FilesPage />, {
    at: '/?run=3',
    known: [
      [importOptions(3).queryKey, run({ kind: 'list', counts: { create: 9, 'perhaps another customer': 2 } })],
      [importRowsOptions(3, undefined, 'checked').queryKey, { total: 2, rows }],
    ],
  })
  expect(screen.getByRole('button', { name: '2 to decide: the same customer?' })).toBeTruthy()
  const answer = (row: number, words: string) =>
    userEvent.click(
      within(screen.getByRole('group', { name: `Row ${row}: the same customer?` })).getByRole('button', {
        name: words,
      }),
    )
  await answer(3, 'another one')
  await answer(5, 'another one')
  await answer(5, 'the same customer')
  await userEvent.click(screen.getByRole('button', { name: 'Check all 2 so' }))
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/api/imports/3/decisions',
    body: {
      rows: [
        { number: 3, same: false },
        { number: 5, same: true },
      ],
    },
  })
})

it('offers the sheets of a workbook, and reads another', async () => {
  const sent = answering({ body: run({ kind: 'list', state: 'checking' }) })
  shown(run({ kind: 'list', counts: { create: 5 }, sheets: ['Old', 'Now'] }))
  await userEvent.selectOptions(screen.getByLabelText('Sheet'), 'Now')
  expect(sent[0]).toEqual({ method: 'POST', path: '/api/imports/3/sheet', body: { sheet: 'Now' } })
  cleanup()
  shown(run({ kind: 'list', counts: { create: 5 }, sheets: ['Only'] }))
  expect(screen.queryByLabelText('Sheet')).toBeNull()
})
