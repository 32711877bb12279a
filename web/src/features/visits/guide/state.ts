import type { Schema } from '../../../api/client'

/**
 * What may be open, lit, full and hot at a heater, as the server's own reader reckons it. Both are held to the same
 * vectors; the words, bands and figures come with the guide, and no rule of the job is written here.
 */
export type Guide = Pick<
  Schema['GuideOut'],
  | 'facts'
  | 'start'
  | 'rates'
  | 'limits'
  | 'fields'
  | 'bands'
  | 'leaves'
  | 'order'
  | 'rules'
  | 'endings'
  | 'outside'
  | 'found'
  | 'procedures'
>
export type Words = Record<string, string[]>
export type Acts = Record<string, string[]>
export type Alternative = Record<string, string[]>
export type Condition = Alternative[]
export type Span = [low: number, high: number]

export interface State {
  words: Words
  level: Span
  hot_c: Span
}

const UNKNOWN = ['unknown']
const meets = (one: string[], other: string[]) => one.some((word) => other.includes(word))
const within = (one: string[], other: string[]) => one.every((word) => other.includes(word))
const only = (words: string[], word: string) => words.length === 1 && words[0] === word
const plus = (one: string[], other: string[]) => [...new Set([...one, ...other])]

export const mayFit = (one: Alternative, words: Words) =>
  Object.entries(one).every(([field, allowed]) => meets(words[field] ?? UNKNOWN, allowed))
const fits = (one: Alternative, words: Words) =>
  Object.entries(one).every(([field, allowed]) => within(words[field] ?? UNKNOWN, allowed))
/** Whether one alternative may hold. */
export const possible = (condition: Condition, words: Words) =>
  condition.length === 0 || condition.some((one) => mayFit(one, words))
/** Whether one alternative holds whatever is so. */
export const certain = (condition: Condition, words: Words) =>
  condition.length === 0 || condition.some((one) => fits(one, words))

function banded(guide: Guide, field: string, [low, high]: Span): string[] {
  const bands = guide.bands[field]!
  const last = bands.at(-1)!
  if (field === 'level' && low >= last.least) return [last.name]
  const found = bands.filter(
    ({ least, most }) => (low < most && high > least) || (low === high && (low === least || low === most)),
  )
  return (found.length ? found : bands).map((one) => one.name)
}

/** All fields in words, those that are told by low and high too. */
export function told(guide: Guide, state: State): Words {
  return { ...state.words, level: banded(guide, 'level', state.level), water: banded(guide, 'water', state.hot_c) }
}

/** What is reckoned of a thing is kept as long as the thing itself is: neither guide nor state ever changes. */
function keeping<Of extends object, Is>(reckon: (of: Of) => Is): (of: Of) => Is {
  const known = new WeakMap<Of, Is>()
  return (of) => {
    let is = known.get(of)
    if (is === undefined) known.set(of, (is = reckon(of)))
    return is
  }
}

const factsOf = keeping((guide: Guide): Words =>
  Object.fromEntries(Object.entries(guide.facts).map(([name, word]) => [name, [word]])),
)
const wordsOf = keeping((guide: Guide) =>
  keeping((state: State): Words => ({ ...factsOf(guide), ...told(guide, state) })),
)
/** Heater, technician and state together. */
export const everything = (guide: Guide, state: State): Words => wordsOf(guide)(state)

/** After at most so many minutes in which nobody of us did anything. */
export function elapsed(guide: Guide, state: State, minutes: number): State {
  if (minutes <= 0) return state
  const { rates, limits } = guide
  const may = (field: string, ...words: string[]) => meets(state.words[field]!, words)
  const supplied = only(state.words.cold!, 'open')
  const drawn = may('tap', 'open') || !only(state.words.told!, 'yes')
  const airtight = !(drawn || may('relief', 'open') || may('air', 'open') || may('union', 'loose'))
  let [low, high] = state.level
  if ((may('drain', 'open', 'drips') || may('ports', 'bottom', 'element')) && !(supplied && airtight)) {
    low = Math.max(0, low - rates.drains_per_min! * minutes)
  }
  if (!supplied) {
    if (may('relief', 'open') || may('ports', 'high')) low = Math.min(low, guide.bands.level![1]!.most)
    if (drawn || may('air', 'open') || may('union', 'loose')) low = Math.min(low, limits.head_share!)
  }
  if (may('cold', 'open', 'passing')) high = Math.min(1, high + rates.fills_per_min! * minutes)
  let [coldest, hottest] = state.hot_c
  const share = may('energy', 'on') ? 1 : may('energy', 'pilot') ? limits.pilot_share! : 0
  if (share) {
    const rise = (share * rates.heats_c_per_min! * minutes) / Math.max(low, limits.least_share!)
    hottest = Math.max(hottest, Math.min(rates.hottest_c!, hottest + rise))
  }
  if (may('cold', 'open', 'passing') || minutes >= limits.away_min!) coldest = Math.min(coldest, rates.coldest_c!)
  const aged: State = { words: state.words, level: [low, high], hot_c: [coldest, hottest] }
  return minutes >= limits.away_min! ? leftAlone(guide, aged) : aged
}

/** After others were alone with it. */
export function leftAlone(guide: Guide, state: State): State {
  const { words } = state
  const tagged = only(words.tag!, 'yes')
  const wider: Words = { told: ['no'] }
  if (!tagged && !only(words.lock!, 'yes')) {
    wider.energy = plus(words.energy!, ['on'])
    if (!only(words.gas!, 'none')) wider.gas = plus(words.gas!, ['open'])
  }
  if (!tagged) {
    wider.cold = plus(words.cold!, ['open'])
    wider.tap = plus(words.tap!, ['open'])
  }
  return pressed(guide, { ...state, words: { ...words, ...wider } })
}

/** After any of these acts may have been done that we were not told of. */
export function unheard(guide: Guide, state: State, acts: [string, string[]][]): State {
  const words = { ...state.words }
  for (const [field, to] of acts) words[field] = plus(words[field]!, to)
  words.told = plus(words.told!, ['no'])
  return pressed(guide, { words, level: [0, 1], hot_c: state.hot_c })
}

/** After an act at valves and parts. */
export function acted(guide: Guide, state: State, sets: Acts): State {
  if (Object.keys(sets).length === 0) return state
  const words = { ...state.words, ...sets }
  if (!only(words.energy!, 'off')) {
    const off = words.energy!.includes('off')
    words.lock = off ? plus(words.lock!, ['no']) : ['no']
    words.dead = off ? plus(words.dead!, ['no']) : ['no']
  }
  return pressed(guide, { ...state, words })
}

function pressed(guide: Guide, state: State): State {
  const { words } = state
  const open = ['drain', 'tap', 'relief', 'air']
  let pressure = words.pressure!
  if (only(words.cold!, 'open')) pressure = ['on']
  else {
    if (meets(words.cold!, ['open', 'passing'])) pressure = plus(pressure, ['on'])
    if (open.some((one) => words[one]!.includes('open'))) pressure = plus(pressure, ['off'])
    if (only(words.cold!, 'shut') && open.some((one) => only(words[one]!, 'open'))) pressure = ['off']
  }
  return { ...state, words: inOrder(guide, { ...words, pressure }) }
}

/** The words of each field in the guide's order, so that two states can be compared. */
function inOrder(guide: Guide, words: Words): Words {
  return Object.fromEntries(
    Object.entries(guide.fields).map(([field, every]) => [field, every.filter((one) => words[field]!.includes(one))]),
  )
}

/** After a look that shows these words; and whether it can be true. */
export function seen(guide: Guide, state: State, proves: Acts): [State, boolean] {
  const words = { ...state.words }
  let { level, hot_c: hot } = state
  let believed = true
  for (const [field, shown] of Object.entries(proves)) {
    if (field in guide.bands) {
      const [span, can] = narrowed(guide, field, field === 'level' ? level : hot, shown)
      believed &&= can
      if (field === 'level') level = span
      else hot = span
      continue
    }
    const both = words[field]!.filter((word) => shown.includes(word))
    believed &&= both.length > 0
    words[field] = both.length ? both : plus(words[field]!, shown)
  }
  return [{ words: inOrder(guide, words), level, hot_c: hot }, believed]
}

function narrowed(guide: Guide, field: string, span: Span, shown: string[]): [Span, boolean] {
  const bands = guide.bands[field]!.filter((one) => shown.includes(one.name))
  let least = Math.min(...bands.map((one) => one.least))
  let most = Math.max(...bands.map((one) => one.most))
  if (field === 'water' && shown.length === 1 && shown[0] === 'cool') most = guide.limits.cooled_c!
  if (field === 'level' && shown.length === 1 && shown[0] === 'full') least = 1
  const low = Math.max(span[0], least)
  const high = Math.min(span[1], most)
  return low <= high ? [[low, high], true] : [[Math.min(span[0], least), Math.max(span[1], most)], false]
}

const hull = (one: Span, other: Span): Span => [Math.min(one[0], other[0]), Math.max(one[1], other[1])]

/** What may be where nobody knows which of two states is so. */
export function either(guide: Guide, one: State, other: State): State {
  const words = Object.fromEntries(
    Object.keys(guide.fields).map((field) => [field, plus(one.words[field]!, other.words[field]!)]),
  )
  return { words: inOrder(guide, words), level: hull(one.level, other.level), hot_c: hull(one.hot_c, other.hot_c) }
}

export const wider = hull

/** Fields that may be other than they are to be left. */
export function unlike(guide: Guide, state: State, leaves: Acts): string[] {
  const words = told(guide, state)
  return Object.entries(leaves)
    .filter(([field, allowed]) => !within(words[field]!, allowed))
    .map(([field]) => field)
}

export const isWithin = within
