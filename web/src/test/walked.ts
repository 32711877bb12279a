import { own } from '../device/eventLog'
import { device, type Tap } from '../device/store'
import type { Guide } from '../features/visits/guide/state'
import { begun, folded, holding, type Event, type Stand } from '../features/visits/guide/visit'

const APART_S = 600

/** Steps each done, or the way out of a hold taken, until one comes up; each ten minutes after the one before. */
export function straight(
  guide: Guide,
  until: string | ((stand: Stand) => boolean),
  swap: (event: Event) => Event = (one) => one,
): Event[] {
  const events: Event[] = []
  let stand = begun(guide)
  const is = typeof until === 'string' ? () => stand.left[0]?.id === until : () => until(stand)
  while (stand.left[0] && !is() && events.length < 150) {
    const held = holding(guide, stand).find((one) => one.way_out.length > 0)
    const at = APART_S * (events.length + 1)
    const event = {
      step: stand.left[0].id,
      choice: 0,
      name: held?.rule ?? '',
      of: null,
      id: `s${events.length}`,
      device: 'here',
      at,
      number: null,
      known: 0,
      why: '',
    }
    events.push(swap({ ...event, kind: held ? 'settled' : 'done' }))
    stand = folded(guide, events)
  }
  return events
}

/** Write events down on this device as they would have been tapped, the last of them just now. */
export async function written(visit: string, events: Event[]): Promise<void> {
  const here = await own()
  const last = events.at(-1)?.at ?? 0
  const rest = { by: 'Tamsin', field: '', value: null, go_on: false, visit, sent: 0 as const, refused: '' }
  await device.taps.bulkAdd(
    events.map(
      ({ id, at, number, ...one }, place) =>
        ({
          ...rest,
          ...one,
          device: here,
          number: number ?? 0,
          clientId: `${visit}${id}`,
          clock: place + 1,
          at: new Date(Date.now() - 1000 * (last - at) - 2000).toISOString(),
        }) as unknown as Tap,
    ),
  )
}
