import { after, during, harms, held, type Held, type Step } from './interlock'
import {
  acted,
  either,
  elapsed,
  everything,
  leftAlone,
  possible,
  seen,
  unheard,
  unlike,
  wider,
  type Acts,
  type Guide,
  type State,
} from './state'

/** Where a visit stands after all that any devices tell of it: the server's own reading, event by event. */
export interface At {
  id: string
  procedure: string
  step: Step
}

export interface Event {
  kind: string
  step: string
  choice: number
  name: string
  of: string | null
  id: string
  device: string
  /** Seconds by the device's clock. */
  at: number
  /** Its place among what the server knows; null if that does not know it yet. */
  number: number | null
  known: number
  why: string
}

export interface Stand {
  left: At[]
  state: State
  ending: string
  /** The step whose last look proved nothing. */
  doubted: string
  /** The device on which the visit goes on. */
  leads: string
}

export const STEPS = ['done', 'skipped', 'deviation', 'override']
export const KINDS = [...STEPS, 'undo', 'settled', 'outside', 'found', 'took_over']

export const stepsOf = (guide: Guide, names: string[]): At[] =>
  names.flatMap((procedure) =>
    guide.procedures[procedure]!.steps.map((step) => ({ id: `${procedure}.${step.id}`, procedure, step })),
  )

/** A visit before its first event. */
export const begun = (guide: Guide): Stand =>
  settled(guide, { left: stepsOf(guide, guide.order), state: guide.start as State, ending: '', doubted: '', leads: '' })

const closingOf = (guide: Guide, ending: string) => stepsOf(guide, guide.endings[ending]!.closing)
const worth = (guide: Guide, at: At, state: State) => {
  const words = everything(guide, state)
  return possible(at.step.when, words) && possible(guide.procedures[at.procedure]!.when, words)
}

/** Without the steps at its head for which there is nothing to do. */
function settled(guide: Guide, stand: Stand): Stand {
  const first = stand.left.findIndex((at) => worth(guide, at, stand.state))
  return first === 0 ? stand : { ...stand, left: first < 0 ? [] : stand.left.slice(first) }
}

/** The steps to come for which there is something to do, as far as it is known by now. */
export const toCome = (guide: Guide, stand: Stand) => stand.left.filter((at) => worth(guide, at, stand.state))

export function stepNamed(guide: Guide, name: string): Step | undefined {
  const [procedure, own] = name.split('.')
  return guide.procedures[procedure!]?.steps.find((step) => step.id === own)
}

/** Fields that may be other than the visit is to leave them. */
export function doubtful(guide: Guide, stand: Stand): string[] {
  const leaves = stand.ending ? guide.endings[stand.ending]!.leaves : 'restored'
  if (leaves !== 'as_found') return unlike(guide, stand.state, guide.leaves[leaves]!)
  return Object.keys(guide.fields).filter(
    (field) =>
      !LEARNED.includes(field) &&
      !stand.state.words[field]!.every((word) => (guide.start.words[field] as string[]).includes(word)),
  )
}

const LEARNED = ['told', 'shut_off', 'discharge', 'pressure', 'relief_works']

/** Whether something at the heater may be other than it was found, and other than it is left that runs. */
export function wasTouched(guide: Guide, stand: Stand): boolean {
  const start = guide.start.words as Record<string, string[]>
  const wrong = unlike(guide, stand.state, guide.leaves.restored!).filter((field) => field in guide.fields)
  return wrong.some((field) => !stand.state.words[field]!.every((word) => start[field]!.includes(word)))
}

export const holding = (guide: Guide, stand: Stand): Held[] =>
  stand.left[0] ? held(guide, stand.left[0].step, stand.state) : []

function touched(guide: Guide, event: Event): string[] {
  if (event.kind === 'took_over') return event.choice ? Object.keys(guide.fields) : []
  if (event.kind === 'outside') return Object.keys(guide.outside.find((one) => one.name === event.name)?.widens ?? {})
  const step = STEPS.includes(event.kind) ? stepNamed(guide, event.step) : undefined
  if (!step) return []
  if (event.kind === 'deviation' && step.deviations[event.choice])
    return Object.keys(step.deviations[event.choice]!.sets)
  return [...Object.keys(step.sets), ...Object.keys(step.through), ...Object.keys(step.finds)]
}

/** All that the next event needs to know of those before it. */
interface Reckoned {
  event: Event
  fields: string[]
  was: Stand
  stand: Stand
  clocks: ReadonlyMap<string, { at: number; own: number }>
  newest: number
  looked: number
  /** The last step that was done or left, by its event's id. */
  last: string
}

const reckonings = new WeakMap<Guide, Reckoned[]>()

/**
 * Where a visit stands after events in the one order that all devices know. What was reckoned the last time is gone on
 * from, as far as the events are the same: a tap costs the same at the end of a long visit as at its beginning.
 */
export function folded(guide: Guide, events: Event[]): Stand {
  const known = reckonings.get(guide) ?? []
  // Where two devices tell of a visit, it matters which events the server has numbered by then.
  const alone = events.every((event) => event.device === events[0]!.device)
  const fields = Object.keys(events[0] ?? {}).filter((field) => !(alone && field === 'number')) as (keyof Event)[]
  const same = (one: Event, other: Event) => fields.every((field) => one[field] === other[field])
  const differs = events.findIndex((event, place) => !known[place] || !same(known[place].event, event))
  const reckoned = known.slice(0, differs < 0 ? events.length : differs)
  for (const event of events.slice(reckoned.length)) reckoned.push(reckon(guide, reckoned, event))
  reckonings.set(guide, reckoned)
  return reckoned.at(-1)?.stand ?? begun(guide)
}

function reckon(guide: Guide, earlier: Reckoned[], event: Event): Reckoned {
  const before = earlier.at(-1)
  const was = before?.stand ?? begun(guide)
  const newest = before?.newest ?? 0
  const clocks = new Map(before?.clocks)
  const [minutes, gap] = since(guide, clocks, event, newest, before !== undefined)
  const apart = new Set(
    earlier
      .filter(
        (one) => one.event.device !== event.device && (one.event.number === null || one.event.number > event.known),
      )
      .flatMap((one) => one.fields),
  )
  // A look that is taken again has been looked at since its step came up.
  const looked = gap + (was.doubted && was.doubted === event.step ? before!.looked : 0)
  const own = gap < guide.limits.look_s! ? gap : looked
  let last = before?.last ?? ''
  let stand: Stand
  if (event.kind === 'undo')
    stand = takenBack(
      guide,
      was,
      event,
      earlier.find((one) => one.event.id === event.of && STEPS.includes(one.event.kind)),
      last,
      minutes,
    )
  else if (event.kind === 'took_over') {
    let aged = elapsed(guide, was.state, minutes)
    if (event.choice)
      aged = unheard(
        guide,
        aged,
        stepsOf(guide, Object.keys(guide.procedures)).flatMap((at) => [
          ...Object.entries(at.step.through),
          ...Object.entries(at.step.sets),
        ]),
      )
    stand = { ...was, state: aged, leads: event.device }
  } else stand = afterEvent(guide, was, event, minutes, own, apart)
  if (STEPS.includes(event.kind)) {
    last = event.id
    if (!stand.leads) stand = { ...stand, leads: event.device }
  }
  return {
    event,
    fields: touched(guide, event),
    was,
    stand: settled(guide, stand),
    clocks,
    newest: Math.max(newest, event.at),
    looked,
    last,
  }
}

function since(
  guide: Guide,
  clocks: Map<string, { at: number; own: number }>,
  event: Event,
  newest: number,
  anyBefore: boolean,
): [number, number] {
  const known = clocks.get(event.device)
  if (!known) {
    clocks.set(event.device, { at: event.at, own: 0 })
    return [anyBefore ? Math.max(0, event.at - newest) / 60 + guide.limits.second_device_min! : 0, 0]
  }
  const gap = event.at - known.at
  if (gap === 0) return [0, known.own]
  const own = Math.max(gap, 0)
  clocks.set(event.device, { at: event.at, own })
  return [gap > 0 ? gap / 60 : guide.limits.backward_min!, own]
}

/** After at most so many minutes, at any moment of which the step's act may have been done. */
function aging(guide: Guide, state: State, step: Step, minutes: number): State {
  const acts = Object.keys(step.sets).length > 0
  const passes = Object.keys(step.through).length > 0
  let aged = state
  if (minutes > 0) {
    aged = elapsed(guide, state, minutes)
    for (const way of [passes && during(guide, step, state), acts && after(guide, step, state)]) {
      if (!way) continue
      const one = elapsed(guide, way, minutes)
      aged = { ...aged, level: wider(aged.level, one.level), hot_c: wider(aged.hot_c, one.hot_c) }
    }
  }
  return passes ? { ...aged, words: { ...aged.words, pressure: during(guide, step, aged).words.pressure! } } : aged
}

function setting(guide: Guide, state: State, sets: Acts, apart: Set<string>): State {
  const next = acted(guide, state, sets)
  const both = Object.keys(sets).filter((field) => apart.has(field))
  if (both.length === 0) return next
  const joined = either(guide, next, state)
  return {
    ...next,
    words: { ...next.words, ...Object.fromEntries(both.map((field) => [field, joined.words[field]!])) },
  }
}

function afterEvent(guide: Guide, was: Stand, event: Event, minutes: number, own: number, apart: Set<string>): Stand {
  const stand = { ...was, doubted: '' }
  if (event.kind === 'outside') return happened(guide, stand, event, minutes)
  if (event.kind === 'found') {
    const thing = guide.found.find((one) => one.name === event.name)
    return {
      ...stand,
      state: elapsed(guide, stand.state, minutes),
      left: [...stepsOf(guide, thing?.then ?? []), ...stand.left],
    }
  }
  const step = stepNamed(guide, event.step)
  if (!step) return stand
  const place = stand.left.findIndex((at) => at.id === event.step)
  if (event.kind === 'settled') {
    const way = held(guide, step, stand.state).find((one) => one.rule === event.name)?.way_out ?? []
    return { ...stand, state: elapsed(guide, stand.state, minutes), left: [...stepsOf(guide, way), ...stand.left] }
  }
  const aged = aging(guide, stand.state, step, minutes)
  if (event.kind === 'deviation') return deviation(guide, stand, event, step, place, aged, apart)
  const left = place < 0 ? stand.left : stand.left.toSpliced(place, 1)
  const reached = setting(guide, aged, step.sets, apart)
  if (event.kind === 'skipped') return { ...stand, left, state: either(guide, aged, reached) }
  if (step.ends) return { ...stand, left: closingOf(guide, step.ends), state: reached, ending: step.ends }
  if (Object.keys(step.proves).length + Object.keys(step.finds).length === 0) return { ...stand, left, state: reached }
  let [proven, believed] = seen(guide, acted(guide, reached, step.finds), step.proves)
  if (apart.size > 0 || own < step.least_s) [proven, believed] = [either(guide, reached, proven), false]
  if (believed) return { ...stand, left, state: proven }
  const at = { id: event.step, procedure: event.step.split('.')[0]!, step }
  return { ...stand, left: place < 0 ? left : [at, ...left], state: proven, doubted: event.step }
}

function deviation(
  guide: Guide,
  stand: Stand,
  event: Event,
  step: Step,
  place: number,
  aged: State,
  apart: Set<string>,
): Stand {
  const other = step.deviations[event.choice]
  if (!other) return stand
  const tried = Object.keys(step.sets).length > 0 ? either(guide, aged, acted(guide, aged, step.sets)) : aged
  const state = setting(guide, tried, other.sets, apart)
  if (other.ends) return { ...stand, left: closingOf(guide, other.ends), state, ending: other.ends }
  const left = other.instead && place >= 0 ? stand.left.toSpliced(place, 1) : stand.left
  return { ...stand, left: [...stepsOf(guide, other.then), ...left], state }
}

function happened(guide: Guide, stand: Stand, event: Event, minutes: number): Stand {
  let state = elapsed(guide, stand.state, minutes)
  const thing = guide.outside.find((one) => one.name === event.name)
  if (!thing) return { ...stand, state }
  const words = Object.entries(thing.widens).map(([field, to]): [string, string[]] => [
    field,
    [...new Set([...state.words[field]!, ...to])],
  ])
  state = acted(guide, state, Object.fromEntries(words))
  if (thing.away) state = leftAlone(guide, state)
  if (thing.ends) return { ...stand, left: closingOf(guide, thing.ends), state, ending: thing.ends }
  return { ...stand, left: [...stepsOf(guide, thing.then), ...stand.left], state }
}

/** What happens from outside by a reading. */
export function toldByReading(guide: Guide, reading: string, value: unknown) {
  if (typeof value !== 'number') return undefined
  const told = guide.outside.filter(
    (one) =>
      one.reading === reading && value >= one.at_least && possible(one.when, everything(guide, guide.start as State)),
  )
  return told.toSorted((one, other) => other.at_least - one.at_least)[0]
}

/** The record is taken back, not the valve: what the step set may be so or not. */
function takenBack(
  guide: Guide,
  stand: Stand,
  event: Event,
  known: Reckoned | undefined,
  last: string,
  minutes: number,
): Stand {
  const state = elapsed(guide, stand.state, minutes)
  const step = known && stepNamed(guide, known.event.step)
  if (!known || !step) return { ...stand, state, doubted: '' }
  const { was, event: back } = known
  const names = [
    ...Object.keys(step.sets),
    ...Object.keys(step.through),
    ...Object.keys(step.proves),
    ...Object.keys(step.finds),
    'pressure',
    'lock',
    'dead',
  ]
  for (const other of step.deviations) names.push(...Object.keys(other.sets))
  const words = Object.fromEntries(
    names.filter((name) => name in was.state.words).map((name) => [name, was.state.words[name]!]),
  )
  const next = either(guide, state, { ...was.state, words: { ...state.words, ...words } })
  if (event.of === last) return { ...stand, left: was.left, state: next, ending: was.ending, doubted: '' }
  return {
    ...stand,
    left: [{ id: back.step, procedure: back.step.split('.')[0]!, step }, ...stand.left],
    state: next,
    doubted: '',
  }
}

/** Whether undoing an event's act at the heater may hurt, as things stand by now. */
export function undoHurts(guide: Guide, stand: Stand, was: Stand, event: Pick<Event, 'step'>): boolean {
  const step = stepNamed(guide, event.step)
  if (!step) return false
  const sets = Object.fromEntries(Object.keys(step.sets).map((field) => [field, was.state.words[field]!]))
  return Object.entries(sets).some(([field, stood]) =>
    stood.some(
      (word) =>
        harms(
          guide,
          { through: {}, sets: { ...sets, [field]: [word, ...stood.filter((one) => one !== word)] } },
          stand.state,
        ).length > 0,
    ),
  )
}
