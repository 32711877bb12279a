import type { Schema } from '../api/client'

const SHORT: Record<Schema['Component'], string> = {
  sediment: 'flush',
  scale: 'descale',
  anode: 'rod',
  relief_valve: 'valve',
  expansion_tank: 'expansion tank',
  tank: 'new heater',
}

/** "two tanks: flush, rod, valve": what a visit is for. */
export function serviceWords(services: Schema['PlannedServiceOut'][]): string {
  const heaters = new Set(services.map((one) => one.heater_id)).size
  const jobs = [...new Set(services.map((one) => (one.method === 'jetting' ? 'jet' : SHORT[one.component])))]
  const what = jobs.join(', ') || 'to be seen'
  return heaters > 1 ? `${heaters} heaters: ${what}` : what
}

/** "1 h 20" or "40 min" */
export function duration(minutes: number): string {
  const hours = Math.floor(minutes / 60)
  const rest = minutes % 60
  if (hours === 0) return `${rest} min`
  return rest === 0 ? `${hours} h` : `${hours} h ${String(rest).padStart(2, '0')}`
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']

export function weekday(iso: string): string {
  return DAYS[new Date(`${iso}T00:00:00Z`).getUTCDay()]!
}

export const STANDINGS: Record<Schema['Standing'], string> = {
  planned: 'planned',
  kept: 'kept here',
  offered: 'offered',
  promised: 'promised',
  done: 'done',
  called_off: 'called off',
}

/** What is needed, as an office says it. */
export function needWords(one: Pick<Schema['AppointmentOut'], 'needs' | 'people'>): string {
  return [...one.needs, ...(one.people > 1 ? ['two people'] : [])].join(', ')
}

/** Lines and marks by which rounds are told apart without their colour. */
export const MARKS = ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H', 'I', 'J', 'K', 'L'] as const
export const DASHES = ['', '7 3', '2 3', '9 3 2 3'] as const
export const STROKES = ['stroke-ink', 'stroke-copper', 'stroke-water', 'stroke-moss'] as const
export const FILLS = ['fill-ink', 'fill-copper', 'fill-water', 'fill-moss'] as const
export const INKS = ['text-ink', 'text-copper', 'text-water', 'text-moss-deep'] as const
