import type { Schema } from '../../../api/client'

/**
 * Reads the guide of a visit: its conditions, its interlock and its order. It decides what the server's own reader
 * decides, and both are held to the same vectors; no rule of the job is written here.
 */
export type Guide = Pick<Schema['GuideOut'], 'facts' | 'start' | 'fields' | 'restored' | 'order' | 'restoring' | 'rules' | 'procedures'>
export type Step = Schema['GuideStepOut']
export type State = Record<string, string>
type Alternative = Record<string, string[]>

export interface At {
  id: string
  procedure: string
  step: Step
}

export interface Stand {
  left: At[]
  state: State
}

export interface Event {
  kind: 'done' | 'skipped' | 'otherwise' | 'despite'
  step: string
  choice: number
  /** How often the step had come up before, as far as who did it knew. */
  turn: number
}

export interface Held {
  rule: string
  says: string
  way_out: string
}

const fits = (one: Alternative, words: State) => Object.entries(one).every(([field, allowed]) => allowed.includes(words[field] ?? 'unknown'))

export function holds(condition: Alternative[], words: State): boolean {
  return condition.length === 0 || condition.some((one) => fits(one, words))
}

function after(state: State, sets: State): State {
  const next = { ...state, ...sets }
  if (state.level === 'empty' && next.level === 'low') next.level = 'empty'
  if (next.cold === 'open') next.pressure = 'on'
  else if ([next.drain, next.tap, next.relief, next.air].includes('open')) next.pressure = 'off'
  return next
}

function passed(step: Step, state: State): [State, State] {
  const during = after(state, step.through)
  return [during, after({ ...state, pressure: during.pressure! }, step.sets)]
}

function harms(guide: Guide, state: State) {
  const words = { ...guide.facts, ...state }
  return guide.rules.filter((rule) => rule.forbids.some((one) => fits(one, words)))
}

/** What holds a step in a state; nothing if it may be done. */
export function held(guide: Guide, step: Step, state: State): Held[] {
  const before = harms(guide, state)
  const [during, next] = passed(step, state)
  const reached = Object.keys(step.through).length > 0 ? harms(guide, during) : []
  for (const rule of harms(guide, next)) if (!reached.includes(rule)) reached.push(rule)
  const found: Held[] = reached.filter((rule) => !before.includes(rule)).map(({ name, says, way_out }) => ({ rule: name, says, way_out }))
  if (!holds(step.needs, { ...guide.facts, ...state })) found.push({ rule: 'needs', says: step.why || step.do, way_out: step.way_out })
  if (step.licence && guide.facts[`licence_${step.licence}`] !== 'yes') {
    found.push({ rule: 'licence', says: `This is for somebody with a licence for ${step.licence} work.`, way_out: 'Leave it safe and ask for somebody who holds one.' })
  }
  return found
}

function stepsOf(guide: Guide, names: string[]): At[] {
  return names.flatMap((procedure) => guide.procedures[procedure]!.steps.map((step) => ({ id: `${procedure}.${step.id}`, procedure, step })))
}

export function begun(guide: Guide): Stand {
  return { left: stepsOf(guide, guide.order), state: guide.start }
}

/** Where a visit stands after an event; null where it is out of turn, or held and not overridden. */
export function advanced(guide: Guide, stand: Stand, event: Event): Stand | null {
  const [now, ...rest] = stand.left
  if (now?.id !== event.step) return null
  if (event.kind === 'skipped') return { ...stand, left: rest }
  if (event.kind === 'otherwise') {
    const other = now.step.otherwise[event.choice]
    if (!other) return null
    if (other.ends) return { ...stand, left: stepsOf(guide, guide.restoring) }
    return { ...stand, left: [...stepsOf(guide, other.then), ...stand.left] }
  }
  if (event.kind === 'done' && held(guide, now.step, stand.state).length > 0) return null
  return { left: rest, state: passed(now.step, stand.state)[1] }
}

export interface Merged extends Stand {
  /** Events that count, each turn of a step once. */
  taken: Event[]
  /** Steps done out of turn, or that would have been held as the valves stood by then. */
  amiss: string[]
}

/** Where a visit stands after what any devices tell of it, in the one order that all of them know. */
export function merged(guide: Guide, events: Event[]): Merged {
  let stand = begun(guide)
  const taken: Event[] = []
  const amiss: string[] = []
  const turns = new Map<string, number>()
  for (const event of events) {
    const step = stepOf(guide, event.step)
    if (!step || event.turn < (turns.get(event.step) ?? 0)) continue
    turns.set(event.step, (turns.get(event.step) ?? 0) + 1)
    taken.push(event)
    if (stand.left[0]?.id === event.step) {
      const against = event.kind === 'done' && held(guide, step, stand.state).length > 0
      if (against) amiss.push(event.step)
      stand = advanced(guide, stand, against ? { ...event, kind: 'despite' } : event) ?? stand
      continue
    }
    if (event.kind !== 'skipped') amiss.push(event.step)
    stand = aside(guide, stand, event, step)
  }
  return { ...stand, taken, amiss }
}

/** How often a step has come up so far. */
export const turnOf = (stand: Merged, step: string) => stand.taken.filter((one) => one.step === step).length

/** After an event of a step that is not the present one. */
function aside(guide: Guide, stand: Stand, event: Event, step: Step): Stand {
  if (event.kind === 'otherwise') {
    const other = step.otherwise[event.choice]
    if (!other) return stand
    return { ...stand, left: other.ends ? stepsOf(guide, guide.restoring) : [...stepsOf(guide, other.then), ...stand.left] }
  }
  const place = stand.left.findIndex((at) => at.id === event.step)
  const left = place < 0 ? stand.left : stand.left.toSpliced(place, 1)
  return { left, state: event.kind === 'skipped' ? stand.state : passed(step, stand.state)[1] }
}

function stepOf(guide: Guide, name: string): Step | undefined {
  const [procedure, own] = name.split('.')
  return guide.procedures[procedure!]?.steps.find((step) => step.id === own)
}

/** Fields that are not as a heater is left. */
export function unrestored(guide: Guide, state: State): string[] {
  return Object.entries(guide.restored).filter(([field, words]) => !words.includes(state[field] ?? 'unknown')).map(([field]) => field)
}
