import type { Schema } from '../api/client'

export type Units = Schema['CompanyOut']['units']
export type Quantity = keyof Units & string

function unitOf(units: Units, quantity: Quantity) {
  return units[quantity] ?? { label: '', factor: 1, offset: 0, decimals: 0 }
}

/** A stored figure with its unit, as the company measures. The factors come from the server's table. */
export function shown(units: Units, quantity: Quantity, stored: number, decimals?: number): string {
  const unit = unitOf(units, quantity)
  const value = stored * unit.factor + unit.offset
  return `${value.toFixed(decimals ?? unit.decimals)} ${unit.label}`
}

export function label(units: Units, quantity: Quantity): string {
  return unitOf(units, quantity).label
}

/** What a field shows for a stored figure: no unit, no needless zeros. */
export function fieldText(units: Units, quantity: Quantity, stored: number | null | undefined): string {
  if (stored === null || stored === undefined) return ''
  const unit = unitOf(units, quantity)
  return String(Number((stored * unit.factor + unit.offset).toFixed(unit.decimals + 1)))
}

/** The number that was typed, with a point or a comma; null for nothing, NaN for what is no number. */
export function numberOf(typed: string): number | null {
  return typed.trim() ? Number(typed.trim().replace(',', '.')) : null
}

/** The stored figure of what was typed, null for nothing, NaN for what is no number. */
export function stored(units: Units, quantity: Quantity, typed: string): number | null {
  const figure = numberOf(typed)
  const unit = unitOf(units, quantity)
  return figure === null ? null : (figure - unit.offset) / unit.factor
}

/** A unit of the company's where it is a quantity, else as it is written. */
export const isQuantity = (units: Units, unit: string): boolean => unit in units
