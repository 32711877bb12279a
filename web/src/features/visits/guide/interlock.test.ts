import { expect, it } from 'vitest'

import { held } from './interlock'
import vectors from './interlock.vectors.json'
import type { Guide, State } from './state'
import { doubtful, folded, holding, stepNamed, undoHurts, type Event } from './visit'

interface Told {
  event: Event
  head: string
  left: number
  ending: string
  doubted: string
  leads: string
  held: string[]
  changed: Record<string, string[]>
  level: number[]
  hot_c: number[]
}
const CASES = (vectors as unknown as { visits: { guide: Guide; runs: { events: Told[]; doubtful: string[] }[] }[] })
  .visits
const rounded = (span: number[]) => span.map((one) => Number(one.toFixed(6)))

it.each(CASES.map((one) => [one.guide.facts.kind!, one] as const))(
  'reckons for a %s what the server reckons, event by event',
  (_, { guide, runs }) => {
    let seen = 0
    for (const run of runs) {
      let words: Record<string, string[]> = (guide.start as State).words
      const events: Event[] = []
      for (const told of run.events) {
        events.push(told.event)
        const stand = folded(guide, events)
        words = { ...words, ...told.changed }
        expect({
          head: stand.left[0]?.id ?? '',
          left: stand.left.length,
          ending: stand.ending,
          doubted: stand.doubted,
          leads: stand.leads,
          held: holding(guide, stand).map((one) => one.rule),
          words: stand.state.words,
          level: rounded(stand.state.level),
          hot_c: rounded(stand.state.hot_c),
        }).toEqual({
          head: told.head,
          left: told.left,
          ending: told.ending,
          doubted: told.doubted,
          leads: told.leads,
          held: told.held,
          words,
          level: told.level,
          hot_c: told.hot_c,
        })
        seen += 1
      }
      expect(doubtful(guide, folded(guide, events))).toEqual(run.doubtful)
    }
    expect(seen).toBeGreaterThan(150)
  },
)

it('reckons on from what it knows as it would from the beginning, whatever comes to stand in between', () => {
  for (const { guide, runs } of CASES) {
    const afresh = (events: Event[]) => folded(structuredClone(guide), events)
    for (const run of runs.slice(0, 2)) {
      const events = run.events.map((told) => told.event)
      folded(guide, events)
      const middle = Math.floor(events.length / 2)
      // Another device's taps arrive late, one is refused, and the visit begins anew.
      for (const others of [
        events.toSpliced(middle, 1),
        events.toSpliced(middle, 2, events[middle + 1]!, events[middle]!),
        events.slice(0, 3),
        events,
      ]) {
        expect(folded(guide, others)).toEqual(afresh(others))
      }
    }
  }
})

const tap = (kind: string, step: string, at: number, more: Partial<Event> = {}): Event => ({
  kind,
  step,
  choice: 0,
  name: '',
  of: null,
  id: `${kind}${at}`,
  device: 'a',
  at,
  number: null,
  known: 0,
  why: '',
  ...more,
})

it('takes a look that was too quick again, and one that was not for what it shows', () => {
  const { guide } = CASES[0]!
  const quick = folded(guide, [tap('done', 'arrival.air', 0), tap('done', 'arrival.outlet', 0.4)])
  expect(quick.doubted).toBe('arrival.outlet')
  expect(quick.state.words.discharge).toEqual(['unknown', 'safe'])
  const slow = folded(guide, [tap('done', 'arrival.air', 0), tap('done', 'arrival.outlet', 30)])
  expect(slow.state.words.discharge).toEqual(['safe'])
  expect(slow.doubted).toBe('')
})

it('does not forget a valve whose step was taken back, and says when undoing it would hurt', () => {
  const { guide } = CASES[0]!
  const shut = tap('done', 'isolate_energy.gas_pilot', 60)
  const looked = ['arrival.air', 'arrival.greet', 'arrival.settings', 'arrival.tap'].map((step, place) =>
    tap('done', step, 10 * place),
  )
  const events = [...looked, shut]
  const back = folded(guide, [...events, tap('undo', '', 90, { of: shut.id })])
  expect(back.state.words.energy).toEqual(['on', 'pilot'])
  const drained = [...events, tap('done', 'full_drain.open_drain_cycles', 120)]
  expect(undoHurts(guide, folded(guide, drained), folded(guide, looked), shut)).toBe(true)
  expect(undoHurts(guide, folded(guide, events), folded(guide, looked), shut)).toBe(false)
})

it('holds what would hurt with the way out, and lets a way back be', () => {
  const { guide } = CASES[0]!
  const opened = folded(guide, [tap('done', 'arrival.air', 0), tap('done', 'full_drain.open_drain_cycles', 60)])
  const lit = held(guide, stepNamed(guide, 'energise.gas_up')!, opened.state)
  expect(lit.map((one) => one.rule)).toContain('fired_while_emptying')
  expect(lit.every((one) => one.says)).toBe(true)
  expect(held(guide, stepNamed(guide, 'drain_shut.shut')!, opened.state)).toEqual([])
})
