import { liveQuery } from 'dexie'
import { useEffect, useState } from 'react'

import { client, unwrap, type ApiError, type Schema } from '../api/client'
import { forgetVisit, isOnTheWay, syncAll } from './eventLog'
import { sendPhotos } from './photos'
import { device, type Unsent, type Photo } from './store'

/** Keep a visit on the device until the server has it. Saving the same visit twice keeps it once. */
export async function keepVisit(body: Schema['VisitIn'], by: number, heater: string): Promise<void> {
  await device.transaction('rw', device.unsent, device.visits, async () => {
    await device.visits.update(body.client_id, { closing: true })
    if (await device.unsent.get(body.client_id)) return
    const last = await device.unsent.orderBy('order').last()
    await device.unsent.add({ clientId: body.client_id, order: (last?.order ?? 0) + 1, by, heater, body, trouble: '' })
  })
}

let sending: Promise<Map<string, Schema['VisitOut']>> | null = null

/**
 * Send what is kept, in order: first the taps of visits, then the visits that were saved. A visit leaves the device
 * only
 * after the server has answered that it has it; one that the server refuses stays with the reason and does not stand in
 * the way of the others.
 * Returns the answers by the visits' ids.
 */
export function sendKept(by: number): Promise<Map<string, Schema['VisitOut']>> {
  sending ??= sendAll(by).finally(() => {
    sending = null
  })
  return sending
}

async function sendAll(by: number): Promise<Map<string, Schema['VisitOut']>> {
  const answers = new Map<string, Schema['VisitOut']>()
  if (!(await syncAll(by))) return answers
  for (const one of await device.unsent.orderBy('order').toArray()) {
    if (one.by !== by) continue
    try {
      answers.set(one.clientId, await unwrap(client.POST('/api/visits', { body: one.body })))
      await device.unsent.delete(one.clientId)
      await forgetVisit(one.clientId)
    } catch (error) {
      if (isOnTheWay(error)) break
      await device.unsent.update(one.clientId, { trouble: (error as ApiError).message })
    }
  }
  // Last, since they are large and the record does not wait for them.
  await sendPhotos(by)
  return answers
}

/** Take a visit back onto the screen to be put right. */
export async function takeBack(clientId: string): Promise<Unsent | undefined> {
  const one = await device.unsent.get(clientId)
  await device.transaction('rw', device.unsent, device.visits, async () => {
    await device.unsent.delete(clientId)
    await device.visits.update(clientId, { closing: false })
  })
  return one
}

/**
 * Keep a visit and send it. Answers what the server says, or null where it is only kept so far.
 * Raises what the server has against it; then it is not kept, since it has to be put right.
 */
export async function recorded(
  body: Schema['VisitIn'],
  by: number,
  heater: string,
): Promise<Schema['VisitOut'] | null> {
  await keepVisit(body, by, heater)
  // What is being sent just now may have been listed before this visit was kept.
  await sending?.catch(() => undefined)
  const answer = (await sendKept(by)).get(body.client_id)
  if (answer) return answer
  const kept = await device.unsent.get(body.client_id)
  // Sent beside this: the server knows it by its id and tells the same again.
  if (!kept) return unwrap(client.POST('/api/visits', { body }))
  if (!kept.trouble) return null
  await takeBack(body.client_id)
  throw new Error(kept.trouble)
}

export interface Waiting {
  unsent: Unsent[]
  /** Visits under way whose last taps did not go through; those that the server would not have with the reason. */
  waits: { name: string; trouble: string }[]
  /** Photographs that wait to be sent. */
  photos: number
  /** Those that the server would not have. */
  refused: Photo[]
}

const NOTHING: Waiting = { unsent: [], waits: [], photos: 0, refused: [] }

/** What is not yet sent, as it changes. */
export function useWaiting(): Waiting {
  const [found, setFound] = useState<Waiting>(NOTHING)
  useEffect(() => {
    const watched = liveQuery(async () => ({
      unsent: await device.unsent.orderBy('order').toArray(),
      waits: (await device.visits.toArray()).filter((one) => one.waits && (one.aside || !one.closing)),
      photos: await device.photos.filter((one) => !one.trouble).count(),
      refused: await device.photos.filter((one) => Boolean(one.trouble)).toArray(),
    })).subscribe({ next: setFound, error: () => setFound(NOTHING) })
    return () => watched.unsubscribe()
  }, [])
  return found
}
