import type { Schema } from '../../../api/client'
import {
  acted,
  certain,
  everything,
  isWithin,
  mayFit,
  possible,
  type Acts,
  type Alternative,
  type Guide,
  type State,
  type Words,
} from './state'

export type Step = Schema['GuideStep']

export interface Held {
  rule: string
  says: string
  way_out: string[]
  out_says: string
}

export const during = (guide: Guide, step: Step, state: State) => acted(guide, state, step.through)
export const after = (guide: Guide, step: Step, state: State) => acted(guide, during(guide, step, state), step.sets)

/** The field by which these acts have brought a state nearer that may be harmful: a way back is always open. */
const reachedBy = (forbids: Alternative[], acts: Acts, before: Words, next: Words) =>
  Object.keys(acts).find((field) =>
    forbids.some(
      (one) => one[field]?.includes(acts[field]![0]!) && !isWithin(before[field]!, one[field]) && mayFit(one, next),
    ),
  )

/** The rules that a step may break in some state that may be so, each with the field of the act that would. */
export function harms(guide: Guide, step: Pick<Step, 'through' | 'sets'>, state: State) {
  if (Object.keys(step.through).length + Object.keys(step.sets).length === 0) return []
  const before = everything(guide, state)
  const passing = everything(guide, acted(guide, state, step.through))
  const reached = everything(guide, acted(guide, acted(guide, state, step.through), step.sets))
  return guide.rules.flatMap((rule) => {
    const field =
      reachedBy(rule.forbids, step.through, before, passing) ?? reachedBy(rule.forbids, step.sets, before, reached)
    return field ? [{ rule, field }] : []
  })
}

/** What holds a step in a state; nothing if it may be done. */
export function held(guide: Guide, step: Step, state: State): Held[] {
  const found: Held[] = harms(guide, step, state).map(({ rule, field }) => {
    const { way_out, out_says } = rule.by[field] ?? rule
    return { rule: rule.name, says: rule.says, way_out, out_says }
  })
  if (!certain(step.needs, everything(guide, state)))
    found.push({ rule: 'needs', says: step.why || step.do, way_out: step.way_out, out_says: step.out_says })
  if (step.licence && guide.facts[`licence_${step.licence}`] !== 'yes') {
    found.push({
      rule: 'licence',
      says: `This is for somebody with a ${step.licence} license.`,
      way_out: [],
      out_says: 'Leave it safe and ask for somebody who holds one.',
    })
  }
  return found
}

/** What a step shows instead that may be so here, with its number. */
export const othersOf = (guide: Guide, step: Step, state: State) =>
  step.deviations
    .map((other, choice) => ({ ...other, choice }))
    .filter((one) => possible(one.when, everything(guide, state)))
