import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { zonesOptions } from '../../session/session'
import { answering, refusal, rendered } from '../../test/rendered'
import { ZoneForm } from './ZoneForm'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const SUMMER = { name: 'dry summer', other_id: 2, other: 'Moor', share_of_year: 0.25, other_share: 0.4 }
const ZONE = {
  id: 1,
  version: 5,
  name: 'Chalk',
  note: 'boreholes',
  supply: 'mains',
  practice: '',
  places: ['Quillmoor', '00021'],
  seasons: [SUMMER],
} as unknown as Schema['ZonePageOut']

function shown() {
  const zones = [1, 2, 3].map((id) => ({ id, name: ['Chalk', 'Moor', 'Wells'][id - 1] }))
  rendered(<ZoneForm zone={ZONE} onDone={() => undefined} />, { known: [[zonesOptions.queryKey, zones]] })
}

it('says shares in per cent and sends them as shares; a water is not mixed with itself', async () => {
  const sent = answering({ body: {} })
  shown()
  expect(screen.getByLabelText<HTMLInputElement>(/^Of the year/).value).toBe('25')
  const mixed = screen.getByLabelText<HTMLSelectElement>('Mixed with')
  expect([...mixed.options].map((one) => one.text)).toEqual(['Moor', 'Wells'])
  await userEvent.clear(screen.getByLabelText(/^Of the water/))
  await userEvent.type(screen.getByLabelText(/^Of the water/), '37,5')
  await userEvent.click(screen.getByRole('button', { name: 'Save the zone' }))
  expect(sent[0]).toEqual({
    method: 'PUT',
    path: '/api/zones/1',
    body: {
      places: ['Quillmoor', '00021'],
      name: 'Chalk',
      note: 'boreholes',
      supply: 'mains',
      practice: null,
      version: 5,
      seasons: [{ name: 'dry summer', other_id: 2, share_of_year: 0.25, other_share: 0.375 }],
    },
  })
})

it('adds and takes out seasons, and names the one that cannot be', async () => {
  const sent = answering(refusal('Not kept.', { 'seasons.0.name': 'stands twice' }))
  shown()
  await userEvent.click(screen.getByRole('button', { name: 'Add a season' }))
  expect(screen.getAllByLabelText('Mixed with')).toHaveLength(2)
  await userEvent.click(screen.getAllByRole('button', { name: 'Take out' })[1]!)
  await userEvent.click(screen.getByRole('button', { name: 'Save the zone' }))
  expect((sent[0]?.body as { seasons: unknown[] }).seasons).toHaveLength(1)
  expect(await screen.findByText('stands twice')).toBeTruthy()
})

it('makes a new zone of towns and postcodes', async () => {
  const sent = answering({ status: 201, body: { id: 9 } })
  const done = vi.fn()
  rendered(<ZoneForm zone={null} onDone={done} />, { known: [[zonesOptions.queryKey, []]] })
  await userEvent.type(screen.getByLabelText('Name'), 'North')
  await userEvent.type(screen.getByLabelText('Supplies'), 'Quillmoor, 00021;')
  await userEvent.click(screen.getByRole('button', { name: 'Save the zone' }))
  await waitFor(() => expect(done).toHaveBeenCalledWith(9))
  expect(sent[0]).toMatchObject({
    method: 'POST',
    path: '/api/zones',
    body: { name: 'North', supply: 'mains', places: ['Quillmoor', '00021'], seasons: [] },
  })
})
