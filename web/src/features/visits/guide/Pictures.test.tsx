import 'fake-indexeddb/auto'

import { cleanup, fireEvent, screen } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../../api/client'
import { device } from '../../../device/store'
import { attachmentsOptions } from '../../../records/attachmentQueries'
import { rendered } from '../../../test/rendered'
import type { Step } from './interlock'
import { Pictures } from './Pictures'

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

const SETTINGS = { id: 'settings', do: 'Photograph dial, wiring and plate.', part: 'gas_control' }
const sent = (id: number, piece: string, visit: string) =>
  ({
    id,
    piece,
    visit_client_id: visit,
    taken_on: '2025-11-20',
    added_at: '2025-11-20',
    kind: 'photograph',
  }) as Schema['AttachmentOut']
const shown = (step: object, known: Schema['AttachmentOut'][] = []) =>
  rendered(<Pictures visit="now" heaterId={4} by={1} units={[] as never} step={step as Step} />, {
    known: [[attachmentsOptions({ heater_id: 4 }).queryKey, known]],
  })

it('keeps each picture that a step wants under what it shows', async () => {
  const { container } = shown({ ...SETTINGS, pictures: ['setting', 'plate'] })
  expect(screen.getAllByRole('button').map((one) => one.textContent)).toEqual(['the dial or panel', 'the plate'])
  expect(screen.getByRole('button', { name: 'Photograph the plate' })).toBeTruthy()
  const inputs = container.querySelectorAll('input[type=file]')
  fireEvent.change(inputs[1]!, { target: { files: [new File(['x'], 'plate.jpg', { type: 'image/jpeg' })] } })
  await screen.findByText('the plate: 1 kept, more')
  const kept = await device.photos.toArray()
  expect(kept.map(({ piece, visit }) => [piece, visit])).toEqual([['plate', 'now']])
})

it('shows each as it was last time, by name; without a wish how the piece looked', () => {
  const before = [sent(5, 'setting', 'before'), sent(6, 'plate', 'before'), sent(7, 'gas_control', 'before')]
  shown({ ...SETTINGS, pictures: ['setting', 'plate'] }, before)
  const pictures = () => screen.getAllByRole('img').map((one) => one.getAttribute('src'))
  expect(pictures()).toEqual(['/api/attachments/5/file?small=true', '/api/attachments/6/file?small=true'])
  expect(screen.getAllByRole('heading').map((one) => one.textContent)).toEqual(['the dial or panel', 'the plate'])
  cleanup()
  // A guide that a device kept from before knows of no wishes.
  shown(SETTINGS, before)
  expect(pictures()).toEqual(['/api/attachments/7/file?small=true'])
  expect(screen.queryByRole('button')).toBeNull()
})
