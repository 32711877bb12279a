import { expect, it } from 'vitest'

import vectors from './interlock.vectors.json'
import type { Guide } from './state'
import { straight } from './straight'
import { type Event, folded } from './visit'

interface Case {
  guide: Guide
  runs: { events: { event: Event }[] }[]
}
const CASES = (vectors as unknown as { visits: Case[] }).visits

it.each(CASES.map((one) => [one.guide.facts.kind!, one] as const))(
  'goes through a visit to a %s as the server does where nothing is found',
  (_, { guide, runs }) => {
    const plain = runs[0]!.events.map(({ event }) => event)
    const done = plain.filter((event) => event.kind === 'done').map((event) => event.step)
    expect(straight(guide).map((at) => at.id)).toEqual(done)
    // Half way through it goes on with the rest, and what was reckoned of the visit itself is as it was.
    const half = plain.slice(0, 15)
    const before = half.filter((event) => event.kind === 'done').length
    expect(folded(guide, half).left[0]?.id).toBe(plain[15]?.step)
    expect(straight(guide, half).map((at) => at.id)).toEqual(done.slice(before))
    expect(folded(guide, half).left[0]?.id).toBe(plain[15]?.step)
    expect(straight(guide, plain)).toEqual([])
  },
)
