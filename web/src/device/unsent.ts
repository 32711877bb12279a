import { liveQuery } from 'dexie'
import { useEffect, useState } from 'react'

import { ApiError, client, unwrap, type Schema } from '../api/client'
import { device, type Unsent } from './store'

/** Keep a visit on the device until the server has it. Saving the same visit twice keeps it once. */
export async function keepVisit(body: Schema['VisitIn'], by: number, heater: string): Promise<void> {
  await device.transaction('rw', device.unsent, async () => {
    if (await device.unsent.get(body.client_id)) return
    const last = await device.unsent.orderBy('order').last()
    await device.unsent.add({ clientId: body.client_id, order: (last?.order ?? 0) + 1, by, heater, body, trouble: '' })
  })
}

const failedOnTheWay = (error: unknown) => !(error instanceof ApiError) || error.status >= 500 || error.status === 401 || error.status === 429

let sending: Promise<Map<string, Schema['VisitOut']>> | null = null

/**
 * Send what is kept, in order. A visit leaves the device only after the server has answered that it has it; one that the
 * server refuses stays with the reason and does not stand in the way of the others.
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
  for (const one of await device.unsent.orderBy('order').toArray()) {
    if (one.by !== by) continue
    try {
      answers.set(one.clientId, await unwrap(client.POST('/api/visits', { body: one.body })))
      await device.unsent.delete(one.clientId)
    } catch (error) {
      if (failedOnTheWay(error)) break
      await device.unsent.update(one.clientId, { trouble: (error as ApiError).message })
    }
  }
  return answers
}

/** Take a visit back onto the screen to be put right, or away for good. */
export async function takeBack(clientId: string): Promise<Unsent | undefined> {
  const one = await device.unsent.get(clientId)
  await device.unsent.delete(clientId)
  return one
}

/**
 * Keep a visit and send it. Answers what the server says, or null where it is only kept so far.
 * Raises what the server has against it; then it is not kept, since it has to be put right.
 */
export async function recorded(body: Schema['VisitIn'], by: number, heater: string): Promise<Schema['VisitOut'] | null> {
  await keepVisit(body, by, heater)
  const answer = (await sendKept(by)).get(body.client_id)
  if (answer) return answer
  const kept = await device.unsent.get(body.client_id)
  // Sent beside this: the server knows it by its id and tells the same again.
  if (!kept) return unwrap(client.POST('/api/visits', { body }))
  if (!kept.trouble) return null
  await takeBack(body.client_id)
  throw new Error(kept.trouble)
}

/** What is not yet sent, as it changes. */
export function useUnsent(): Unsent[] {
  const [found, setFound] = useState<Unsent[]>([])
  useEffect(() => {
    const watched = liveQuery(() => device.unsent.orderBy('order').toArray()).subscribe({ next: setFound, error: () => setFound([]) })
    return () => watched.unsubscribe()
  }, [])
  return found
}
