import type { Schema } from '../../api/client'
import { shown, type Units } from '../../lib/units'

interface Words {
  name: string
  /** Of what a pace is. */
  pace: string
  /** What was measured. */
  measured: string
  /** Where a measurement tests a window, if not everywhere. */
  where?: string
}

/** What of each component was measured, in the words of the trade. */
export const MEASURED: Partial<Record<Schema['Component'], Words>> = {
  sediment: {
    name: 'Sediment',
    pace: 'builds up',
    measured: 'depths',
    where: ', where more than a trace was foretold',
  },
  scale: {
    name: 'Scale',
    pace: 'builds up',
    measured: 'descaled masses and lost capacity',
    where: ', where more than a trace was foretold',
  },
  anode: { name: 'Anode rods', pace: 'wears', measured: 'diameters and bare wire' },
  expansion_tank: { name: 'Expansion tanks', pace: 'loses its charge', measured: 'charges' },
}

/** The schools as they are named beside their sign, and as they begin a sentence. */
export const PRACTICES: Record<Schema['Practice'], { name: string; sentence: string }> = {
  condition: { name: 'by risk', sentence: 'Cleaning by risk' },
  annual: { name: 'yearly', sentence: 'Cleaning yearly' },
  hard_water_half_yearly: { name: 'half-yearly where hard', sentence: 'Cleaning half-yearly where water is hard' },
  long_service: { name: 'long service', sentence: 'Long service with jetting' },
}

export const percent = (share: number) => `${Math.round(100 * share)}\u00a0%`

/** A ratio as it stands in a sentence: "1.30 times", "0.72 times". */
export const timesWords = (ratio: number) => `${ratio.toFixed(ratio < 10 ? 2 : 0)} times`

/** What is tried of a trait, as it begins a sentence. */
export const traitWords = (trait: string, units: Units) =>
  ({
    hardness: 'Twice the hardness makes',
    usage: 'Twice the hot water makes',
    temperature: `A setting ${shown(units, 'temperature_k', 10)} hotter makes`,
  })[trait] ?? `More ${trait} makes`

/** A ratio that makes no difference that anybody could see. */
export const isAsMuch = (ratio: number) => Math.abs(ratio - 1) < 0.015
