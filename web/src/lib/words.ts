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
  cohort: ['others of its build', 'others of its build'],
  neighbours: ['others on this water', 'others on this water'],
  findings: ['findings here', 'findings here'],
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
