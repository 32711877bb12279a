import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../../api/client'
import { keepPhoto } from '../../../device/photos'
import { device } from '../../../device/store'
import { attachmentsOptions } from '../../../records/attachmentQueries'
import { rendered } from '../../../test/rendered'
import { SeenBefore } from './SeenBefore'

beforeEach(async () => {
  await device.photos.clear()
  vi.stubGlobal('createImageBitmap', () => Promise.reject(new Error('no picture here')))
  URL.createObjectURL = vi.fn(() => 'blob:first')
  URL.revokeObjectURL = vi.fn()
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const photo = (id: number, piece: string, visit: string, on: string) =>
  ({ id, piece, visit_client_id: visit, taken_on: on, added_at: on, kind: 'photograph' }) as Schema['AttachmentOut']
/** As the server tells them: the newest first. */
const SENT = [
  photo(9, 'lower_element', 'now', '2026-11-25'),
  photo(8, 'anode', 'now', '2026-11-25'),
  photo(7, 'anode', 'now', '2026-11-25'),
  photo(5, 'anode', 'before', '2025-11-20'),
  photo(4, 'anode', 'long ago', '2024-11-20'),
]
const shown = (piece: string, sent = SENT) =>
  rendered(<SeenBefore heaterId={4} visit="now" piece={piece} />, {
    known: [[attachmentsOptions({ heater_id: 4 }).queryKey, sent]],
  })
const pictures = () => screen.queryAllByRole('img').map((one) => one.getAttribute('src'))

it('shows how a piece was last time beside how it was before anything was touched today', () => {
  shown('anode')
  expect(pictures()).toEqual(['/api/attachments/5/file?small=true', '/api/attachments/7/file?small=true'])
  expect(screen.getByText(/^Last time, 20 Nov/)).toBeTruthy()
})

it('shows what this device took and has not sent, and nothing of another piece', async () => {
  await keepPhoto('now', 4, 1, 'The rod', 'anode', new Blob(['x']))
  await keepPhoto('now', 4, 1, 'The wires', 'upper_element', new Blob(['y']))
  shown('anode', [])
  await screen.findByText('At this visit')
  expect(pictures()).toEqual(['blob:first'])
  cleanup()
  expect(shown('exchanger').container.textContent).toBe('')
})

it('shows what was sent from the server, once it is there', async () => {
  const told = JSON.stringify([photo(12, 'anode', 'now', '2026-11-25')])
  vi.stubGlobal('fetch', () => Promise.resolve(new Response(told, { headers: { 'Content-Type': 'application/json' } })))
  await keepPhoto('now', 4, 1, 'The rod', 'anode', new Blob(['x']))
  shown('anode', [])
  await screen.findByText('At this visit')
  await device.photos.clear()
  await waitFor(() => expect(pictures()).toEqual(['/api/attachments/12/file?small=true']))
})
