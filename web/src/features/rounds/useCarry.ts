import { useQuery } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useRef, useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { placesOptions, positionsOptions, useMove } from '../../records/roundQueries'

type Visit = Schema['AppointmentOut']

/** Where a carried visit would be put down: a place on a round of the day, or the best one of another day. */
export interface Target {
  on: string
  member_id: number
  position: number | null
  begins: number
  driving: number
  ends: number | null
  faults: string[]
  lateness: string[]
  refused: boolean
}

type Under = { day: string } | { member_id: number; minutes: number }

interface Point {
  x: number
  y: number
}

interface Settings {
  on: string
  rounds: Schema['RoundOut'][]
  /** From which day other days are offered. */
  first: string
  may: boolean
  onMoved: (on: string) => void
}

export type Carry = ReturnType<typeof useCarry>

const LIFTED_AFTER = 6

/** A visit that is carried over the board, by the pointer or by keys, with what putting it down there would do. */
export function useCarry({ on, rounds, first, may, onMoved }: Settings) {
  const [visit, setVisit] = useState<Visit | null>(null)
  const [byKey, setByKey] = useState<Target | null>(null)
  const [under, setUnder] = useState<Under | null>(null)
  const [at, setAt] = useState<Point | null>(null)
  const [asked, setAsked] = useState<{ visit: Visit; target: Target } | null>(null)
  const pressed = useRef<{ visit: Visit; from: Point } | null>(null)
  const wasCarried = useRef(false)
  const move = useMove(onMoved)
  const positions = useQuery({
    ...positionsOptions(visit?.id ?? 0, visit?.version ?? 0, on),
    enabled: visit !== null,
  }).data
  const days = useQuery({
    ...placesOptions(visit?.id ?? 0, visit?.version ?? 0, first),
    enabled: visit !== null,
  }).data

  const onRope = (member_id: number, minutes: number): Target | null => {
    const own = (positions ?? []).filter((one) => one.member_id === member_id)
    if (own.length === 0) return null
    return { on, ...own.reduce((best, one) => (far(one, minutes) < far(best, minutes) ? one : best)) }
  }
  const onDay = (day: string): Target | null => (days ?? []).find((one) => one.on === day) ?? null
  // What lies under the pointer is told as soon as its cost is known, even if the pointer rests.
  const held =
    under === null
      ? null
      : 'day' in under
        ? under.day === on
          ? null
          : onDay(under.day)
        : onRope(under.member_id, under.minutes)
  const target = at ? held : byKey
  const here = (one: Target) =>
    visit !== null &&
    one.on === visit.on &&
    one.member_id === visit.member_id &&
    one.position ===
      rounds
        .find((each) => each.member_id === visit.member_id)
        ?.calls.findIndex((call) => call.appointment.id === visit.id)
  const end = () => {
    pressed.current = null
    setVisit(null)
    setByKey(null)
    setUnder(null)
    setAt(null)
  }
  const go = (carried: Visit, to: Target, override: boolean) => {
    setAsked({ visit: carried, target: to })
    move.mutate(
      {
        id: carried.id,
        version: carried.version,
        week: to.on,
        on: to.on,
        member_id: to.member_id,
        position: to.position,
        override,
        agreed: false,
        why: '',
      },
      { onSuccess: () => setAsked(null) },
    )
  }
  const drop = () => {
    if (visit && target && !target.refused && !here(target)) go(visit, target, false)
    end()
  }

  const onMove = useEffectEvent((event: PointerEvent) => {
    const held = pressed.current
    if (!held) return
    const point = { x: event.clientX, y: event.clientY }
    if (!wasCarried.current && Math.hypot(point.x - held.from.x, point.y - held.from.y) < LIFTED_AFTER) return
    if (!wasCarried.current) setVisit(held.visit)
    wasCarried.current = true
    setAt(point)
    setUnder(located(point))
  })
  const onUp = useEffectEvent(() => {
    if (!pressed.current) return
    pressed.current = null
    if (wasCarried.current) drop()
  })
  // What the system takes over, as a gesture of its own, is put down nowhere.
  const onCancel = useEffectEvent(() => {
    if (pressed.current) end()
  })
  // Carried by keys: they are the board's until it is put down.
  const onKey = useEffectEvent((event: KeyboardEvent) => {
    if (event.key === 'Escape') end()
    else if (at) return
    else if (event.key === 'Enter') drop()
    else if (event.key.startsWith('Arrow')) setByKey(stepped(event.key, target, positions ?? [], rounds, on))
    else return
    event.preventDefault()
    event.stopPropagation()
  })
  const isCarried = visit !== null
  useEffect(() => {
    const moving = (event: PointerEvent) => onMove(event)
    const up = () => onUp()
    const cancelled = () => onCancel()
    window.addEventListener('pointermove', moving)
    window.addEventListener('pointerup', up)
    window.addEventListener('pointercancel', cancelled)
    return () => {
      window.removeEventListener('pointermove', moving)
      window.removeEventListener('pointerup', up)
      window.removeEventListener('pointercancel', cancelled)
    }
  }, [])
  useEffect(() => {
    if (!isCarried) return
    const keyed = (event: KeyboardEvent) => onKey(event)
    window.addEventListener('keydown', keyed, true)
    return () => window.removeEventListener('keydown', keyed, true)
  }, [isCarried])

  return {
    visit,
    target,
    at,
    isHere: target !== null && here(target),
    /** Over another place of the day that is shown. */
    isOnBoard: target !== null && target.on === on && !here(target),
    byKeys: visit !== null && at === null,
    /** What it would break, asked once more. */
    breaks: move.error instanceof ApiError && move.error.code === 'rounds.breaks' ? asked : null,
    error: move.error,
    press: (one: Visit, from: Point) => {
      wasCarried.current = false
      if (may) pressed.current = { visit: one, from }
    },
    /** Whether the press that ends was a carrying, and no choice; a click by a key never was. */
    wasCarried: (click: { detail: number }) => click.detail > 0 && wasCarried.current,
    take: (one: Visit) => {
      if (!may) return
      setVisit(one)
      const round = rounds.find((each) => each.member_id === one.member_id)
      const call = round?.calls.find((each) => each.appointment.id === one.id)
      setByKey(null)
      if (call && one.member_id) setByKey(starting(one, call, round!.calls.indexOf(call), on))
    },
    again: () => asked && go(asked.visit, asked.target, true),
    leave: () => {
      setAsked(null)
      move.reset()
    },
  }
}

/** What lies under a point: a day's basin, or a round and the minute of the day. */
function located(at: Point): Under | null {
  for (const each of document.elementsFromPoint(at.x, at.y)) {
    const day = each.closest<HTMLElement>('[data-day]')?.dataset.day
    if (day) return { day }
    if (!(each instanceof SVGElement) || !each.dataset.member) continue
    const box = each.getBoundingClientRect()
    const [first, last] = [Number(each.dataset.first), Number(each.dataset.last)]
    const share = (at.y - box.top) / Math.max(box.height, 1)
    return { member_id: Number(each.dataset.member), minutes: first + share * (last - first) }
  }
  return null
}

const far = (one: { begins: number }, minutes: number) => Math.abs(one.begins - minutes)

function starting(visit: Visit, call: Schema['CallOut'], position: number, on: string): Target {
  return {
    on,
    member_id: visit.member_id!,
    position,
    begins: call.begins,
    driving: 0,
    ends: null,
    faults: [],
    lateness: [],
    refused: false,
  }
}

/** The next place by an arrow: up and down along a round, left and right to the time that is nearest on another. */
function stepped(
  key: string,
  now: Target | null,
  positions: Schema['PositionOut'][],
  rounds: Schema['RoundOut'][],
  on: string,
): Target | null {
  if (positions.length === 0) return now
  const from = now ?? { on, ...positions[0]! }
  const order = rounds.map((one) => one.member_id)
  const round = order.indexOf(from.member_id)
  if (key === 'ArrowUp' || key === 'ArrowDown') {
    const own = positions.filter((one) => one.member_id === from.member_id)
    const next = own[(from.position ?? 0) + (key === 'ArrowUp' ? -1 : 1)]
    return next ? { on, ...next } : from
  }
  const other = order[round + (key === 'ArrowLeft' ? -1 : 1)]
  const own = positions.filter((one) => one.member_id === other)
  if (own.length === 0) return from
  return { on, ...own.reduce((best, one) => (far(one, from.begins) < far(best, from.begins) ? one : best)) }
}
