import type { Schema } from '../../api/client'

export type KindMonths = Schema['KindMonthsOut']

/** How each kind is called, and how a sentence of what comes of it begins. */
const KINDS: Record<string, { words: string; about: string }> = {
  calls: { words: 'Calls nobody planned', about: 'Calls' },
  emergencies: { words: 'Emergencies', about: 'Emergencies' },
  complaints: { words: 'Complaints', about: 'Complaints' },
  call_backs: { words: 'Call-backs and warranty', about: 'Call-backs' },
  new_work: { words: 'Estimates and installations', about: 'Estimates and installations' },
  visits: { words: 'Visits of all kinds', about: 'Visits' },
  flushes: { words: 'Flushes', about: 'Flushes' },
  descales: { words: 'Descales', about: 'Descales' },
  relief_valves: { words: 'Relief valves fitted', about: 'Relief valves' },
  replacements: { words: 'Tanks replaced', about: 'Tanks' },
}

export const aboutOf = (kind: string) => KINDS[kind]?.about ?? wordsOf(kind)
export const wordsOf = (kind: string) => KINDS[kind]?.words ?? kind.replaceAll('_', ' ')

export const lastYear = (one: KindMonths) => one.counts.slice(-12).reduce((sum, count) => sum + count, 0)

/** The first day of the month so many after one, as written. */
export function laterMonth(first: string, months: number): string {
  const at = Number(first.slice(0, 4)) * 12 + Number(first.slice(5, 7)) - 1 + months
  return `${Math.floor(at / 12)}-${String((at % 12) + 1).padStart(2, '0')}-01`
}
