import { expect, it } from 'vitest'

import { advanced, begun, held, stood, unrestored, type Event, type Guide, type Held, type State } from './interlock'
import vectors from './interlock.vectors.json'

interface Told extends Event {
  held: string[]
  refused: boolean
  changed: State
  left: number
}
const CASES = vectors as unknown as { guide: Guide; runs: { events: Told[]; unrestored: string[] }[] }[]

it.each(CASES.map((one) => [one.guide.facts.kind!, one] as const))('decides for a %s what the server decides, event by event', (_, { guide, runs }) => {
  let seen = 0
  for (const run of runs) {
    let stand = begun(guide)
    for (const told of run.events) {
      const now = stand.left[0]!
      expect(now.id).toBe(told.step)
      expect(held(guide, now.step, stand.state).map((one: Held) => one.rule)).toEqual(told.held)
      const before = stand.state
      const next = advanced(guide, stand, told)
      expect(next === null).toBe(told.refused)
      stand = next ?? stand
      expect(stand.state).toEqual({ ...before, ...told.changed })
      expect(stand.left.length).toBe(told.left)
      if (told.refused) stand = advanced(guide, stand, { kind: 'skipped', step: now.id, choice: 0 })!
      seen += 1
    }
    expect(unrestored(guide, stand.state)).toEqual(run.unrestored)
  }
  expect(seen).toBeGreaterThan(100)
})

it('passes over what is out of turn, so that an event that comes twice is once', () => {
  const { guide } = CASES[0]!
  const first: Event = { kind: 'done', step: begun(guide).left[0]!.id, choice: 0 }
  expect(stood(guide, [first, first])).toEqual(stood(guide, [first]))
  expect(stood(guide, [{ ...first, step: 'refill.cold_open' }])).toEqual(begun(guide))
  expect(advanced(guide, begun(guide), { ...first, kind: 'otherwise', choice: 99 })).toBeNull()
})
