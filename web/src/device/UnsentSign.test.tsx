import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { rendered } from '../test/rendered'
import { sendPhotos } from './photos'
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

it('keeps a photograph that the server refuses, says why, and lets it go only when told to', async () => {
  URL.createObjectURL = vi.fn(() => 'blob:kept')
  URL.revokeObjectURL = vi.fn()
  const photo = { visit: 'v', heaterId: 4, by: 1, caption: 'The rod', piece: 'anode', picture: new Blob(['x']) }
  await device.photos.add({ ...photo, clientId: 'a' })
  // A picture does not come out of this disk as one.
  vi.stubGlobal(
    'FormData',
    class {
      append() {}
    },
  )
  let asked = 0
  vi.stubGlobal('fetch', (request: Request) => {
    // A visit of the test before may still be told.
    if (!request.url.endsWith('/api/attachments')) return Promise.reject(new TypeError('no way'))
    asked++
    const told = { code: 'too_large', message: 'The file has 31 MB.', fields: {} }
    return Promise.resolve(
      new Response(JSON.stringify(told), { status: 413, headers: { 'Content-Type': 'application/json' } }),
    )
  })
  rendered(<UnsentSign />)
  expect(await said()).toContain('Photograph “The rod”: The file has 31 MB.')
  await sendPhotos(1)
  expect(asked).toBe(1)
  expect(screen.getByRole('link', { name: 'Save it' }).getAttribute('href')).toBe('blob:kept')
  // What stood in the way may have been put right since: whoever took it may send it once more.
  await userEvent.click(screen.getByRole('button', { name: 'Send it again' }))
  await waitFor(() => expect(asked).toBe(2))
  expect(await said()).toContain('The file has 31 MB.')
  await userEvent.click(await screen.findByRole('button', { name: 'Let it go' }))
  await waitFor(() => expect(screen.queryByRole('status')).toBeNull())
  expect(await device.photos.count()).toBe(0)
})

it('sends a photograph once, though it is asked to twice at the same time', async () => {
  await device.photos.add({
    visit: 'v',
    heaterId: 4,
    by: 1,
    caption: '',
    piece: '',
    picture: new Blob(['x']),
    clientId: 'b',
  })
  vi.stubGlobal(
    'FormData',
    class {
      append() {}
    },
  )
  let sent = 0
  vi.stubGlobal('fetch', async (request: Request) => {
    if (!request.url.endsWith('/api/attachments')) throw new TypeError('no way')
    sent++
    await new Promise((done) => setTimeout(done, 20))
    return new Response('{}', { status: 201, headers: { 'Content-Type': 'application/json' } })
  })
  await Promise.all([sendPhotos(1), sendPhotos(1)])
  expect(sent).toBe(1)
  expect(await device.photos.count()).toBe(0)
})
