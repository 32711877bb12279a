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

/** Where a visit stands after all that was done in it; what is out of turn is passed over. */
export function stood(guide: Guide, events: Event[]): Stand {
  return events.reduce((stand, event) => advanced(guide, stand, event) ?? stand, begun(guide))
}

/** Fields that are not as a heater is left. */
export function unrestored(guide: Guide, state: State): string[] {
  return Object.entries(guide.restored).filter(([field, words]) => !words.includes(state[field] ?? 'unknown')).map(([field]) => field)
}
