import { isQuantity, shown, type Units } from './units'

const WORDS: Record<string, string> = { ohm: 'Ω', percent: '%', '1': '' }

/** A computed figure in words: a quantity in the company's units, anything else to three digits. */
export function figureWords(unit: string, value: number, units: Units): string {
  if (!Number.isFinite(value)) return 'never so'
  if (isQuantity(units, unit)) return shown(units, unit, value)
  return `${value >= 20 ? Math.round(value) : Number(value.toPrecision(3))} ${WORDS[unit] ?? unit}`.trim()
}
