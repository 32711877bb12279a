import type { Schema } from '../../api/client'
import type { Side } from './queries'

type CareName = Side['care']

/** Each care as it stands in the sentence, under its drawing, and what it is. */
export const CARES: Record<CareName, { words: string; what: string }> = {
  by_risk: {
    words: 'serviced when due',
    what: 'flushed at the planning limit, rod renewed in time, valve each 3 years',
  },
  yearly: { words: 'flushed every year', what: 'drained and pulsed, rod looked at, relief valve tried, each year' },
  half_yearly: { words: 'flushed twice a year', what: 'drained and pulsed each half year; rod and valve each year' },
  long_service: { words: 'jetted in the fifth year', what: 'jetted and a rod each 4½ years; relief valve each year' },
  rods_only: { words: 'rod and valve only', what: 'rod looked at and relief valve tried each year; never flushed' },
  never: { words: 'never touched', what: 'no flush, no rod, no trial of the relief valve' },
}

export const LOUD = ['quiet', 'bubbles', 'rumbles'] as const

/** The years after which something is worth a mark on the time line. */
export function eventsOf(life: Schema['LifeOut']): { year: number; words: string }[] {
  const found: { year: number; words: string }[] = []
  if (life.bare_from_year !== null) found.push({ year: life.bare_from_year, words: 'rod bare' })
  if (life.blocked_from_year !== null) found.push({ year: life.blocked_from_year, words: 'drain buried' })
  if (life.leaks_in_year !== null) found.push({ year: life.leaks_in_year, words: 'leaks' })
  return found
}

/** The same of a tankless heater, which is descaled and has no rod. */
export const DESCALED: Record<CareName, string> = {
  by_risk: 'descaled when due',
  yearly: 'descaled every year',
  half_yearly: 'descaled twice a year',
  long_service: 'descaled each 4½ years',
  rods_only: 'never descaled',
  never: 'never touched',
}
