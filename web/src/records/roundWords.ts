import type { Schema } from '../api/client'
import { clock } from '../lib/clock'
import { day, shortDate } from '../lib/dates'

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

export const STANDINGS: Record<Schema['AppointmentStatus'], string> = {
  planned: 'planned',
  kept: 'kept here',
  offered: 'offered',
  promised: 'promised',
  done: 'done',
  called_off: 'called off',
}

/** Why somebody comes, besides what is due. */
export const REASONS: Record<Schema['Reason'], string> = {
  due: 'what is due',
  call_back: 'call-back',
  complaint: 'complaint',
  emergency: 'emergency',
  installation: 'installation',
  estimate: 'estimate',
  warranty: 'warranty',
  wish: 'their wish',
}

/** "Tue 1 Dec, 8:30 to 10:00" as told to the customer, or "week of 7 Dec" while there is no day. */
export function whenWords(one: Schema['NextVisitOut'], today: string): string {
  if (!one.on) return `week of ${shortDate(day(one.week), today)}`
  const on = one.on === today ? 'today' : `${weekday(one.on)} ${shortDate(day(one.on), today)}`
  if (one.earliest !== null && one.latest !== null) return `${on}, ${clock(one.earliest)} to ${clock(one.latest)}`
  return one.begins === null ? on : `${on}, about ${clock(one.begins)}`
}

/** "comes Tue 1 Dec, 8:30 to 10:00, promised, Joss Teal" */
export function nextVisitWords(one: Schema['NextVisitOut'] | null, today: string): string {
  if (!one) return 'no visit planned'
  return [`comes ${whenWords(one, today)}`, STANDINGS[one.standing], one.technician.split(' ')[0]]
    .filter(Boolean)
    .join(', ')
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
