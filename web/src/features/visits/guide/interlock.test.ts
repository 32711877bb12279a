import { expect, it } from 'vitest'

import { advanced, begun, held, merged, unrestored, type Event, type Guide, type Held, type State } from './interlock'
import vectors from './interlock.vectors.json'

interface Told extends Event {
  held: string[]
  refused: boolean
  changed: State
  left: number
}
const CASES = (vectors as unknown as { visits: { guide: Guide; runs: { events: Told[]; unrestored: string[] }[]; merges: { events: Event[]; left: string[]; state: State; taken: number; amiss: string[] }[] }[] }).visits

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
      if (told.refused) stand = advanced(guide, stand, { kind: 'skipped', step: now.id, choice: 0, turn: 0 })!
      seen += 1
    }
    expect(unrestored(guide, stand.state)).toEqual(run.unrestored)
  }
  expect(seen).toBeGreaterThan(100)
})

it.each(CASES.map((one) => [one.guide.facts.kind!, one] as const))('puts together for a %s what two devices tell, as the server does', (_, { guide, merges }) => {
  for (const told of merges) {
    const { left, state, taken, amiss } = merged(guide, told.events)
    expect({ left: left.map((at) => at.id), state, taken: taken.length, amiss }).toEqual({ left: told.left, state: told.state, taken: told.taken, amiss: told.amiss })
  }
  expect(new Set(merges.map((one) => one.events.length)).size).toBeGreaterThan(2)
})

it('counts an event that comes twice once, and what was done out of turn as done', () => {
  const { guide } = CASES[0]!
  const first: Event = { kind: 'done', step: begun(guide).left[0]!.id, choice: 0, turn: 0 }
  expect(merged(guide, [first, first])).toEqual(merged(guide, [first]))
  const early = merged(guide, [{ ...first, step: 'isolate_water.close_cold' }])
  expect(early.state.cold).toBe('shut')
  expect(early.amiss).toEqual(['isolate_water.close_cold'])
  expect(early.left.length).toBe(begun(guide).left.length - 1)
  expect(merged(guide, [{ ...first, step: 'sofa.sit' }]).left).toEqual(begun(guide).left)
  expect(advanced(guide, begun(guide), { ...first, kind: 'otherwise', choice: 99 })).toBeNull()
})
