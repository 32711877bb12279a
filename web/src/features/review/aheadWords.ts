import type { Schema } from '../../api/client'
import { KINDS, METHODS } from '../../lib/words'
import { shown, type Units } from '../../lib/units'
import { percent, PRACTICES } from './words'

export type Projection = Schema['ProjectionOut']
type Decision = Schema['DecisionOut']

/** Everything that is foretold, in the order of the table, with how it is called. */
export const SERIES: [string, string][] = [
  ['hours', 'Hours'],
  ['hours/gas', '… with gas license'],
  ['hours/electrical', '… electrical'],
  ['hours/plumbing', '… plumbing'],
  ['visits', 'Visits'],
  ['calls', 'Unplanned calls'],
  ['flushes', 'Flushes'],
  ['descales', 'Descales'],
  ['rods', 'Rods fitted'],
  ['relief_valves', 'Relief valves fitted'],
  ['leaks', 'Tanks that leak'],
  ['replacements', 'Heaters replaced'],
  ['income', 'Income'],
  ['cost', 'Cost'],
  ['left', 'What is left'],
]
const MONEY = ['income', 'cost', 'left']

export const isMoney = (name: string) => MONEY.includes(name)

export const round = (value: number) => Math.round(value).toLocaleString('en')

/** Where there is little room: thousands from ten thousand on. */
const short = (value: number) => (Math.abs(value) < 10_000 ? round(value) : `${round(value / 1000)}k`)

/** A figure of a series as it is written: money with its currency, in thousands. */
export const figure = (name: string, value: number, currency: string) =>
  isMoney(name) ? `${currency}${short(value)}` : round(value)

/** What eight of ten futures lie between. */
export const rangeOf = (name: string, fan: Schema['YearFanOut']) =>
  isMoney(name) ? `${short(fan.low)}–${short(fan.high)}` : `${round(fan.low)}–${round(fan.high)}`

/** Only what says something: a license that no heater asks for is left out. */
export const told = (projection: Projection) =>
  SERIES.filter(([name]) => {
    const series = seriesOf(projection, name)
    return series.length > 0 && !(name.startsWith('hours/') && series.every((one) => one.high === 0))
  })

export const seriesOf = (projection: Projection, name: string): Schema['YearFanOut'][] =>
  projection.series.find((one) => one.name === name)?.by_year ?? []

/** What one decision is, as a line of what is tried. */
export function decisionWords(one: Decision, units: Units): string {
  const where = one.zone_id === null ? '' : ` on ${one.zone}`
  const value = one.value ?? 0
  const share = percent(one.share ?? 1)
  const number = round(Math.abs(value))
  switch (one.kind) {
    case 'practice':
      return `${PRACTICES[one.word as Schema['Practice']].sentence}${where}`
    case 'tolerance':
      return `Accepting ${percent(value)} risk${where}`
    case 'method':
      return `${METHODS[one.word as Schema['Method']]} as the usual flush${where}`
    case 'crew':
      return `${number} ${number === '1' ? 'person' : 'people'} ${value < 0 ? 'fewer' : 'more'}`
    case 'softeners':
      return `Softeners offered above ${shown(units, 'hardness_mg_l', value)}${where}, taken by ${share}`
    case 'replace':
      return `The ${number} likeliest tanks to fail replaced now`
    case 'prices':
      return `Prices and plans ${moreOrLess(value, 'up', 'down')}`
    case 'water':
      return `${one.zone} ${moreOrLess(value, 'harder', 'softer')}`
    case 'take_over':
      if (one.list_name) return `The heaters of ${one.list_name} taken over`
      return `${number} heaters like ours taken over`
  }
}

const moreOrLess = (factor: number, more: string, less: string) =>
  `${percent(Math.abs(factor - 1))} ${factor < 1 ? less : more}`

export const nameOf = (one: Schema['ProjectionRowOut'], units: Units): string =>
  one.decisions.length === 0
    ? 'as it is'
    : one.name || one.decisions.map((each) => decisionWords(each, units)).join('; ')

const AGES = ['to 4 years', '4 to 8 years', '8 to 12 years', 'over 12 years']
export const GROUPED: [string, string][] = [
  ['water', 'water'],
  ['kind', 'kind'],
  ['age', 'age'],
  ['plan', 'plan'],
]

export const groupName = (by: string, name: string): string =>
  by === 'kind'
    ? KINDS[name as Schema['HeaterKind']]
    : by === 'age'
      ? AGES[Number(name)]!
      : by === 'plan' && !name
        ? 'without a plan'
        : name

const sum = (fans: Schema['YearFanOut'][]) => fans.reduce((all, one) => all + one.middle, 0)

/** The three sentences that somebody would tell the owner. */
export function sentences(
  now: Projection,
  other: Projection | null,
  beside: Schema['BesideOut'] | null,
  name: string,
): string[] {
  const most = Math.max(...seriesOf(now, 'hours').map((one) => one.high))
  const share = now.crew_hours > 0 ? most / now.crew_hours : null
  const leaks = sum(seriesOf(now, 'leaks'))
  const left = sum(seriesOf(now, 'left')) / now.years
  const found = [
    share === null
      ? `The base asks for up to ${round(most)} hours a year.`
      : `The base asks for up to ${round(most)} hours a year, ${percent(share)} of the ` +
        `${round(now.crew_hours)} that the crew can plan.`,
  ]
  if (!other || !beside) {
    found.push(
      `${round(leaks)} tanks leak in ${now.years} years; a year leaves ${figure('left', left, now.currency)} ` +
        'after work and materials.',
    )
    return found
  }
  const of = (what: string) => beside.differences.find((one) => one.name === what)!
  const crew = other.crew_hours === now.crew_hours ? '' : `; the crew could then plan ${round(other.crew_hours)} a year`
  found.push(`${name}: ${difference(of('hours'), 'hours')}${crew}.`)
  const { over_all: money, less_share: less, same_share: same } = of('left')
  if (same === 1) found.push('What is left is the same.')
  else {
    const more = money.middle >= 0
    const sure = more ? 1 - less - same : less
    found.push(
      `It leaves ${now.currency}${round(Math.abs(money.middle))} ${more ? 'more' : 'less'} over all ` +
        `(${range(money)}), so in ${certain(sure)}; ${difference(of('leaks'), 'leaks')}.`,
    )
  }
  return found
}

const range = (fan: Schema['YearFanOut']) => `${round(fan.low)} to ${round(fan.high)}`
const certain = (share: number) =>
  share === 1 ? 'all futures' : share > 0.99 ? 'nearly all futures' : `${percent(share)} of the futures`

/** "123 hours fewer over all, so in 97 % of the futures". */
function difference(one: Schema['DifferenceOut'], what: string): string {
  if (one.same_share === 1) return `as many ${what}`
  const { middle } = one.over_all
  if (Math.round(middle) === 0) return `about as many ${what}`
  const sure = middle < 0 ? one.less_share : 1 - one.less_share - one.same_share
  return `${round(Math.abs(middle))} ${what} ${middle < 0 ? 'fewer' : 'more'} over all, so in ${certain(sure)}`
}
