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

/** Whether anything was answered that a record can be made of. */
export const isAnything = (answers: Answers) =>
  Object.entries(answers).some(
    ([field, value]) => field.includes('.') && !field.endsWith('.skipped') && value !== null && value !== false,
  )

/** Answers as they are sent: those that say something of what was found. */
export const told = (answers: Answers): Answers =>
  Object.fromEntries(
    Object.entries(answers).filter(([field, value]) => field.includes('.') && value !== null && value !== false),
  )
