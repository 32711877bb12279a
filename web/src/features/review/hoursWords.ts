import type { Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { percent } from './words'

type Hours = Schema['HoursOut']
type Held = Schema['HoursHeldOut']

/** What the hours of a visit are made of, as a planner says it. */
export const WORK: Record<Schema['Work'], string> = {
  arriving: 'Arriving, settling in, writing up',
  flush: 'Flush',
  slow_flush: 'Jetting or an acid soak, beyond a flush',
  descale: 'Descale',
  rod: 'Look at the rod',
  new_rod: 'New rod, beyond the look',
  relief_valve: 'Relief valve exercised',
  new_relief_valve: 'New relief valve, beyond that',
  expansion_tank: 'Expansion tank checked',
  new_expansion_tank: 'New expansion tank, beyond that',
}

/** Whether what is planned holds, in a sentence. */
export function verdictWords({ verdict, ratio }: Held): string {
  if (verdict === 'too_short') return `Visits are planned too short: they took ${percent(ratio)} of their hours.`
  if (verdict === 'too_long') return `Visits are planned too long: they took ${percent(ratio)} of their hours.`
  if (verdict === 'uneven')
    return `In the mean the hours hold (${percent(ratio)}), but visits stray otherwise than told.`
  if (verdict === 'unknown') return 'Too few visits were timed to say whether the hours hold.'
  return `The hours hold: visits took ${percent(ratio)} of what is planned.`
}

/** What was held against what. */
export function againstWords({ since, learned_from, held }: Hours, today: string): string {
  const by = learned_from > 0 ? `what ${learned_from} visits before had taught` : 'what is assumed until visits tell'
  return `${held.visits} timed visits since ${dateWords(since, today)}, against ${by}.`
}

/** How far single visits stray, as it was and as it was told. */
export function strayWords({ over, window, inside }: Held): string {
  const [low, middle, high] = over
  if (low === undefined || middle === undefined || high === undefined) return ''
  return (
    `Half took more than ${percent(middle)} of what was planned, eight of ten between ${percent(low)} and ` +
    `${percent(high)}; told was ${window.map(percent).join(' to ')}, where ${percent(inside)} of them lie.`
  )
}

/** What would have come of it without any visit that was timed. */
export const assumedWords = ({ ratio, verdict }: Held) =>
  verdict === 'unknown'
    ? ''
    : `By what is assumed before any visit was timed they would have taken ${percent(ratio)} of their hours.`

/** What was planned and promised for visits that were done, and what became of it. */
export function promiseWords({ visits, planned, took, promised, early, late, late_minutes }: Schema['PromisesKept']) {
  const words = []
  if (visits > 0)
    words.push(`As they stood in the plan, ${visits} visits took ${percent(took / planned)} of their time.`)
  if (promised > 0) {
    const kept = promised - early - late
    const missed = [
      late > 0 && `${late} came late, half of them by ${late_minutes} min or more`,
      early > 0 && `${early} early`,
    ].filter(Boolean)
    words.push(`Of ${promised} promised times ${kept} were kept${missed.length > 0 ? `; ${missed.join(', ')}` : ''}.`)
  }
  return words.join(' ')
}
