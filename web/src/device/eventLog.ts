import Dexie, { liveQuery } from 'dexie'
import { useEffect, useState } from 'react'

import { ApiError, client, unwrap, type Schema } from '../api/client'
import { trueNow } from '../api/clock'
import { device, type VisitSession, type Tap } from './store'

export type Tapped = Partial<Pick<Tap, 'step' | 'choice' | 'name' | 'why' | 'field' | 'value' | 'of'>> &
  Pick<Tap, 'kind'>

let here: string | undefined

/** This device, by an id of its own. */
export async function own(): Promise<string> {
  return (here ??= await ownId())
}

async function ownId(): Promise<string> {
  const known = await device.kept.get('device')
  if (known) return known.value
  const made = crypto.randomUUID()
  // Two pages at once: the first one's stands.
  await device.kept.add({ key: 'device', value: made }).catch(() => undefined)
  return (await device.kept.get('device'))!.value
}

/** Begin a visit here, or go on here with one that was begun elsewhere. */
export async function beginVisit(
  heaterId: number,
  guide: Schema['GuideOut'],
  by: number,
  name: string,
  joins: string | null = null,
): Promise<void> {
  const clientId = joins ?? crypto.randomUUID()
  await device.transaction('rw', device.visits, device.guides, async () => {
    await device.guides.put({ visit: clientId, guide })
    await device.visits.put({
      clientId,
      heaterId,
      by,
      name,
      revision: Date.now(),
      cursor: 0,
      waits: false,
      trouble: '',
      closing: false,
      aside: false,
      recorded: null,
    })
  })
}

const guides = new Map<string, Schema['GuideOut']>()

/** A visit's guide, read from the disk once: the same object every time, by which what is reckoned from it is kept. */
async function guideOf({ clientId, revision }: VisitSession): Promise<Schema['GuideOut']> {
  const key = `${clientId} ${revision}`
  const known = guides.get(key)
  if (known) return known
  const kept = await device.guides.get(clientId)
  if (!kept) throw new Error(`No guide of the visit ${clientId} is on this device`)
  guides.set(key, kept.guide)
  return kept.guide
}

const NOTHING = {
  step: '',
  choice: 0,
  name: '',
  number: 0,
  known: 0,
  why: '',
  field: '',
  value: null,
  of: null,
  go_on: false,
  by: '',
}

/** Write taps down, after all that this device knows of. */
export async function tap(visit: string, ...told: Tapped[]): Promise<void> {
  const by = await own()
  await device.transaction('rw', device.taps, device.visits, async () => {
    const known = await device.taps.where('[visit+clock]').between([visit, Dexie.minKey], [visit, Dexie.maxKey]).last()
    const last = known?.clock ?? 0
    const heard = (await device.visits.get(visit))?.cursor ?? 0
    const at = trueNow().toISOString()
    await device.taps.bulkAdd(
      told.map((one, place) => ({
        ...NOTHING,
        ...one,
        clientId: crypto.randomUUID(),
        visit,
        device: by,
        clock: last + 1 + place,
        known: heard,
        at,
        sent: 0 as const,
        refused: '',
      })),
    )
  })
}

/** Set a visit aside of which there is nothing to record. It leaves this device once the server knows. */
export async function setAside(visit: string, why: string): Promise<void> {
  await tap(visit, { kind: 'set_aside', why })
  await device.visits.update(visit, { closing: true, aside: true })
}

/** The order of taps that every device comes to know. */
const inOrder = (a: Tap, b: Tap) =>
  a.clock - b.clock || (a.device < b.device ? -1 : a.device > b.device ? 1 : a.clientId < b.clientId ? -1 : 1)

/** Taps in their order, those that were taken back too, without those that were refused. */
export const ordered = (taps: Tap[]): Tap[] => taps.filter((one) => !one.refused).sort(inOrder)

/** Taps in their order, without those that were taken back or refused. */
export function inEffect(taps: Tap[]): Tap[] {
  const back = new Set(taps.filter((one) => one.kind === 'undo').map((one) => one.of))
  return taps.filter((one) => one.kind !== 'undo' && !one.refused && !back.has(one.clientId)).sort(inOrder)
}

/** A visit's taps in effect, as they are written on this device now. */
export const tapsOf = async (visit: string): Promise<Tap[]> => inEffect(await device.taps.where({ visit }).toArray())

export interface EventLog {
  visit: VisitSession & { guide: Schema['GuideOut'] }
  taps: Tap[]
  /** In their order, with those that were taken back: what was done at a valve stays done. */
  every: Tap[]
  /** This device, by its id. */
  here: string
  /** Those of this device that the server would not have. */
  refused: Tap[]
  /** Taps that are not with the server yet. */
  unsent: number
}

/**
 * Somebody's visit under way at a heater on this device, as it changes; null if there is none, undefined until that is
 * known. One that somebody else began on this device is theirs; begun anew, the server makes one of both.
 */
export function useEventLog(heaterId: number, by: number): EventLog | null | undefined {
  const [found, setFound] = useState<EventLog | null>()
  useEffect(() => {
    const watched = liveQuery(async () => {
      const visit = (await device.visits.where({ heaterId }).toArray()).findLast((one) => !one.closing && one.by === by)
      if (!visit) return null
      // Read by itself: whoever reads inside the watched query would watch this too.
      here ??= (await device.kept.get('device'))?.value
      const taps = await device.taps.where({ visit: visit.clientId }).toArray()
      return {
        visit: { ...visit, guide: await guideOf(visit) },
        taps: inEffect(taps),
        every: ordered(taps),
        here: here ?? '',
        refused: taps.filter((one) => one.refused),
        unsent: taps.filter((one) => !one.sent && !one.refused).length,
      }
    }).subscribe({ next: setFound, error: () => setFound(null) })
    return () => watched.unsubscribe()
  }, [heaterId, by])
  return found
}

/** Somebody's visits that were begun on this device and are not saved, as they change. */
export function useUnderWay(by: number): VisitSession[] {
  const [found, setFound] = useState<VisitSession[]>([])
  useEffect(() => {
    const watched = liveQuery(() =>
      device.visits
        .where({ by })
        .filter((one) => !one.closing)
        .toArray(),
    ).subscribe({ next: setFound, error: () => setFound([]) })
    return () => watched.unsubscribe()
  }, [by])
  return found
}

const MOST_AT_ONCE = 400

/** Tell the server what it does not know of a visit, and learn what others told. Raises what kept it from it. */
export async function syncVisit(clientId: string): Promise<void> {
  const visit = await device.visits.get(clientId)
  if (!visit) return
  const fresh = (await device.taps.where({ visit: clientId, sent: 0 }).toArray()).sort(inOrder).slice(0, MOST_AT_ONCE)
  const guide = await guideOf(visit)
  const body: Schema['SyncIn'] = {
    client_id: clientId,
    heater_id: visit.heaterId,
    components: guide.components,
    extras: guide.extras as Schema['Extra'][],
    upkeep: guide.upkeep,
    complaint: guide.complaint,
    flush_method: guide.flush_method,
    device: await own(),
    after: visit.cursor,
    events: fresh.map(({ clientId: client_id, clock, known, at, kind, step, choice, name, why, field, value, of }) => ({
      client_id,
      clock,
      known,
      at,
      kind: kind as Schema['EventIn']['kind'],
      step,
      choice,
      name,
      why,
      field,
      value,
      of,
    })),
  }
  const told = await unwrap(client.POST('/api/visits/sessions', { body }))
  await device.transaction('rw', device.visits, device.taps, async () => {
    await device.taps.bulkUpdate(
      fresh.map((one) => ({ key: one.clientId, changes: { sent: 1 as const, refused: '' } })),
    )
    const mine = new Set((await device.taps.where({ visit: clientId }).toArray()).map((one) => one.clientId))
    const others = told.events.filter((one) => !mine.has(one.client_id))
    await device.taps.bulkPut(
      others.map(({ client_id, ...one }) => ({
        ...NOTHING,
        ...one,
        clientId: client_id,
        visit: clientId,
        sent: 1 as const,
        refused: '',
      })),
    )
    // Of ours the server says its number: whoever heard of a tap is told from who did not by that. One that was set
    // apart, now or before, may bear on nothing, and one that was apart may be read after all.
    await device.taps.bulkUpdate([
      ...told.events
        .filter((one) => mine.has(one.client_id))
        .map((one) => ({ key: one.client_id, changes: { number: one.number, refused: '' } })),
      ...told.refused.map((one) => ({ key: one.client_id, changes: { refused: one.message } })),
    ])
    const changes = { cursor: told.cursor, waits: false, trouble: '', recorded: told.recorded }
    if (visit.waits || visit.trouble || changes.cursor !== visit.cursor || changes.recorded)
      await device.visits.update(clientId, changes)
  })
  if (told.components.join() !== guide.components.join()) await takeGuide(visit, guide, told.components)
  if (fresh.length === MOST_AT_ONCE) return syncVisit(clientId)
  if (visit.aside) await forgetVisit(clientId)
}

/** The guide of the visit that this one joined; what it lacks of this one's own procedures stays. */
async function takeGuide(visit: VisitSession, own: Schema['GuideOut'], component: Schema['Component'][]) {
  const guide = await unwrap(
    client.GET('/api/heaters/{heater_id}/guide', {
      params: { path: { heater_id: visit.heaterId }, query: { component } },
    }),
  )
  await device.transaction('rw', device.visits, device.guides, async () => {
    await device.guides.put({
      visit: visit.clientId,
      guide: { ...guide, components: component, procedures: { ...own.procedures, ...guide.procedures } },
    })
    await device.visits.update(visit.clientId, { revision: visit.revision + 1 })
  })
}

/** All visits begun here by somebody, each told to the server. Answers whether all went through. */
export async function syncAll(by: number): Promise<boolean> {
  for (const visit of await device.visits.where({ by }).toArray()) {
    try {
      await syncVisit(visit.clientId)
    } catch (error) {
      const trouble = isOnTheWay(error) ? '' : (error as ApiError).message
      // Written only where it is new: whoever watches the visit is woken by it.
      // What was set aside and is refused concerns nobody any more.
      if (trouble && visit.aside) await forgetVisit(visit.clientId)
      else if (!visit.waits || visit.trouble !== trouble)
        await device.visits.update(visit.clientId, { waits: true, trouble })
      if (isOnTheWay(error)) return false
    }
  }
  return true
}

/** It failed on the way there or back, or somebody has to sign in again: it is tried again. */
export const isOnTheWay = (error: unknown) =>
  !(error instanceof ApiError) || error.status >= 500 || error.status === 401 || error.status === 429

/** Once the server has the visit, the next one at this heater is another. */
export async function forgetVisit(clientId: string): Promise<void> {
  await device.transaction('rw', device.visits, device.guides, device.taps, async () => {
    await device.taps.where({ visit: clientId }).delete()
    await device.guides.delete(clientId)
    await device.visits.delete(clientId)
  })
}
