import type { ReactNode } from 'react'

import type { Schema } from '../../api/client'
import { FOUND, KINDS, UPKEEP, UPKEEP_HAZARDS } from '../../lib/words'
import { BucketPicture, RodPicture, ValvePicture } from './pictures'

/** Something that is looked at and compared, read off, or said yes to; asked in one way wherever it is asked. */
export type Question = { field: string; title: string } & (
  | { kind: 'grades'; columns: 1 | 2 | 3 | 4 | 5; options: { value: string; label: string; picture?: ReactNode }[] }
  | { kind: 'measure'; unit: string }
  | { kind: 'toggle' }
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
  valve_drips: toggle('look.valve_drips', 'Relief outlet was dripping on arrival'),
  element_failed: toggle('look.element_failed', 'An element is burnt out'),
  ohms: measure('look.ohms', 'Ohms across the element', 'Ω'),
  taps: grades('look.taps', 'Which faucets', 2, [
    { value: 'one', label: 'one faucet' },
    { value: 'all', label: 'all faucets' },
  ]),
  clarity: grades('flush.clarity', 'Clarity of the water', 4, words('clear', 'cloudy', 'milky', 'murky')),
  texture: grades('flush.texture', 'Kind of solids', 4, words('sand', 'flakes', 'stones', 'sludge')),
  drain_flow: grades('flush.drain_flow', 'How the drain ran', 4, [
    { value: 'full', label: 'full' },
    { value: 'slow', label: 'slow' },
    { value: 'trickle', label: 'trickle' },
    { value: 'none', label: 'nothing' },
  ]),
  depth_before_mm: measure('flush.depth_before_mm', 'Depth of the deposit before, by a rod', 'length_mm'),
  depth_after_mm: measure('flush.depth_after_mm', 'Depth of what is left, by a rod', 'length_mm'),
  removed_l: measure('flush.removed_l', 'Volume of the deposit, by the bucket’s gauge', 'L'),
  method: grades('flush.method', 'How it was flushed', 2, [
    { value: 'pressure_blowout', label: 'under pressure' },
    { value: 'drain_and_pulse', label: 'drain, pulse' },
    { value: 'jetting', label: 'jetted' },
    { value: 'acid_soak', label: 'acid soak' },
  ]),
  dissolved_g: measure('descale.dissolved_g', 'Lime dissolved, if measured', 'g'),
  flow_before: measure('descale.flow_before_l_min', 'Flow at full draw, before', 'L/min'),
  rise_before: measure('descale.rise_before_k', 'Rise of the temperature, before', 'K'),
  flow_after: measure('descale.flow_after_l_min', 'Flow at full draw, after', 'L/min'),
  rise_after: measure('descale.rise_after_k', 'Rise of the temperature, after', 'K'),
  valve_outcome: grades(
    'valve.outcome',
    'What the relief valve did',
    1,
    OUTCOMES.map(([value, label]) => ({ value, label, picture: <ValvePicture outcome={value} /> })),
  ),
  relief_valve_replacement: toggle('valve.replaced', 'I fitted a new relief valve'),
  rod_grade: grades(
    'rod.grade',
    'What is left of the rod',
    5,
    RODS.map(([value, label]) => ({ value, label, picture: <RodPicture grade={value} /> })),
  ),
  bare_wire_mm: measure('rod.bare_wire_mm', 'Bare wire, if any shows', 'length_mm'),
  diameter_mm: measure('rod.diameter_mm', 'Thickness of the rod, by calliper', 'length_mm'),
  anode_replacement: toggle('rod.replaced', 'I fitted a new rod'),
  could_not_open: toggle('rod.could_not_open', 'The port could not be opened'),
  vessel_pin: grades('vessel.at_valve', 'What came out of the air valve', 1, [
    { value: 'air', label: 'Air comes out' },
    { value: 'water', label: 'Water comes out: the bladder is torn' },
    { value: 'nothing', label: 'Nothing comes out' },
  ]),
  precharge_kpa: measure('vessel.precharge_kpa', 'Charge as you found it', 'pressure_kpa'),
  expansion_tank_replacement: toggle('vessel.replaced', 'I fitted a new expansion tank'),
  static_kpa: measure('pressure.static_kpa', 'Standing pressure', 'pressure_kpa'),
  creep_kpa: measure('pressure.creep_kpa', 'Crept up by', 'pressure_kpa'),
  falls: toggle('pressure.falls', 'It fell with the cold shut'),
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
  co_ppm: measure('look.co_ppm', 'Carbon monoxide in the air', 'ppm'),
}

/** Readings that are asked for only where the program has drawn this visit for a measurement. */
const DRAWN = new Set(['depth_before_mm', 'depth_after_mm', 'diameter_mm', 'removed_l'])
/** What a drawn measurement comes with, and is asked with. */
const DRAWN_WITH: Record<string, string> = { drain_flow: 'depth_before_mm' }
const DRAWN_AFTER: Record<string, string> = { removed: 'depth_after_mm' }

/** The questions of a step or a page. Parameters: asks, by their names in the procedures; drawn, for a measurement. */
export function questionsOf(asks: string[], isTank: boolean, drawn: boolean): Question[] {
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
    if (ask.startsWith('upkeep:')) return upkeepQuestion(ask.slice(7) as Schema['UpkeepItem'])
    return ASKED[ask] ?? []
  })
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
export function groupsOf(heater: Schema['HeaterOut'], upkeep: Schema['UpkeepOut'][]): Group[] {
  const rod = heater.parts.find((part) => part.kind === 'anode')
  const items = upkeep.map((one) => one.item)
  const groups: (Group & { fits: boolean })[] = [
    {
      name: 'Look',
      of: 'look',
      asks: [
        'noise',
        'corrosion',
        'rusty_hot_water',
        'valve_drips',
        ...(heater.kind === 'electric_tank' || heater.kind === 'heat_pump_tank' ? ['element_failed'] : []),
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
      of: 'vessel',
      asks: ['vessel_pin', 'precharge_kpa', 'expansion_tank_replacement'],
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
    { name: 'At the faucet', of: 'verify', asks: ['tap_c'], hazards: [], skips: null, fits: true },
  ]
  return groups.filter((one) => one.fits)
}
