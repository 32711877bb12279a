import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { placeOptions } from '../../records/placeQueries'
import { answering, rendered } from '../../test/rendered'
import { Pin } from './Pin'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const PLACE: Schema['PlaceOut'] = {
  version: 3,
  latitude: null,
  longitude: null,
  neighbours: [
    [8, 47],
    [8.2, 47.1],
  ],
  middle: [8.1, 47.05],
  looks_up: false,
}
const shown = (place: Partial<Schema['PlaceOut']> = {}) => {
  const done = vi.fn()
  rendered(<Pin siteId={3} onDone={done} />, { known: [[placeOptions(3).queryKey, { ...PLACE, ...place }]] })
  return done
}

it('puts a site where the map is touched: the middle of the map is the middle of the others', async () => {
  const sent = answering({ body: { site: {} } })
  const done = shown()
  const map = screen.getByRole('img', { name: /Map of the sites/ })
  fireEvent.click(map, { clientX: 260, clientY: 180 })
  expect(screen.getByLabelText<HTMLInputElement>('Latitude').value).toBe('47.05000')
  fireEvent.click(map, { clientX: 260, clientY: 90 })
  expect(Number(screen.getByLabelText<HTMLInputElement>('Latitude').value)).toBeGreaterThan(47.05)
  await userEvent.click(screen.getByRole('button', { name: 'It is here' }))
  await waitFor(() => expect(done).toHaveBeenCalled())
  expect(sent[0]).toMatchObject({ method: 'PUT', path: '/api/sites/3/place' })
  expect((sent[0]!.body as { longitude: number }).longitude).toBeCloseTo(8.1, 4)
})

it('takes coordinates as they are typed, with a comma, and neither for nobody knows', async () => {
  const sent = answering({ body: { site: {} } })
  shown({ latitude: 47.2, longitude: 8.3 })
  for (const label of ['Latitude', 'Longitude']) await userEvent.clear(screen.getByLabelText(label))
  await userEvent.type(screen.getByLabelText('Latitude'), '47,25')
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Nobody knows' }).disabled).toBe(true)
  await userEvent.type(screen.getByLabelText('Longitude'), '8,5')
  await userEvent.click(screen.getByRole('button', { name: 'It is here' }))
  await waitFor(() => expect(sent[0]?.body).toEqual({ latitude: 47.25, longitude: 8.5, looked_up: false, version: 3 }))
})

it('says what to do where there is no map yet', () => {
  shown({ neighbours: [], middle: null })
  expect(screen.getByText(/No site has a place yet/)).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Look the address up' })).toBeNull()
})
