import type { Schema } from '../api/client'

/** The trade's words for what the program names. Display only: what they mean is decided on the server. */

export const KINDS: Record<Schema['HeaterKind'], string> = {
  gas_tank: 'gas tank',
  electric_tank: 'electric tank',
  heat_pump_tank: 'heat-pump tank',
  indirect_tank: 'indirect tank',
  mobile_tank: 'vehicle tank',
  gas_tankless: 'gas tankless',
  condensing_tankless: 'condensing tankless',
  electric_tankless: 'electric tankless',
  small_gas_tankless: 'small gas tankless',
}

export const COMPONENTS: Record<Schema['Component'], string> = {
  sediment: 'Flush',
  scale: 'Descale',
  anode: 'Anode',
  relief_valve: 'Relief valve',
  expansion_tank: 'Expansion tank',
  tank: 'New heater',
}

/** What somebody is signed off for, as work. */
export const WORK: Record<Schema['Component'], string> = {
  sediment: 'flushing',
  scale: 'descaling',
  anode: 'the anode rod',
  relief_valve: 'the relief valve',
  expansion_tank: 'the expansion tank',
  tank: 'looking it over',
}

export const METHODS: Record<Schema['Method'], string> = {
  pressure_blowout: 'flush under pressure',
  drain_and_pulse: 'drain and rinse in pulses',
  jetting: 'jet the floor: plain flushes no longer keep up',
  acid_soak: 'soak in acid: plain flushes no longer keep up',
  descale: 'circulate acid',
  inspect: 'look at the rod',
  exercise: 'exercise it',
  check: 'check its charge',
  recharge: 'charge it again',
  clean: 'clean it',
  replace: 'replace it',
}

export const DECIDED: Record<Schema['DecidedBy'], string> = {
  tolerance: 'set by the risk we accept',
  cap: 'set by the longest interval we allow',
  practice: 'set by our calendar',
  finding: 'set by what was found',
  left_alone: 'old and never flushed: such tanks are left alone',
  first_look: 'never proven by us: to be looked at in the first round',
}

export const FACTORS: Record<string, [faster: string, slower: string]> = {
  usage: ['much hot water', 'little hot water'],
  hardness: ['hard water', 'soft water'],
  temperature: ['hot setting', 'cool setting'],
  tank_size: ['small tank', 'large tank'],
  exchanger_size: ['small exchanger', 'large exchanger'],
  rod: ['light rod', 'heavy or slow rod'],
  water: ['aggressive water', 'gentle water'],
  recirculation: ['a loop that circulates', 'no loop'],
  pressure: ['high pressure', 'low pressure'],
  symptoms: ['what was seen on it', 'nothing seen on it'],
  spent_anode: ['years without an anode', 'an anode that works'],
  own_tanks: ['tanks fail sooner here', 'tanks last longer here'],
  cohort: ['others of its build', 'others of its build'],
  neighbours: ['others on this water', 'others on this water'],
  findings: ['findings here', 'findings here'],
}

export const FOUND: Schema['Fouling'][] = ['clean', 'light', 'fouled', 'fault']

interface UpkeepWords {
  name: string
  /** What the technician is asked to do. */
  ask: string
  /** Where the usual word for a finding would not be said of this thing. */
  found: Partial<Record<Schema['Fouling'], string>>
}

export const UPKEEP: Record<Schema['UpkeepItem'], UpkeepWords> = {
  inlet_screen: {
    name: 'Inlet screen',
    ask: 'Cold shut: rinse the inlet screen',
    found: { light: 'some grit', fouled: 'clogged', fault: 'torn' },
  },
  burner: {
    name: 'Burner and air intake',
    ask: 'Brush the burner, clear the air intake',
    found: { light: 'some dust', fouled: 'choked', fault: 'faulty' },
  },
  flame_sensor: {
    name: 'Flame rod and igniter',
    ask: 'Clean the flame rod and the igniter',
    found: { light: 'film', fouled: 'coated', fault: 'faults' },
  },
  condensate: {
    name: 'Condensate trap',
    ask: 'Rinse the condensate trap and its drain',
    found: { light: 'some slime', fouled: 'blocked', fault: 'leaks' },
  },
  air_filter: {
    name: 'Air filter',
    ask: 'Wash the air filter',
    found: { light: 'some dust', fouled: 'choked', fault: 'torn' },
  },
  powered_anode: {
    name: 'Powered anode',
    ask: 'Look at the powered anode’s light',
    found: { clean: 'lit', light: 'flickers', fouled: 'red', fault: 'dark' },
  },
  batteries: {
    name: 'Batteries',
    ask: 'Change the igniter’s batteries',
    found: { clean: 'fresh', light: 'weak', fouled: 'dead', fault: 'leaked' },
  },
}

/** What to mind before touching it. */
export const UPKEEP_HAZARDS: Partial<Record<Schema['UpkeepItem'], string>> = {
  burner:
    'Gas off and the burner cold. Yellow flame, soot or a tripped spill switch: stop, air the ' +
    'room, call a licensed fitter.',
  flame_sensor: 'Power and gas off before the cover is opened. A smell of gas: out, and call from outside.',
  air_filter: 'Breaker off and proven before the cover is opened.',
}

/** What a step wants on a photograph. */
export const PICTURES: Record<string, string> = {
  setting: 'the dial or panel',
  wiring: 'the wiring',
  plate: 'the plate',
  bucket: 'the bucket',
  anode: 'the rod',
  relief_valve: 'the relief valve',
  place: 'it as it stands',
}

export const ROLES: Record<Schema['Role'], string> = {
  lead: 'Lead',
  planner: 'Planner',
  technician: 'Technician',
  apprentice: 'Apprentice',
}

/** "an anode" is nobody's first word of a sentence: upper-case the first letter only. */
export function sentence(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

export const ENDS: Record<Schema['EndCause'], string> = {
  leaked: 'its tank leaked',
  replaced_before: 'replaced while it still held',
  left: 'its customer or site is not ours any more',
  merged: 'it was on record twice',
}
