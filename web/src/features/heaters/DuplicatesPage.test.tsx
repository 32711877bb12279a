import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered } from '../../test/rendered'
import { openEndsOptions } from '../../records/openEndQueries'
import { DuplicatesPage } from './DuplicatesPage'
import { duplicatesOptions } from '../../records/heaterQueries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const one = (id: number, part: object = {}) => ({
  id,
  tag: `T-${id}`,
  kind: 'gas_tank',
  site: 'Mill',
  street: '1 Weir Street',
  location: '',
  serial: '77',
  installed_on: null,
  visits: 1,
  ...part,
})

function shown(pairs: object[], may?: Schema['Action'][]) {
  rendered(<DuplicatesPage />, {
    known: [
      [openEndsOptions({}).queryKey, { total: 0, rows: [], by_severity: {} }],
      [duplicatesOptions.queryKey, pairs],
    ],
    ...(may ? { may } : {}),
  })
}
const PAIR = { first: one(1, { location: 'cellar' }), second: one(2, { visits: 0 }), because: 'the same serial number' }

it('shows both with what tells them apart, and why they look alike', () => {
  shown([PAIR])
  expect(screen.getByText('They have the same serial number.')).toBeTruthy()
  expect(screen.getByRole('link', { name: 'T-1, Mill, cellar' })).toBeTruthy()
  expect(screen.getByRole('link', { name: 'T-2, Mill' })).toBeTruthy()
  expect(screen.getByText(/age not known · serial 77 · 0 visits/)).toBeTruthy()
})

it('keeps the one that is picked and gives it the other', async () => {
  const sent = answering({ body: {} })
  shown([PAIR])
  await userEvent.click(screen.getAllByRole('button', { name: /^Keep this one/ })[1]!)
  await userEvent.click(screen.getByRole('button', { name: 'Merge them' }))
  expect(sent[0]).toEqual({ method: 'POST', path: '/api/heaters/2/merge', body: { other_id: 1 } })
})

it('leaves it to who may, and says so where there are none', () => {
  shown([PAIR], ['read'])
  expect(screen.queryByRole('button', { name: /^Keep this one/ })).toBeNull()
  cleanup()
  shown([])
  expect(screen.getByText('No two heaters look like one.')).toBeTruthy()
})
