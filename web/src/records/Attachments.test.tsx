import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { answering, refusal, rendered } from '../test/rendered'
import { Attachments } from './Attachments'
import { attachmentsOptions } from './attachmentQueries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const OF = { heater_id: 7 }
const one = (part: Partial<Schema['AttachmentOut']>): Schema['AttachmentOut'] => ({
  id: 4,
  kind: 'photograph',
  visit_client_id: null,
  piece: '',
  heater_id: 7,
  caption: 'Rating plate',
  taken_on: '2025-03-09',
  added_at: '2026-11-20T08:00:00Z',
  added_by: 'Joss',
  bytes: 240_000,
  width: 800,
  version: 1,
  height: 600,
  ...part,
})

function shown(attachments: Schema['AttachmentOut'][], may?: Schema['Action'][]) {
  rendered(<Attachments of={OF} />, {
    known: [[attachmentsOptions(OF).queryKey, attachments]],
    ...(may ? { may } : {}),
  })
}

it('shows small pictures that open, and documents that are saved', async () => {
  shown([one({}), one({ id: 5, kind: 'document', caption: 'Manual', bytes: 2_400_000, width: null, height: null })])
  expect(screen.getByRole('link', { name: 'Manual' }).getAttribute('href')).toBe('/api/attachments/5/file')
  expect(screen.getByText('PDF, 2.4 MB')).toBeTruthy()
  const small = screen.getByRole('button', { name: 'Photograph: Rating plate' })
  expect(small.querySelector('img')?.getAttribute('src')).toBe('/api/attachments/4/file?small=true')
  await userEvent.click(small)
  expect(screen.getByRole('img', { name: 'Rating plate' }).getAttribute('src')).toBe('/api/attachments/4/file')
  expect(screen.getByText('taken 9 March 2025 · Joss')).toBeTruthy()
})

it.each([
  ['Rating_plate-left.jpg', 'Rating plate left'],
  ['IMG_20260309_101112.jpg', ''],
  ['DSC 0042.JPG', ''],
])('takes a caption from the file %s only where it says something', async (name, caption) => {
  const sent = answering({ status: 201, body: one({}) })
  shown([])
  await userEvent.upload(
    screen.getByLabelText('Photograph or PDF to add'),
    new File(['x'], name, { type: 'image/jpeg' }),
  )
  await waitFor(() => expect(sent.length).toBeGreaterThan(0))
  expect(sent[0]).toMatchObject({ method: 'POST', path: '/api/attachments' })
  expect((sent[0]?.body as FormData).get('caption')).toBe(caption)
  expect((sent[0]?.body as FormData).get('heater_id')).toBe('7')
})

it('says why a file is not kept', async () => {
  answering(refusal('This is no photograph or document that can be kept.'))
  shown([])
  await userEvent.upload(
    screen.getByLabelText('Photograph or PDF to add'),
    new File(['x'], 'a.jpg', { type: 'image/jpeg' }),
  )
  expect((await screen.findByRole('alert')).textContent).toContain('This is no photograph')
})

it('lets who only reads look, and nothing else', async () => {
  shown([one({})], ['read'])
  expect(screen.queryByText('Add a photograph or PDF')).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'Photograph: Rating plate' }))
  expect(screen.queryByRole('button', { name: 'Take away' })).toBeNull()
})
