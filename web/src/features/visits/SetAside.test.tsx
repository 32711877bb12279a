import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { beginVisit } from '../../device/eventLog'
import { device } from '../../device/store'
import { rendered } from '../../test/rendered'
import { straight, written } from '../../test/walked'
import vectors from './guide/interlock.vectors.json'
import type { Guide } from './guide/state'
import { wasTouched, type Event } from './guide/visit'
import { UnderWayHere } from './SetAside'

const GUIDE = (vectors as unknown as { visits: { guide: Guide }[] }).visits[0]!.guide

beforeEach(async () => {
  await Promise.all([device.visits.clear(), device.taps.clear(), device.unsent.clear()])
  vi.stubGlobal('fetch', async () => Promise.reject(new TypeError('no way')))
})

afterEach(cleanup)

async function shown(...events: Event[]) {
  await beginVisit(4, { ...GUIDE, components: ['sediment'] } as unknown as Schema['GuideOut'], 1, 'Marram Bakery, T-4')
  const visit = (await device.visits.toCollection().first())!
  await written(visit.clientId, events)
  rendered(<UnderWayHere visit={visit} />)
  await userEvent.click(screen.getByRole('button', { name: 'Set aside' }))
}

it('sets a visit aside with a reason, and not without one', async () => {
  await shown()
  const send = await screen.findByRole('button', { name: 'Set this visit aside' })
  expect((send as HTMLButtonElement).disabled).toBe(true)
  await userEvent.click(screen.getByRole('button', { name: 'Nobody let us in' }))
  await userEvent.click(send)
  await waitFor(async () =>
    expect(await device.visits.toCollection().first()).toMatchObject({ closing: true, aside: true }),
  )
  expect((await device.taps.toArray()).map((one) => [one.kind, one.why])).toEqual([['set_aside', 'Nobody let us in']])
})

it('does not set a visit aside whose heater is not as it is left', async () => {
  await shown(...straight(GUIDE, (stand) => wasTouched(GUIDE, stand)))
  expect(await screen.findByRole('heading', { name: 'Not as it should be left' })).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Set this visit aside' })).toBeNull()
})
