import type { Schema } from '../../../api/client'
import { acted, certain, everything, isWithin, mayFit, possible, type Acts, type Alternative, type Guide, type State, type Words } from './state'

export type Step = Schema['GuideStepOut']

export interface Held {
  rule: string
  says: string
  way_out: string[]
  out_says: string
}

export const during = (guide: Guide, step: Step, state: State) => acted(guide, state, step.through)
export const after = (guide: Guide, step: Step, state: State) => acted(guide, during(guide, step, state), step.sets)

/** Whether a state may be harmful, and these acts have brought it nearer: a way back is always open. */
function reaches(one: Alternative, acts: Acts, before: Words, next: Words): boolean {
  for (const [field, to] of Object.entries(acts)) {
    const words = one[field]
    if (words && words.includes(to[0]!) && !isWithin(before[field]!, words)) return mayFit(one, next)
  }
  return false
}

/** The rules that a step may break in some state that may be so. */
export function harms(guide: Guide, step: Pick<Step, 'through' | 'sets'>, state: State) {
  if (Object.keys(step.through).length + Object.keys(step.sets).length === 0) return []
  const before = everything(guide, state)
  const passing = everything(guide, acted(guide, state, step.through))
  const reached = everything(guide, acted(guide, acted(guide, state, step.through), step.sets))
  return guide.rules.filter((rule) => rule.forbids.some((one) => reaches(one, step.through, before, passing) || reaches(one, step.sets, before, reached)))
}

/** What holds a step in a state; nothing if it may be done. */
export function held(guide: Guide, step: Step, state: State): Held[] {
  const found: Held[] = harms(guide, step, state).map(({ name, says, way_out, out_says }) => ({ rule: name, says, way_out, out_says }))
  if (!certain(step.needs, everything(guide, state))) found.push({ rule: 'needs', says: step.why || step.do, way_out: step.way_out, out_says: step.out_says })
  if (step.licence && guide.facts[`licence_${step.licence}`] !== 'yes') {
    found.push({ rule: 'licence', says: `This is for somebody with a ${step.licence} license.`, way_out: [], out_says: 'Leave it safe and ask for somebody who holds one.' })
  }
  return found
}

/** What a step shows instead that may be so here, with its number. */
export const othersOf = (guide: Guide, step: Step, state: State) =>
  step.otherwise.map((other, choice) => ({ ...other, choice })).filter((one) => possible(one.when, everything(guide, state)))
