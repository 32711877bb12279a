import { shown, type Quantity, type Units } from './units'

/**
 * A sentence with figures in braces, `{temperature_c:43}`, in the company's units; the factors come from the server.
 */
export function phrase(text: string, units: Units): string {
  return text.replace(/\{(\w+):([\d.]+)\}/g, (_, quantity: Quantity, figure: string) =>
    shown(units, quantity, Number(figure)),
  )
}
