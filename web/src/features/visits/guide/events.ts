import type { EventLog } from '../../../device/eventLog'
import type { Tap } from '../../../device/store'
import type { Guide } from './state'
import { folded, KINDS, toldByReading, type Event, type Stand } from './visit'

const event = ({ kind, step, choice, name, of, clientId, device, at, number, known, why }: Tap): Event => ({
  kind,
  step,
  choice,
  name,
  of,
  id: clientId,
  device,
  at: Date.parse(at) / 1000,
  number: number || null,
  known,
  why,
})

/** What bears on where a visit stands, of all taps in their order. */
export const eventsOf = (guide: Guide, taps: Tap[]): Event[] =>
  taps.flatMap((one) => {
    const happened = one.kind === 'answered' && toldByReading(guide, one.field, one.value)
    if (happened) return [{ ...event(one), kind: 'outside', name: happened.name }]
    return KINDS.includes(one.kind) ? [event(one)] : []
  })

/** Where a visit stands by what this device knows. */
export const standOf = ({ visit, every }: Pick<EventLog, 'visit' | 'every'>): Stand =>
  folded(visit.guide, eventsOf(visit.guide, every))
