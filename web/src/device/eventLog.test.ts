import 'fake-indexeddb/auto'

import { renderHook, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { chance } from '../test/chance'
import { runs } from '../test/runs'
import { beginVisit, inEffect, setAside, syncAll, tap, useEventLog, useUnderWay } from './eventLog'
import { device, type Tap } from './store'

const GUIDE = { components: ['sediment'], order: ['arrival'], procedures: {} } as unknown as Schema['GuideOut']

beforeEach(async () => {
  await Promise.all([device.visits.clear(), device.taps.clear(), device.photos.clear()])
})
afterEach(() => vi.unstubAllGlobals())

type Told = Schema['EventIn'] & { device: string }

/** A server that keeps each event once by its id, on a way that loses what is told, or what is answered. */
class Server {
  readonly kept: Told[] = []
  readonly refuses = new Set<string>()
  /** A tap that it took and could not follow, and one that it reads after all: told every time. */
  apart = ''
  readAgain = ''
  constructor(private readonly luck: () => 'lost' | 'unanswered' | 'broken' | 'well') {
    vi.stubGlobal('fetch', async (request: Request) => {
      const luck = this.luck()
      const body = (await request.json()) as Schema['SyncIn']
      if (luck === 'lost') throw new TypeError('no way')
      if (luck === 'broken') return new Response('', { status: 502 })
      const refused = body.events
        .filter((one) => this.refuses.has(one.kind))
        .map((one) => ({ client_id: one.client_id, message: 'Only the lead.' }))
      if (this.apart) refused.push({ client_id: this.apart, message: 'It cannot be followed.' })
      for (const one of body.events)
        if (!this.refuses.has(one.kind) && !this.kept.some((other) => other.client_id === one.client_id))
          this.kept.push({ ...one, device: body.device })
      if (luck === 'unanswered') throw new TypeError('the answer was lost')
      const after = body.after ?? 0
      const numbered = this.kept.map((one, place) => ({ ...one, by: 'Nadia', number: place + 1 }))
      const events = numbered.filter((one) => one.number > after || one.client_id === this.readAgain)
      return new Response(
        JSON.stringify({
          client_id: body.client_id,
          components: ['sediment'],
          events,
          refused,
          cursor: this.kept.length,
          recorded: null,
        }),
        { headers: { 'Content-Type': 'application/json' } },
      )
    })
  }

  /** Another device tells something, knowing all that the server knows or nothing. */
  others(id: string, clock: number) {
    this.kept.push({
      client_id: id,
      clock,
      at: '2026-11-25T09:00:00Z',
      kind: 'done',
      step: 'arrival.look',
      choice: 0,
      name: '',
      known: 0,
      why: '',
      field: '',
      value: null,
      device: 'other',
    } as unknown as Told)
  }
}

const begun = async () => {
  await beginVisit(4, GUIDE, 7, 'Marram Bakery')
  return (await device.visits.toCollection().last())!.clientId
}

it('has each tap once and in its order on both sides, whatever happens on the way, in many runs', async () => {
  for (let run = 0; run < runs(150, 1000); run++) {
    const draw = chance(run)
    await Promise.all([device.visits.clear(), device.taps.clear()])
    const server = new Server(
      () => (['lost', 'unanswered', 'broken', 'well', 'well'] as const)[Math.floor(draw() * 5)]!,
    )
    const visit = await begun()
    const most = 3 + Math.floor(draw() * 5)
    for (let number = 0; number < most; number++) {
      await tap(visit, { kind: 'done', step: `arrival.s${number}` })
      if (draw() < 0.3) server.others(`${run} ${number}`, number + 1)
      // Sent, sent by two at once, or not at all since the device died meanwhile.
      if (draw() < 0.5) await Promise.all([syncAll(7), ...(draw() < 0.3 ? [syncAll(7)] : [])])
    }
    for (
      let tries = 0;
      (await device.taps.where({ visit, sent: 0 }).count()) > 0 ||
      (await device.visits.get(visit))!.cursor < server.kept.length;
      tries++
    ) {
      expect(tries).toBeLessThan(300)
      await syncAll(7)
    }
    const ids = server.kept.map((one) => one.client_id)
    expect(new Set(ids).size).toBe(ids.length)
    const here = await device.taps.where({ visit }).toArray()
    expect(here.map((one) => one.clientId).sort()).toEqual([...ids].sort())
    const mine = server.kept.filter((one) => one.device !== 'other').sort((a, b) => a.clock - b.clock)
    expect(mine.map((one) => one.step)).toEqual(Array.from({ length: most }, (_, number) => `arrival.s${number}`))
    expect(new Set(mine.map((one) => one.clock)).size).toBe(most)
  }
}, 180_000)

it('puts a tap after all that the device knew of, whatever its own clock says', async () => {
  const server = new Server(() => 'well')
  const visit = await begun()
  server.others('theirs', 41)
  vi.setSystemTime('2001-01-01')
  await syncAll(7)
  await tap(visit, { kind: 'done', step: 'arrival.greet' }, { kind: 'done', step: 'arrival.look' })
  vi.useRealTimers()
  expect(inEffect(await device.taps.toArray()).map((one) => one.clock)).toEqual([41, 42, 43])
})

it('lets neither what was taken back nor what was refused count, and tells why', async () => {
  const server = new Server(() => 'well')
  server.refuses.add('override')
  const visit = await begun()
  await tap(visit, { kind: 'done', step: 'arrival.greet' }, { kind: 'override', step: 'arrival.look', why: 'so' })
  const first = (await device.taps.toArray()).find((one) => one.kind === 'done')
  await tap(visit, { kind: 'undo', of: first!.clientId })
  await syncAll(7)
  const taps = await device.taps.toArray()
  expect(inEffect(taps)).toEqual([])
  expect(taps.find((one) => one.kind === 'override')!.refused).toBe('Only the lead.')
  const shown = renderHook(() => useEventLog(4, 7))
  await waitFor(() => expect(shown.result.current?.refused.map((one) => one.step)).toEqual(['arrival.look']))
})

it('takes back what the server set apart later, and lets it count again once it was read', async () => {
  const server = new Server(() => 'well')
  const visit = await begun()
  await tap(visit, { kind: 'done', step: 'arrival.greet' })
  await syncAll(7)
  const [first] = await device.taps.toArray()
  // The server could not follow it, and says so at the next telling, of which it is no part.
  server.apart = first!.clientId
  await tap(visit, { kind: 'done', step: 'arrival.look' })
  await syncAll(7)
  expect(inEffect(await device.taps.toArray()).map((one) => one.step)).toEqual(['arrival.look'])
  server.apart = ''
  server.readAgain = first!.clientId
  await syncAll(7)
  await tap(visit, { kind: 'done', step: 'arrival.outlet' })
  await syncAll(7)
  expect(inEffect(await device.taps.toArray()).map((one) => one.step)).toEqual([
    'arrival.greet',
    'arrival.look',
    'arrival.outlet',
  ])
})

it('keeps a visit that was set aside until the server knows, and shows it no longer', async () => {
  let lost = true
  const server = new Server(() => (lost ? 'lost' : 'well'))
  const visit = await begun()
  await tap(visit, { kind: 'done', step: 'arrival.greet' })
  await setAside(visit, 'wrong heater')
  const shown = renderHook(() => useUnderWay(7))
  expect(await syncAll(7)).toBe(false)
  expect(await device.taps.count()).toBe(2)
  lost = false
  await syncAll(7)
  expect(server.kept.map((one) => [one.kind, one.why])).toEqual([
    ['done', ''],
    ['set_aside', 'wrong heater'],
  ])
  expect([await device.taps.count(), await device.visits.count(), shown.result.current.length]).toEqual([0, 0, 0])
})

it('tells no signal from a server that refuses, and forgets what was set aside and is refused', async () => {
  const visit = await begun()
  await tap(visit, { kind: 'done', step: 'arrival.greet' })
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(JSON.stringify({ code: 'not_found', message: 'It was archived.' }), {
        status: 404,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  )
  expect(await syncAll(7)).toBe(true)
  expect(await device.visits.get(visit)).toMatchObject({ waits: true, trouble: 'It was archived.' })
  vi.stubGlobal('fetch', async () => Promise.reject(new TypeError('no way')))
  await syncAll(7)
  expect(await device.visits.get(visit)).toMatchObject({ waits: true, trouble: '' })
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(JSON.stringify({ code: 'not_found', message: 'It was archived.' }), {
        status: 404,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  )
  await setAside(visit, 'wrong heater')
  await syncAll(7)
  expect(await device.visits.count()).toBe(0)
})

it('orders alike what two devices told without knowing of each other', () => {
  const one = (clientId: string, clock: number, of: string) =>
    ({ clientId, clock, device: of, kind: 'done', refused: '' }) as Tap
  const [a, b, c] = [one('x', 2, 'one'), one('y', 2, 'two'), one('z', 1, 'two')]
  expect(inEffect([a, b, c])).toEqual(inEffect([c, b, a]))
  expect(inEffect([b, a, c]).map((tapped) => tapped.clientId)).toEqual(['z', 'x', 'y'])
})

it('says that it waits where there is no way, and no longer when there is', async () => {
  let lost = true
  new Server(() => (lost ? 'lost' : 'well'))
  const visit = await begun()
  await tap(visit, { kind: 'done', step: 'arrival.greet' })
  expect(await syncAll(7)).toBe(false)
  expect((await device.visits.get(visit))!.waits).toBe(true)
  lost = false
  expect(await syncAll(7)).toBe(true)
  expect((await device.visits.get(visit))!.waits).toBe(false)
})

it('shows a visit to whoever began it, and to nobody else on the same device', async () => {
  new Server(() => 'well')
  const visit = await begun()
  const mine = renderHook(() => [useEventLog(4, 7), useUnderWay(7)] as const)
  await waitFor(() => expect(mine.result.current[0]?.visit.clientId).toBe(visit))
  expect(mine.result.current[1].map((one) => one.name)).toEqual(['Marram Bakery'])
  const theirs = renderHook(() => [useEventLog(4, 8), useUnderWay(8)] as const)
  await waitFor(() => expect(theirs.result.current[0]).toBeNull())
  expect(theirs.result.current[1]).toEqual([])
  await device.visits.update(visit, { closing: true })
  await waitFor(() => expect(mine.result.current).toEqual([null, []]))
})
