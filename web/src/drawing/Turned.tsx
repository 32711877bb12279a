import type { KeyboardEvent, ReactNode } from 'react'

/** One turn of what was touched. */
export type Turn = (handle: string, to: string) => void

interface ValveProps {
  x: number
  y: number
  name: string
  state: string
  turn: [string, string]
  /** The handle lies along the pipe. */
  along: boolean
  onTurn: Turn
  /** Where its words stand. */
  words?: Place
}

type Place = 'above' | 'side' | 'below'

/** A valve, its handle along the pipe or across it, with what it is and how it stands. */
export function Valve({ x, y, name, state, turn, along, onTurn, words = 'above' }: ValveProps) {
  return (
    <Turned label={`${name}: ${state}. Turn it ${turn[1]}`} turn={turn} onTurn={onTurn}>
      <circle cx={x} cy={y} r="34" fill="transparent" />
      <circle cx={x} cy={y} r="17" className="fill-sheet stroke-ink" strokeWidth="2.5" />
      <path
        d={along ? `M${x - 12} ${y}h24` : `M${x} ${y - 12}v24`}
        className="stroke-copper"
        strokeWidth="5"
        strokeLinecap="round"
      />
      <Said x={x} y={y} place={words} name={name} state={state} />
    </Turned>
  )
}

interface SaidProps {
  x: number
  y: number
  name: string
  state: string
  place: Place
}

const OFF: Record<Place, { x: number; y: number; narrow: number; anchor: 'start' | 'middle' | 'end' }> = {
  above: { x: 0, y: -26, narrow: -46, anchor: 'middle' },
  side: { x: 46, y: 5, narrow: 1, anchor: 'start' },
  below: { x: 34, y: 38, narrow: 42, anchor: 'end' },
}

/** What it is and how it stands; on a telephone larger, over each other. */
function Said({ x, y, name, state, place }: SaidProps) {
  const off = OFF[place]
  const at = x + off.x
  return (
    <>
      <text x={at} y={y + off.y} textAnchor={off.anchor} className="fill-ink text-[13px] font-bold narrow:hidden">
        {name}: {state}
      </text>
      <text x={at} y={y + off.narrow} textAnchor={off.anchor} className="hidden fill-ink text-[20px] narrow:inline">
        {name}
        <tspan x={at} dy="20" className="font-bold">
          {state}
        </tspan>
      </text>
    </>
  )
}

interface TurnedProps {
  label: string
  turn: [string, string]
  onTurn: Turn
  children: ReactNode
}

/** What is turned by a touch or a key. */
export function Turned({ label, turn, onTurn, children }: TurnedProps) {
  const act = () => onTurn(turn[0], turn[1])
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      className="cursor-pointer outline-none [&:focus-visible>circle]:stroke-water [&:focus-visible>rect]:stroke-water"
      onClick={act}
      onKeyDown={(event: KeyboardEvent) => {
        if (event.key !== 'Enter' && event.key !== ' ') return
        event.preventDefault()
        act()
      }}
    >
      {children}
    </g>
  )
}
