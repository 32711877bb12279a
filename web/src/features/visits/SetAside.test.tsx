import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { beginVisit, tap, type Tapped } from '../../device/journal'
import { device } from '../../device/store'
import { rendered } from '../../test/rendered'
import vectors from './guide/interlock.vectors.json'
import { advanced, begun, unrestored, type Event, type Guide, type Stand } from './guide/interlock'
import { BegunHere } from './SetAside'

const GUIDE = (vectors as unknown as { visits: { guide: Guide }[] }).visits[0]!.guide

beforeEach(async () => {
  await Promise.all([device.visits.clear(), device.taps.clear(), device.unsent.clear()])
  vi.stubGlobal('fetch', async () => Promise.reject(new TypeError('no way')))
})

afterEach(cleanup)

async function shown(...taps: Tapped[]) {
  await beginVisit(4, { ...GUIDE, components: ['sediment'] } as unknown as Schema['GuideOut'], 1, 'Marram Bakery, T-4')
  const visit = (await device.visits.toCollection().first())!
  await tap(visit.clientId, ...taps)
  rendered(<BegunHere visit={visit} />)
  await userEvent.click(screen.getByRole('button', { name: 'Set aside' }))
}

it('sets a visit aside with a reason, and not without one', async () => {
  await shown()
  const send = await screen.findByRole('button', { name: 'Set this visit aside' })
  expect((send as HTMLButtonElement).disabled).toBe(true)
  await userEvent.click(screen.getByRole('button', { name: 'Nobody let us in' }))
  await userEvent.click(send)
  await waitFor(async () => expect(await device.visits.toCollection().first()).toMatchObject({ closing: true, aside: true }))
  expect((await device.taps.toArray()).map((one) => [one.kind, one.why])).toEqual([['set_aside', 'Nobody let us in']])
})

it('does not set a visit aside whose heater is not as it is left', async () => {
  const taps: Tapped[] = []
  // Until something is shut or opened.
  let stand: Stand = begun(GUIDE)
  for (let now = stand.left[0]; now && unrestored(GUIDE, stand.state).length === 0; now = stand.left[0]) {
    const event = (kind: Event['kind']): Event => ({ kind, step: now.id, choice: 0, turn: 0 })
    const next = advanced(GUIDE, stand, event('done'))
    taps.push(event(next ? 'done' : 'skipped'))
    stand = next ?? advanced(GUIDE, stand, event('skipped'))!
  }
  await shown(...taps)
  expect(await screen.findByRole('heading', { name: 'Not as it is left' })).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Set this visit aside' })).toBeNull()
})
