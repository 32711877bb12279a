import type { Schema } from '../../api/client'
import { shown, type Units } from '../../lib/units'

type Seen = Schema['SeenOut']

/** Each act as it stands under its knot, in a word or three. */
const WORDS: Record<string, Record<string, string>> = {
  cold: { open: 'cold opened', shut: 'cold shut' },
  main: { open: 'main opened', shut: 'main shut' },
  tap: { open: 'faucet opened', shut: 'faucet shut' },
  drain: { open: 'drain opened', cracked: 'drain cracked', shut: 'drain shut' },
  hose: { on: 'hose on', off: 'hose off' },
  hose_in: { 'floor drain': 'into the drain', bucket: 'into the bucket' },
  bucket: { emptied: 'bucket emptied' },
  gauge: { on: 'gauge on', off: 'gauge off' },
  cap: { on: 'capped', off: 'cap off' },
  wire: { 'through the drain': 'wire in' },
  lever: { up: 'lever up', down: 'lever down' },
  relief_bucket: { 'under the pipe': 'bucket under', away: 'bucket away' },
  relief_valve: { new: 'new valve' },
  outlet: { uncapped: 'cap off the pipe' },
  dial: { on: 'dial on', pilot: 'to pilot', off: 'dial off' },
  gas_cock: { open: 'gas opened', shut: 'gas shut' },
  pilot: { lit: 'pilot lit' },
  breaker: { on: 'breaker on', off: 'breaker off', locked: 'breaker locked' },
  tell: { 'what goes off': 'house told', 'what was done': 'said after' },
  look: { 'relief pipe': 'pipe followed', burner: 'burner seen', drain: 'drain seen', floor: 'floor seen' },
  done: {},
  skipped: {},
  deviation: {},
  settled: {},
}
const TELLINGS = ['done', 'skipped', 'deviation', 'settled', 'found']

export const isTelling = (act: Schema['ActIn']) => TELLINGS.includes(act.handle)

export function actWords(act: Schema['ActIn']): string {
  if (act.handle === 'mark') return 'setting'
  return WORDS[act.handle]?.[act.to ?? ''] ?? `${act.handle.replaceAll('_', ' ')} noted`
}

export const clockWords = (seconds: number) =>
  [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60]
    .map((one) => String(one).padStart(2, '0'))
    .join(':')

const SOUNDS: Record<Seen['sounds'][number], string> = {
  rush: 'Water rushes in the pipes.',
  gurgle: 'It gurgles: hardly anything comes, no air gets in above.',
  spit: 'The faucet spits air.',
  burner: 'The burner roars.',
}

const CLARITY: Record<Seen['clarity'], string> = {
  clear: 'clear',
  cloudy: 'cloudy',
  murky: 'murky',
  dark: 'dark with grains',
}

/** What is to be seen and heard, in sentences, the most urgent first. */
export function seenWords(seen: Seen, units: Units): string[] {
  const found: string[] = []
  if (seen.floor_l > 0.3) found.push(`Water is on the floor: ${shown(units, 'small_volume_l', seen.floor_l)}.`)
  if (seen.relief_runs === 'runs') found.push('The relief pipe throws out hot water.')
  if (seen.relief_runs === 'drips') found.push('The relief pipe drips.')
  if (seen.drain_runs === 'runs')
    found.push(
      `${seen.hose ? 'The hose' : 'The drain'} runs, ` +
        `${shown(units, 'flow_l_min', seen.drain_l_min)}, ${CLARITY[seen.clarity]}, ` +
        `${shown(units, 'temperature_c', seen.drain_c ?? 0)}.`,
    )
  if (seen.drain_runs === 'drips') found.push(seen.drain === 'shut' ? 'The drain drips.' : 'A trickle comes.')
  if (seen.drain_runs === 'dry' && seen.drain !== 'shut' && !seen.gauge && !seen.cap)
    found.push('Nothing comes out of the drain.')
  if (seen.tap_runs === 'runs')
    found.push(
      `The hot faucet runs, ${shown(units, 'flow_l_min', seen.tap_l_min)}, ` +
        `${shown(units, 'temperature_c', seen.tap_c ?? 0)}.`,
    )
  if (seen.tap_open && seen.tap_runs === 'dry') found.push('The faucet is open, and nothing runs.')
  if (seen.gauge_kpa !== null) found.push(`The gauge reads ${shown(units, 'pressure_kpa', seen.gauge_kpa)}.`)
  // What came out is graded by it, so it must be there to be looked at.
  if (seen.removed_l >= 0.05)
    found.push(`In the cloth lie ${shown(units, 'small_volume_l', seen.removed_l)} of deposit.`)
  if (seen.dial && !seen.pilot_lit) found.push('The pilot is out.')
  return [...found, ...seen.sounds.map((one) => SOUNDS[one])]
}
