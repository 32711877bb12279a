/** One figure off an instrument, in the unit in which the reading is stored. */
export interface Reading {
  second: number
  value: number
}

/** Something that reads by itself: with a wire, or simulated. It reads until it is told to stop, or has no more. */
export interface Instrument {
  name: string
  readings: (stop: AbortSignal) => AsyncGenerator<Reading>
}

/** Of what an instrument may write behind its figure: how it becomes the unit in which the reading is stored. */
const WRITTEN: Record<string, Record<string, (written: number) => number>> = {
  pressure_kpa: { kpa: (one) => one, bar: (one) => 100 * one, psi: (one) => 6.894757293168 * one },
  temperature_c: { c: (one) => one, '°c': (one) => one, f: (one) => (one - 32) / 1.8, '°f': (one) => (one - 32) / 1.8 },
  volts: { v: (one) => one, mv: (one) => one / 1000 },
  flow_l_min: { 'l/min': (one) => one, gpm: (one) => 3.785411784 * one },
  mass_g: { g: (one) => one, kg: (one) => 1000 * one, oz: (one) => 28.349523125 * one },
  gas_pressure_kpa: { kpa: (one) => one, mbar: (one) => one / 10, inwc: (one) => 0.24908891 * one },
}

/** Whether an instrument of that quantity can be read at all. */
export const canRead = (quantity: string) => quantity in WRITTEN

/** A line as instruments write it, `412.3 kPa`; null for what is no figure of that quantity. */
export function parsed(line: string, quantity: string): number | null {
  const found = /^\s*([-+]?\d+(?:[.,]\d+)?)\s*([a-z°/]+)\s*$/i.exec(line)
  const stored = found && WRITTEN[quantity]?.[found[2]!.toLowerCase()]
  return stored ? stored(Number(found[1]!.replace(',', '.'))) : null
}

const POINTS = 24

/** A course as it is kept with its reading: instrument, then seconds and values, no more than can be told. */
export function courseText(name: string, course: Reading[]): string {
  const every = Math.max(1, Math.ceil(course.length / POINTS))
  const kept = course.filter((_, at) => at % every === 0 || at === course.length - 1)
  const points = kept.map((one) => `${Math.round(one.second)} ${Number(one.value.toPrecision(4))}`)
  return `${name}; ${points.join(', ')}`.slice(0, 300)
}

const ENDS = 3

/** How far it crept: from the middle of its first readings to the middle of its last, so that one flicker is none. */
export function crept(course: Reading[]): number {
  const middle = (part: Reading[]) => part.map((one) => one.value).toSorted((a, b) => a - b)[part.length >> 1] ?? 0
  return middle(course.slice(-ENDS)) - middle(course.slice(0, ENDS))
}
