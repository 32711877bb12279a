import type { Schema } from '../../api/client'
import { shown, type Units } from '../../lib/units'
import type { Course } from './Courses'

type Tank = Schema['LifeOut']
type Exchanger = Schema['ExchangerLifeOut']

export interface Money {
  currency: string
  /** Of a kWh; null where nobody said one. */
  energyPrice: number | null
}

const most = (lines: number[][]) => Math.max(...lines.flat())
const percent = (value: number) => `${Math.round(100 * value)} %`

/** Scale is thin: a tenth of a millimetre counts. */
export const millimetres = (value: number, units: Units) =>
  units.length_mm?.factor === 1 ? `${value.toFixed(1)} mm` : shown(units, 'length_mm', value)

/** What lies there, of one life or between eight of ten. */
function lying(
  name: string,
  unit: string,
  lines: number[][],
  fans: number[][][] | null,
  words: Course['words'],
): Course {
  return {
    name,
    unit: fans ? 'eight of ten lives between' : unit,
    lines,
    ...(fans ? { fans } : {}),
    least: 0,
    most: fans ? most(fans.flat()) : most(lines),
    words,
  }
}

function energyOf(lines: number[][]): Course {
  return {
    name: 'Energy',
    unit: 'a year',
    lines,
    least: 0.85 * Math.min(...lines.flat()),
    most: most(lines),
    words: (value) => `${(Math.round(value / 10) * 10).toLocaleString('en')} kWh`,
  }
}

/** What was spent since it was new, with energy where its price is known. */
function costOf(spent: number[][], energy: number[][], years: number[], money: Money): Course {
  const step = (years[1] ?? 0) - (years[0] ?? 0)
  const price = money.energyPrice
  const lines = spent.map((line, side) => {
    let burnt = 0
    return line.map((value, at) => {
      if (at > 0) burnt += step * energy[side]![at - 1]!
      return value + (price ?? 0) * burnt
    })
  })
  return {
    name: 'Cost since new',
    unit: price === null ? 'without energy, on average' : 'with energy, on average',
    lines,
    least: 0,
    most: Math.max(1, most(lines)),
    words: (value) => `${money.currency}${Math.round(value).toLocaleString('en')}`,
  }
}

export function tankCourses(sides: Tank[], years: number[], units: Units, many: boolean, money: Money): Course[] {
  const hot = sides.map((one) => one.hot_l)
  const energy = sides.map((one) => one.energy_kwh)
  const stuck = sides.map((one) => one.valve_stuck)
  const leaks = sides.map((one) => (many ? one.leaked_share : one.leak_within_year))
  return [
    lying(
      'Deposit',
      'on the floor',
      sides.map((one) => one.depth_mm),
      many ? sides.map((one) => one.depth_fan_mm) : null,
      (value) => shown(units, 'length_mm', value),
    ),
    { name: 'Anode rod', unit: 'left', lines: sides.map((one) => one.rod_left), least: 0, most: 1, words: percent },
    {
      name: 'Hot water',
      unit: `in one draw; heats again in ${sides.map((one) => one.recover_min.at(-1)).join(' and ')} min at the end`,
      lines: hot,
      least: 0.5 * Math.min(...hot.flat()),
      most: most(hot),
      words: (value) => shown(units, 'volume_l', value),
    },
    energyOf(energy),
    {
      name: 'Relief valve stuck',
      unit: 'if it were needed',
      lines: stuck,
      least: 0,
      most: Math.max(0.2, most(stuck)),
      words: percent,
    },
    {
      name: many ? 'Have leaked' : 'Leaks within the year',
      unit: many ? 'of 200' : '',
      lines: leaks,
      least: 0,
      most: Math.max(0.2, most(leaks)),
      words: percent,
    },
    costOf(
      sides.map((one) => one.visits_cost.map((value, at) => value + one.leaks_cost[at]!)),
      energy,
      years,
      money,
    ),
  ]
}

export function exchangerCourses(
  sides: Exchanger[],
  years: number[],
  units: Units,
  many: boolean,
  money: Money,
): Course[] {
  const flow = sides.map((one) => one.flow_l_min)
  const energy = sides.map((one) => one.energy_kwh)
  return [
    lying(
      'Scale',
      'on the wall',
      sides.map((one) => one.thickness_mm),
      many ? sides.map((one) => one.thickness_fan_mm) : null,
      (value) => millimetres(value, units),
    ),
    {
      name: 'Hot water',
      unit: 'at full draw',
      lines: flow,
      least: 0.7 * Math.min(...flow.flat()),
      most: most(flow),
      words: (value) => shown(units, 'flow_l_min', value),
    },
    energyOf(energy),
    {
      name: 'Cut out at full draw',
      unit: 'of 200 lives',
      lines: sides.map((one) => one.cuts_out_share),
      least: 0,
      most: 1,
      words: percent,
    },
    costOf(
      sides.map((one) => one.visits_cost),
      energy,
      years,
      money,
    ),
  ]
}
