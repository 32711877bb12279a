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
  relief_valve: { out: 'valve out', new: 'new valve', 'as the old': 'the same valve new' },
  drain_valve: { new: 'new drain' },
  rod: { cracked: 'bar on the rod', forced: 'rod forced', out: 'rod out', new: 'new rod in', back: 'rod back in' },
  hot_pipe: { off: 'hot pipe off', on: 'hot pipe on' },
  at_drain: { left: 'to the left drain', right: 'to the right drain' },
  outlet: { uncapped: 'cap off the pipe' },
  dial: { on: 'dial on', pilot: 'to pilot', off: 'dial off' },
  gas_cock: { open: 'gas opened', shut: 'gas shut' },
  pilot: { lit: 'pilot lit' },
  breaker: { on: 'breaker on', off: 'breaker off', locked: 'breaker locked' },
  tell: { 'what goes off': 'house told', 'what was done': 'said after' },
  look: {
    'relief pipe': 'pipe followed',
    'relief valve': 'probe measured',
    burner: 'burner seen',
    drain: 'drains followed',
    rod: 'rod looked at',
    floor: 'floor seen',
  },
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
  if (seen.leaks) found.push('Something leaks that nobody opened.')
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
  if (seen.rod === 'out')
    found.push(
      `The rod is out: ${shown(units, 'length_mm', seen.rod_thick_mm ?? 0)} thick, ` +
        (seen.rod_bare_mm ? `wire bare on ${shown(units, 'length_mm', seen.rod_bare_mm)}.` : 'no wire shows.'),
    )
  else if (seen.rod_head === 'none') found.push('The rod has no head: it hangs on the hot outlet.')
  if (seen.probe === 'short') found.push("The relief valve's probe ends in its neck, short of the water.")
  if (seen.probe === 'reaches') found.push("The relief valve's probe reaches into the water.")
  if (!seen.hot_pipe) found.push('The hot pipe is off.')
  if (seen.dial && !seen.pilot_lit) found.push('The pilot is out.')
  return [...found, ...seen.sounds.map((one) => SOUNDS[one])]
}
