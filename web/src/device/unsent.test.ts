import 'fake-indexeddb/auto'

import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { chance } from '../test/chance'
import { runs } from '../test/runs'
import { device } from './store'
import { keepVisit, recorded, sendKept, takeBack } from './unsent'

const visit = (id: string) =>
  ({
    client_id: id,
    heater_id: 1,
    on: '2026-11-25',
    findings: [],
    note: '',
    supervised_by: null,
    signature: null,
  }) as unknown as Schema['VisitIn']

beforeEach(() => device.unsent.clear())
afterEach(() => vi.unstubAllGlobals())

/** A server that knows a visit by its id, on a way that loses what is asked, or what is answered. */
class Server {
  readonly recorded: string[] = []
  constructor(private readonly luck: () => 'lost' | 'unanswered' | 'broken' | 'well') {
    vi.stubGlobal('fetch', async (request: Request) => {
      const luck = this.luck()
      const { client_id: id } = (await request.json()) as { client_id: string }
      if (luck === 'lost') throw new TypeError('no way')
      if (luck === 'broken') return new Response('', { status: 502 })
      const known = this.recorded.includes(id)
      if (!known) this.recorded.push(id)
      if (luck === 'unanswered') throw new TypeError('the answer was lost')
      return new Response(JSON.stringify({ client_id: id, already_recorded: known, moved: [] }), {
        status: known ? 200 : 201,
        headers: { 'Content-Type': 'application/json' },
      })
    })
  }
}

it('has every visit once and in order with the server, whatever happens on the way, in many runs', async () => {
  for (let run = 0; run < runs(150, 1000); run++) {
    const draw = chance(run)
    const server = new Server(
      () => (['lost', 'unanswered', 'broken', 'well', 'well'] as const)[Math.floor(draw() * 5)]!,
    )
    const saved: string[] = []
    await device.unsent.clear()
    while (saved.length < 3 || draw() < 0.4) {
      const id = `${run}-${saved.length}`
      saved.push(id)
      await keepVisit(visit(id), 7, 'T-1')
      // Saved again by a second tap, sent by two at once, or not at all because the device died.
      if (draw() < 0.3) await keepVisit(visit(id), 7, 'T-1')
      if (draw() < 0.6) await Promise.all([sendKept(7), ...(draw() < 0.4 ? [sendKept(7)] : [])])
    }
    for (let tries = 0; (await device.unsent.count()) > 0; tries++) {
      expect(tries).toBeLessThan(500)
      await sendKept(7)
    }
    expect(server.recorded).toEqual(saved)
  }
}, 120_000)

it('keeps what the server refuses with its reason, and sends the others', async () => {
  vi.stubGlobal('fetch', async (request: Request) => {
    const { client_id: id } = (await request.json()) as { client_id: string }
    const refused = id === 'first'
    const body = refused
      ? { code: 'visit.invalid', message: 'It is in the future.', fields: {} }
      : { client_id: id, moved: [], already_recorded: false }
    return new Response(JSON.stringify(body), {
      status: refused ? 422 : 201,
      headers: { 'Content-Type': 'application/json' },
    })
  })
  await keepVisit(visit('first'), 7, 'T-1')
  await keepVisit(visit('second'), 7, 'T-2')
  const answers = await sendKept(7)
  expect([...answers.keys()]).toEqual(['second'])
  expect((await device.unsent.toArray()).map((one) => [one.clientId, one.trouble])).toEqual([
    ['first', 'It is in the future.'],
  ])
  expect((await takeBack('first'))?.body.client_id).toBe('first')
  expect(await device.unsent.count()).toBe(0)
})

it('sends nothing of somebody else who signed in here before, and waits for a sign-in', async () => {
  const asked = vi.fn(() =>
    Promise.resolve(
      new Response(JSON.stringify({ code: 'signed_out', message: 'Sign in.', fields: {} }), {
        status: 401,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  )
  vi.stubGlobal('fetch', asked)
  await keepVisit(visit('theirs'), 8, 'T-1')
  await sendKept(7)
  expect(asked).not.toHaveBeenCalled()
  await keepVisit(visit('mine'), 7, 'T-1')
  await sendKept(7)
  expect((await device.unsent.toArray()).map((one) => one.trouble)).toEqual(['', ''])
})

it('answers what the server said, also of a visit sent beside the saving, and null where there is no way', async () => {
  const server = new Server(() => 'well')
  expect(await recorded(visit('one'), 7, 'T-1')).toMatchObject({ client_id: 'one', already_recorded: false })
  // Between the keeping and the sending, somebody else sends it.
  const [saved] = await Promise.all([recorded(visit('two'), 7, 'T-1'), recorded(visit('two'), 7, 'T-1')])
  expect(saved).toMatchObject({ client_id: 'two' })
  expect(server.recorded).toEqual(['one', 'two'])
  new Server(() => 'lost')
  expect(await recorded(visit('three'), 7, 'T-1')).toBeNull()
})

it('gives a refused visit back with the reason', async () => {
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(JSON.stringify({ code: 'visit.invalid', message: 'It is in the future.', fields: {} }), {
        status: 422,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  )
  await expect(recorded(visit('four'), 7, 'T-1')).rejects.toThrow('It is in the future.')
  expect(await device.unsent.get('four')).toBeUndefined()
})

it('sends a visit that is saved while others are on their way, instead of saying that there is no signal', async () => {
  let letThrough = () => {}
  const held = new Promise<void>((resolve) => {
    letThrough = resolve
  })
  let asked = () => {}
  const underWay = new Promise<void>((resolve) => {
    asked = resolve
  })
  vi.stubGlobal('fetch', async (request: Request) => {
    const { client_id: id } = (await request.json()) as { client_id: string }
    asked()
    if (id === 'five') await held
    return new Response(JSON.stringify({ client_id: id, already_recorded: false, moved: [] }), {
      status: 201,
      headers: { 'Content-Type': 'application/json' },
    })
  })
  await keepVisit(visit('five'), 7, 'T-1')
  const sent = sendKept(7)
  await underWay
  const saved = recorded(visit('six'), 7, 'T-1')
  letThrough()
  expect([...(await sent).keys()]).toEqual(['five'])
  expect(await saved).toMatchObject({ client_id: 'six' })
})
