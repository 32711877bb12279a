import { type At, type Event, folded, holding, type Stand } from './visit'
import type { Guide } from './state'

/** More steps than any visit has; a guide that never ends stops here. */
const MOST = 300

/** Between two taps: long enough for whatever has to run, drain or cool, and so that no look was too quick. */
const UNHURRIED_S = 600

const apart = new WeakMap<Guide, Guide>()

/**
 * The steps that are still to be done after what was told, if the visit goes on as visits mostly do: nothing is found,
 * and what holds a step is brought about before it. What only comes up where something is found is not among them.
 */
export function straight(guide: Guide, told: Event[] = []): At[] {
  // What was reckoned of the visit itself is kept by its guide; this by another, so that a tap goes on from the last.
  const own = apart.get(guide) ?? { ...guide }
  apart.set(guide, own)
  const events = [...told]
  const last = told.at(-1)
  const done: At[] = []
  let stand: Stand = folded(own, events)
  for (let at = last?.at ?? 0; stand.left[0] && events.length < told.length + MOST; stand = folded(own, events)) {
    const now = stand.left[0]
    const way = holding(own, stand).find((one) => one.way_out.length > 0)
    at += UNHURRIED_S
    if (!way) done.push(now)
    events.push({
      // Whoever may not do it has somebody by who may.
      kind: way ? 'settled' : 'done',
      step: now.id, name: way?.rule ?? '', choice: 0, of: null, id: `straight ${events.length}`,
      device: last?.device ?? 'straight', at, number: null, known: told.length, why: '',
    }) // prettier-ignore
  }
  return done
}
