import type { Schema } from '../../api/client'
import type { Tap } from '../../device/store'

export type Value = string | number | boolean | null
/** What was answered last to each question, by its field. */
export type Answers = Record<string, Value>

/** Parameters: taps in effect, in order. */
export function answersOf(taps: Tap[]): Answers {
  const found: Answers = {}
  for (const one of taps) if (one.kind === 'answered') found[one.field] = one.value ?? null
  return found
}

type Findings = Schema['VisitIn']['findings']

/** Answers of one group, without those that say nothing. */
function of(answers: Answers, group: string): Record<string, Value> {
  const entries = Object.entries(answers).filter(([field, value]) => field.startsWith(`${group}.`) && value !== null && value !== false)
  return Object.fromEntries(entries.map(([field, value]) => [field.slice(group.length + 1), value]))
}

/** The findings as they are sent; what was skipped or not looked at is left out. */
export function findings(answers: Answers, usualMethod: Schema['FlushMethod']): Findings {
  const found: Record<string, unknown>[] = []
  const take = (group: string, task: string, usual: Record<string, Value> = {}, ...not: string[]) => {
    const { skipped, ...told } = of(answers, group)
    for (const name of ['replaced', ...not]) delete told[name]
    if (!skipped && Object.keys(told).length > 0) found.push({ task, ...usual, ...told })
  }
  const fitted = (group: string, task: string) => {
    const told = of(answers, group)
    if (told.replaced && !told.skipped) found.push({ task })
  }
  take('look', 'look_over', {}, 'taps', 'ohms')
  take('flush', 'flush', { method: usualMethod })
  take('descale', 'descale')
  take('rod', 'anode_inspection', { could_not_open: false })
  fitted('rod', 'anode_replacement')
  take('vessel', 'expansion_tank_check')
  fitted('vessel', 'expansion_tank_replacement')
  take('pressure', 'pressure_test')
  take('valve', 'relief_valve_exercise')
  fitted('valve', 'relief_valve_replacement')
  for (const [item, fouling] of Object.entries(of(answers, 'upkeep'))) found.push({ task: 'upkeep', item, fouling })
  return found as Findings
}
