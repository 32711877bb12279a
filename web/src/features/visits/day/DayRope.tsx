import { useEffect, useRef } from 'react'

import type { Schema } from '../../../api/client'
import { clock } from '../../../lib/clock'

interface Props {
  round: Schema['RoundOut']
  chosen: number | undefined
  next: number | undefined
  onChoose: (id: number) => void
}

const WIDTH = 68
const WAVE = 'M0 10q17-8 34 0t34 0'

/** The day as a rope: what is done, where one is, and what is to come, each a knot to press. */
export function DayRope({ round, chosen, next, onChoose }: Props) {
  const knot = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    // Not in every browser, and nothing is lost without it.
    knot.current?.scrollIntoView?.({ block: 'nearest', inline: 'center' })
  }, [chosen])
  return (
    <ol aria-label="The day" className="flex overflow-x-auto pb-1">
      {(round.done ?? []).map((one) => (
        <li key={one.id} className="shrink-0 text-center" style={{ width: WIDTH }}>
          <Line>
            <rect x="20" y="2" width="28" height="16" rx="7" className="fill-copper" />
          </Line>
          <span className="block text-fine text-soft">{one.begins === null ? one.site : clock(one.begins)}</span>
          <span className="block text-fine text-moss-deep">
            done<span className="sr-only">: {one.site}</span>
          </span>
        </li>
      ))}
      {round.calls.map(({ appointment, begins }) => {
        const isChosen = appointment.id === chosen
        return (
          <li key={appointment.id} className="shrink-0" style={{ width: WIDTH }}>
            <button
              ref={isChosen ? knot : undefined}
              type="button"
              aria-pressed={isChosen}
              aria-label={`${clock(begins)}, ${appointment.site}${appointment.id === next ? ', next' : ''}`}
              onClick={() => onChoose(appointment.id)}
              className="min-h-12 w-full text-center"
            >
              <Line>
                <rect
                  x={isChosen ? 12 : 20}
                  y={isChosen ? -2 : 2}
                  width={isChosen ? 44 : 28}
                  height={isChosen ? 24 : 16}
                  rx={isChosen ? 10 : 7}
                  className={`fill-ground ${isChosen || appointment.id === next ? 'stroke-copper' : 'stroke-soft'}`}
                  strokeWidth={isChosen ? 3 : 2}
                />
              </Line>
              <span className={`block text-fine ${isChosen ? 'font-bold' : 'text-soft'}`}>{clock(begins)}</span>
            </button>
          </li>
        )
      })}
    </ol>
  )
}

function Line({ children }: { children: React.ReactNode }) {
  return (
    <svg width={WIDTH} height="28" viewBox={`0 -4 ${WIDTH} 28`} aria-hidden className="block overflow-visible">
      <path d={WAVE} fill="none" className="stroke-copper" strokeWidth="2.5" />
      {children}
    </svg>
  )
}
