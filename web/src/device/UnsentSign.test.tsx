import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { rendered } from '../test/rendered'
import { device } from './store'
import { UnsentSign } from './UnsentSign'

beforeEach(async () => {
  await Promise.all([device.visits.clear(), device.taps.clear(), device.unsent.clear(), device.photos.clear()])
  vi.stubGlobal('fetch', () => Promise.reject(new TypeError('no way')))
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const begun = async (part: object) => {
  const clientId = crypto.randomUUID()
  await device.guides.add({ visit: clientId, guide: { components: [], order: [] } as unknown as Schema['GuideOut'] })
  return device.visits.add({
    clientId,
    heaterId: 4,
    by: 1,
    name: 'Marram Bakery, T-4',
    revision: 1,
    cursor: 0,
    waits: true,
    trouble: '',
    closing: false,
    aside: false,
    recorded: null,
    ...part,
  })
}
const kept = (order: number, by: number, heater: string, trouble = '') =>
  device.unsent.add({ clientId: crypto.randomUUID(), order, by, heater, body: {} as Schema['VisitIn'], trouble })
const said = async () => (await screen.findByRole('status')).textContent

it('is not there where nothing waits', async () => {
  await begun({ waits: false })
  rendered(<UnsentSign />)
  await new Promise((done) => setTimeout(done, 50))
  expect(screen.queryByRole('status')).toBeNull()
})

it('tells no signal from a server that refuses, and by which visit', async () => {
  await begun({})
  rendered(<UnsentSign />)
  expect(await said()).toBe('The server does not answer yet. What you tap is kept on this device and sent later.')
  cleanup()
  await device.visits.clear()
  await begun({ by: 8, trouble: 'It was archived.' })
  rendered(<UnsentSign />)
  expect(await said()).toBe('Marram Bakery, T-4: It was archived. What you tap is kept on this device.')
})

it('names the visits that are kept, what the server has against one, and whose another is', async () => {
  await kept(1, 1, 'T-4', 'Say under whom you worked.')
  rendered(<UnsentSign />)
  expect(await said()).toBe('One visit is kept on this device and not yet sent: T-4.T-4: Say under whom you worked.')
  await kept(2, 8, 'T-9')
  await waitFor(() =>
    expect(screen.getByRole('status').textContent).toContain(
      '2 visits are kept on this device and not yet sent: T-4, T-9.',
    ),
  )
  expect(await said()).toMatch(/Of somebody else who signed in here/)
})

it('tells a telephone without a signal from a server that does not answer', async () => {
  const line = vi.spyOn(navigator, 'onLine', 'get').mockReturnValue(false)
  await begun({})
  rendered(<UnsentSign />)
  expect(await said()).toBe('There is no signal. What you tap is kept on this device and sent later.')
  line.mockRestore()
})
