import type { ReactNode } from 'react'

import type { Schema } from '../../api/client'
import { FOUND, KINDS, UPKEEP, UPKEEP_HAZARDS } from '../../lib/words'
import type { Answers } from './answers'
import { BucketPicture, RodPicture, ValvePicture } from '../../drawing/pictures'

/** Something that is looked at and compared, read off, or said yes to; asked in one way wherever it is asked. */
export type Question = {
  field: string
  title: string
  /** Asked only where this was said yes to. */
  after?: string
  /** Not asked where this was said yes to. */
  unless?: string
} & (
  | { kind: 'grades'; columns: 1 | 2 | 3 | 4 | 5; options: { value: string; label: string; picture?: ReactNode }[] }
  | { kind: 'measure'; unit: string }
  | { kind: 'seen'; looks: Schema['LookOut'][] }
  | { kind: 'toggle' }
  | { kind: 'words'; placeholder: string }
)

const words = (...values: string[]) => values.map((value) => ({ value, label: value }))
const grades = (
  field: string,
  title: string,
  columns: 1 | 2 | 3 | 4 | 5,
  options: { value: string; label: string; picture?: ReactNode }[],
): Question => ({ kind: 'grades', field, title, columns, options })
const measure = (field: string, title: string, unit: string): Question => ({ kind: 'measure', field, title, unit })
const toggle = (field: string, title: string): Question => ({ kind: 'toggle', field, title })

const inWords = (field: string, title: string, placeholder: string): Question => ({
  kind: 'words',
  field,
  title,
  placeholder,
})

const REMOVED: [Schema['Removed'], string][] = [
  ['none', 'nothing'],
  ['trace', 'trace'],
  ['moderate', 'moderate'],
  ['heavy', 'heavy'],
  ['blocked', 'blocks it'],
]
const RODS: [Schema['RodGrade'], string][] = [
  ['like_new', 'like new'],
  ['worn', 'worn'],
  ['half', 'half'],
  ['mostly_gone', 'mostly gone'],
  ['gone', 'wire only'],
]
const OUTCOMES: [Schema['ValveOutcome'], string][] = [
  ['flows_and_reseats', 'Ran freely, snapped shut, outlet dry'],
  ['flows_and_weeps', 'Ran, but drips afterwards'],
  ['no_flow', 'Lever moves, no water'],
  ['not_tested', 'Not tested today'],
]
const ALLOYS: { value: Schema['Alloy']; label: string }[] = [
  { value: 'magnesium', label: 'magnesium' },
  { value: 'aluminium', label: 'aluminium' },
  { value: 'aluminium_zinc', label: 'aluminium-zinc' },
  { value: 'powered', label: 'powered' },
]
const removed = (field: string, title: string) =>
  grades(
    field,
    title,
    5,
    REMOVED.map(([value, label]) => ({
      value,
      label: field.startsWith('descale') && value === 'blocked' ? 'choked' : label,
      picture: <BucketPicture removed={value} />,
    })),
  )

const ASKED: Record<string, Question> = {
  noise: grades('look.noise', 'What it sounds like when it fires', 3, [
    { value: 'quiet', label: 'quiet' },
    { value: 'hiss', label: 'hisses' },
    { value: 'bubbling', label: 'bubbles' },
    { value: 'popping', label: 'pops, knocks' },
    { value: 'kettling', label: 'kettles' },
  ]),
  corrosion: grades('look.corrosion', 'Where rust shows', 3, [
    { value: 'none', label: 'no rust' },
    { value: 'fittings', label: 'at fittings' },
    { value: 'seams', label: 'at a seam' },
  ]),
  rusty_hot_water: toggle('look.rusty_hot_water', 'Hot water alone runs rusty'),
  element_failed: toggle('look.element_failed', 'An element is burnt out'),
  household_changed: toggle('look.household_changed', 'Other people live here since the last visit'),
  ohms: measure('look.ohms', 'Ohms across the element', 'Ω'),
  taps: grades('look.taps', 'Which faucets', 2, [
    { value: 'one', label: 'one faucet' },
    { value: 'all', label: 'all faucets' },
  ]),
  clarity: grades('flush.clarity', 'Clarity of the water', 4, words('clear', 'cloudy', 'milky', 'murky')),
  texture: grades('flush.texture', 'Kind of solids', 3, [
    ...words('sand', 'flakes', 'stones', 'sludge'),
    { value: 'grit', label: 'white grit' },
    { value: 'crust', label: 'baked crust' },
  ]),
  drain_flow: grades('flush.drain_flow', 'How the drain ran', 4, [
    { value: 'full', label: 'full' },
    { value: 'slow', label: 'slow' },
    { value: 'trickle', label: 'trickle' },
    { value: 'none', label: 'nothing' },
  ]),
  depth_before_mm: measure('flush.depth_before_mm', 'Depth of the deposit before, by a rod', 'length_mm'),
  depth_after_mm: measure('flush.depth_after_mm', 'Depth of what is left, by a rod', 'length_mm'),
  removed_l: measure('flush.removed_l', 'Volume of the deposit, by the bucket’s gauge', 'small_volume_l'),
  method: grades('flush.method', 'How it was flushed', 2, [
    { value: 'pressure_blowout', label: 'under pressure' },
    { value: 'drain_and_pulse', label: 'drain, pulse' },
    { value: 'jetting', label: 'jetted' },
    { value: 'acid_soak', label: 'acid soak' },
  ]),
  dissolved_g: measure('descale.dissolved_g', 'Lime dissolved, if measured', 'mass_g'),
  flow_before: measure('descale.flow_before_l_min', 'Flow at full draw, before', 'flow_l_min'),
  rise_before: measure('descale.rise_before_k', 'Rise of the temperature, before', 'temperature_k'),
  flow_after: measure('descale.flow_after_l_min', 'Flow at full draw, after', 'flow_l_min'),
  rise_after: measure('descale.rise_after_k', 'Rise of the temperature, after', 'temperature_k'),
  valve_outcome: grades(
    'valve.outcome',
    'What the relief valve did',
    1,
    OUTCOMES.map(([value, label]) => ({ value, label, picture: <ValvePicture outcome={value} /> })),
  ),
  relief_valve_replacement: toggle('valve.replaced', 'I fitted a new relief valve'),
  'valve.alike': toggle('valve.alike', 'Both tags read: the new one is like the old one'),
  'valve.new_set_pressure_kpa': measure('valve.new_set_pressure_kpa', 'The new one opens at', 'pressure_kpa'),
  'valve.new_rating_kw': measure('valve.new_rating_kw', 'Heat that it passes, by its tag', 'power_kw'),
  'valve.new_probe_length_mm': measure('valve.new_probe_length_mm', 'Length of its probe', 'length_mm'),
  rod_grade: grades(
    'rod.grade',
    'What is left of the rod',
    5,
    RODS.map(([value, label]) => ({ value, label, picture: <RodPicture grade={value} /> })),
  ),
  bare_wire_mm: measure('rod.bare_wire_mm', 'Bare wire, if any shows', 'length_mm'),
  diameter_mm: measure('rod.diameter_mm', 'Thickness of the rod, by calliper', 'length_mm'),
  anode_replacement: toggle('rod.replaced', 'I fitted a new rod'),
  'rod.alike': toggle('rod.alike', 'Compared: the new one is like the old one'),
  'rod.new_alloy': grades('rod.new_alloy', 'Its metal', 2, ALLOYS),
  'rod.new_count': measure('rod.new_count', 'How many rods, if more than one', '1'),
  'rod.new_length_mm': measure('rod.new_length_mm', 'Its length', 'length_mm'),
  'rod.new_diameter_mm': measure('rod.new_diameter_mm', 'Its thickness', 'length_mm'),
  could_not_open: toggle('rod.could_not_open', 'The port could not be opened'),
  expansion_tank_pin: grades('expansion_tank.at_valve', 'What came out of the air valve', 1, [
    { value: 'air', label: 'Air comes out' },
    { value: 'water', label: 'Water comes out: the bladder is torn' },
    { value: 'nothing', label: 'Nothing comes out' },
  ]),
  precharge_kpa: measure('expansion_tank.precharge_kpa', 'Charge as you found it', 'pressure_kpa'),
  expansion_tank_replacement: toggle('expansion_tank.replaced', 'I fitted a new expansion tank'),
  'expansion_tank.alike': toggle('expansion_tank.alike', 'Compared: the new one is like the old one'),
  'expansion_tank.new_volume_l': measure('expansion_tank.new_volume_l', 'Its size', 'volume_l'),
  'expansion_tank.new_precharge_kpa': measure(
    'expansion_tank.new_precharge_kpa',
    'Its charge, as you set it',
    'pressure_kpa',
  ),
  static_kpa: measure('pressure.static_kpa', 'Standing pressure', 'pressure_kpa'),
  creep_kpa: measure('pressure.creep_kpa', 'Crept up by', 'pressure_kpa'),
  falls: toggle('pressure.falls', 'It fell with the cold shut'),
  tap_before: measure('arrival.tap_c', 'Hot water as you found it', 'temperature_c'),
  tap_c: measure('verify.tap_c', 'Hottest water at the faucet', 'temperature_c'),
  sensor_tip: grades('gas.sensor_tip', 'The tip in the flame', 3, [
    { value: 'clean', label: 'clean' },
    { value: 'carbon', label: 'carbon, black' },
    { value: 'corroded', label: 'corroded' },
  ]),
  millivolts: measure('gas.millivolts', 'Millivolts while lit', 'mV'),
  gas_kpa: measure('gas.gas_kpa', 'Gas pressure at the manifold', 'gas_pressure_kpa'),
  volts: measure('power.volts', 'Supply voltage', 'V'),
  kind: grades(
    'look.kind',
    'What stands here',
    2,
    Object.entries(KINDS).map(([value, label]) => ({ value, label })),
  ),
  setting_found: inWords('settings.found', 'Setting as you found it', 'dial at B, vacation off'),
  setting_left: inWords('settings.left', 'Setting as you leave it', 'dial at B'),
  held_s: measure('gas.held_s', 'Held until the pilot stayed', 's'),
  input_kw: measure('gas.input_kw', 'Gas input by the meter', 'power_kw'),
  amps: measure('power.amps', 'Amps under load', 'A'),
  drained_l: measure('drain.drained_l', 'Ran out of the tank', 'volume_l'),
  limit_tripped: toggle('power.limit_tripped', 'The limit switch had tripped'),
  agreed_work: inWords('agreed.work', 'What was agreed besides', 'a new drain valve, today'),
  agreed_price: inWords('agreed.price', 'Price that was told', '85, with tax'),
  agreed_by: inWords('agreed.by', 'Who said yes', 'Ida Brandt, by telephone'),
  agreed_setting: inWords('agreed.setting', 'Who agreed to the setting', 'Ida Brandt; children told of'),
  code: inWords('panel.code', 'The code, and how often', 'E12, twice'),
  tries: measure('gas.tries', 'Tries until it lit', 'tries'),
  losses: measure('gas.losses', 'How often the flame was lost', 'times'),
  gap_mm: measure('gas.gap_mm', 'Spark gap', 'length_mm'),
  limit_c: measure('limit.opens_c', 'The limit opened at', 'temperature_c'),
  inlet_c: measure('mixing.inlet_c', 'Cold feed at the mixing valve', 'temperature_c'),
  cells_v: measure('cells.volts', 'Both cells together', 'V'),
  fan_rpm: measure('fan.rpm', 'Speed of the fan', 'rpm'),
  drain_min: measure('drain.minutes', 'How long until it was empty', 'min'),
  clear_min: measure('water.clear_min', 'How long until it ran clear', 'min'),
  heat_up_min: measure('verify.heat_up_min', 'How long until it was hot again', 'min'),
  energy_kwh: measure('energy.year_kwh', 'Energy of twelve months, by the bills', 'kWh'),
  co_ppm: measure('look.co_ppm', 'Carbon monoxide in the air', 'ppm'),
}

/** Readings that are asked for only where the program has drawn this visit for a measurement. */
const DRAWN = new Set(['depth_before_mm', 'depth_after_mm', 'diameter_mm', 'removed_l'])
/** What a drawn measurement comes with, and is asked with. */
const DRAWN_WITH: Record<string, string> = { drain_flow: 'depth_before_mm' }
const DRAWN_AFTER: Record<string, string> = { removed: 'depth_after_mm' }

/** What is told of a part that was fitted, once it is said that one was; nothing of it is taken for granted. */
const OF_THE_NEW: Record<string, string[]> = {
  relief_valve_replacement: ['valve.new_set_pressure_kpa', 'valve.new_rating_kw', 'valve.new_probe_length_mm'],
  anode_replacement: ['rod.new_alloy', 'rod.new_count', 'rod.new_length_mm', 'rod.new_diameter_mm'],
  expansion_tank_replacement: ['expansion_tank.new_volume_l', 'expansion_tank.new_precharge_kpa'],
}

function replacement(ask: string): Question[] {
  const first = ASKED[ask]!
  const of = first.field.split('.')[0]!
  const alike = ASKED[`${of}.alike`]!
  return [
    first,
    { ...alike, after: first.field },
    ...OF_THE_NEW[ask]!.map((one) => ({ ...ASKED[one]!, after: first.field, unless: alike.field })),
  ]
}

/** Those that are asked, by what was answered to others. */
export const asked = (questions: Question[], answers: Answers) =>
  questions.filter(
    (one) => (!one.after || answers[one.after] === true) && (!one.unless || answers[one.unless] !== true),
  )

/**
 * The questions of a step or a page. Parameters: asks, by their names in the procedures; drawn, for a measurement;
 * observations, what can be looked at on such a heater.
 */
export function questionsOf(
  asks: string[],
  isTank: boolean,
  drawn: boolean,
  observations: Schema['ObservationOut'][] = [],
): Question[] {
  const added = (one: string | undefined) => (drawn && isTank && one && !asks.includes(one) ? [one] : [])
  const with_drawn = asks.flatMap((one) => [...added(DRAWN_WITH[one]), one, ...added(DRAWN_AFTER[one])])
  return with_drawn.flatMap((ask) => {
    if (DRAWN.has(ask) && !drawn) return []
    if (ask === 'removed')
      return [
        isTank
          ? removed('flush.removed', 'How much came out')
          : removed('descale.removed', 'What the acid brought out'),
      ]
    if (ask in OF_THE_NEW) return replacement(ask)
    if (ask.startsWith('fitted:')) return fittedQuestions(ask.slice(7))
    if (ask.startsWith('upkeep:')) return upkeepQuestion(ask.slice(7) as Schema['UpkeepItem'])
    if (ask.startsWith('seen:')) {
      const found = observations.find((one) => one.field === ask.slice(5))
      return found ? [{ kind: 'seen' as const, field: found.field, title: found.ask, looks: found.looks }] : []
    }
    return ASKED[ask] ?? []
  })
}

function fittedQuestions(kind: string): Question[] {
  const fitted = toggle(`fitted.${kind}`, `I fitted a new ${kind.replaceAll('_', ' ')}`)
  const build = inWords(`fitted_build.${kind}`, 'Its build, as it looks', 'black, closed actuator')
  return [fitted, { ...build, after: fitted.field }]
}

function upkeepQuestion(item: Schema['UpkeepItem']): Question[] {
  const told = UPKEEP[item]
  return [
    grades(
      `upkeep.${item}`,
      told.ask,
      4,
      FOUND.map((value) => ({ value, label: told.found[value] ?? value })),
    ),
  ]
}

/** Told by what they are, where they were looked at. */
const FORECAST_PARTS = new Set(['anode', 'relief_valve', 'expansion_tank'])
const ELEMENTS = new Set<Schema['HeaterKind']>(['electric_tank', 'heat_pump_tank', 'electric_tankless'])

export interface Group {
  name: string
  /** The first word of its fields. */
  of: string
  asks: string[]
  hazards: string[]
  /** It can be left out with a word. */
  skips: string | null
}

/** All that can be told of a heater, by what it is looked at for. */
export function groupsOf(
  heater: Schema['HeaterOut'],
  upkeep: Schema['UpkeepOut'][],
  observations: Schema['ObservationOut'][] = [],
): Group[] {
  const rod = heater.parts.find((part) => part.kind === 'anode')
  const items = upkeep.map((one) => one.item)
  const elements = ELEMENTS.has(heater.kind)
  const groups: (Group & { fits: boolean })[] = [
    {
      name: 'Look',
      of: 'look',
      asks: [
        'noise',
        'corrosion',
        'rusty_hot_water',
        'household_changed',
        ...(elements && heater.is_tank ? ['element_failed'] : []),
      ],
      hazards: [],
      skips: null,
      fits: heater.is_tank,
    },
    {
      name: 'Relief valve',
      of: 'valve',
      asks: ['valve_outcome', 'relief_valve_replacement'],
      hazards: ['The discharge throws scalding water: bucket under it, people clear, tank full.'],
      skips: null,
      fits: true,
    },
    {
      name: 'Flush',
      of: 'flush',
      asks: ['removed', 'clarity', 'texture', 'drain_flow', 'method', 'depth_before_mm', 'depth_after_mm', 'removed_l'],
      hazards: ['Energy off and proven before water leaves the tank. It scalds: a rated hose, and someone at its end.'],
      skips: 'Not flushed today',
      fits: heater.is_tank,
    },
    {
      name: 'Descale',
      of: 'descale',
      asks: ['flow_before', 'rise_before', 'removed', 'dissolved_g', 'flow_after', 'rise_after'],
      hazards: ['Never an acid after a chlorine product; gloves and eyes.'],
      skips: 'Not descaled today',
      fits: !heater.is_tank,
    },
    {
      name: 'Anode',
      of: 'rod',
      asks: ['rod_grade', 'bare_wire_mm', 'diameter_mm', 'anode_replacement', 'could_not_open'],
      hazards: ['Pressure off, and the water below the port, before the rod is loosened.'],
      skips: 'Rod not looked at today',
      fits: heater.is_tank && (!rod || (rod.alloy !== 'none' && rod.alloy !== 'powered')),
    },
    {
      name: 'Expansion tank',
      of: 'expansion_tank',
      asks: ['expansion_tank_pin', 'precharge_kpa', 'expansion_tank_replacement'],
      hazards: ['Let the water side’s pressure off before you read or set the charge.'],
      skips: 'Not checked today',
      fits: heater.parts.some((part) => part.kind === 'expansion_tank'),
    },
    {
      name: 'Pressure',
      of: 'pressure',
      asks: ['static_kpa', 'creep_kpa', 'falls'],
      hazards: [],
      skips: null,
      fits: true,
    },
    {
      name: 'Cleaned',
      of: 'upkeep',
      asks: items.map((one) => `upkeep:${one}`),
      hazards: [...new Set(items.flatMap((one) => UPKEEP_HAZARDS[one] ?? []))],
      skips: null,
      fits: items.length > 0,
    },
    {
      name: 'Measured besides',
      of: 'measured',
      asks: heater.can_measure ?? ['co_ppm', 'inlet_c', 'energy_kwh'],
      hazards: [],
      skips: null,
      fits: true,
    },
    {
      name: 'Parts fitted',
      of: 'fitted',
      asks: (heater.can_have ?? []).filter((one) => !FORECAST_PARTS.has(one)).map((one) => `fitted:${one}`),
      hazards: [],
      skips: null,
      fits: true,
    },
    {
      name: 'Looked at besides',
      of: 'seen',
      asks: observations.map((one) => `seen:${one.field}`),
      hazards: [],
      skips: null,
      fits: observations.length > 0,
    },
    {
      name: 'Agreed at the door',
      of: 'agreed',
      asks: ['agreed_work', 'agreed_price', 'agreed_by'],
      hazards: [],
      skips: null,
      fits: true,
    },
    {
      name: 'At the faucet',
      of: 'verify',
      asks: ['tap_before', 'tap_c', 'heat_up_min', 'agreed_setting'],
      hazards: [],
      skips: null,
      fits: true,
    },
  ]
  return groups.filter((one) => one.fits)
}
