import { client, unwrap } from '../api/client'
import type { Instrument } from './instrument'

const BEAT_MS = 120

/** The readings that are simulated in the demo: those of a heater in software. */
export const SIMULATED = ['pressure.static_kpa', 'pressure.creep_kpa', 'arrival.tap_c', 'verify.tap_c']

/** An instrument of the demo: minutes at the heater pass in seconds. */
export function simulatedInstrument(heater_id: number, reading: string): Instrument {
  return {
    name: 'simulated instrument',
    readings: async function* (stop) {
      const query = { heater_id, reading }
      const course = await unwrap(client.GET('/api/bench/instrument', { params: { query } }))
      this.name = course.instrument
      for (const [at, second] of course.seconds.entries()) {
        if (stop.aborted) return
        yield { second, value: course.values[at]! }
        await new Promise((later) => setTimeout(later, BEAT_MS))
      }
    },
  }
}
