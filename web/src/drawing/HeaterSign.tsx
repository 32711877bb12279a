import { useId } from 'react'

import type { Schema } from '../api/client'

interface Props {
  kind: Schema['HeaterKind']
  /** Deposit as a share of its limit; null where nothing is known. */
  depthShare: number | null
  anodeLeft: number | null
  height: number
}

export function isTank(kind: Schema['HeaterKind']): boolean {
  return kind.endsWith('_tank')
}

/** The sign by which a heater is known: its section, small, with deposit and rod as they are believed to be. */
export function HeaterSign({ kind, depthShare, anodeLeft, height }: Props) {
  const share = Math.min(depthShare ?? 0, 2)
  return (
    <svg width={height * 0.7} height={height} viewBox="0 0 21 30" aria-hidden className="shrink-0">
      {isTank(kind) ? <Tank share={share} anodeLeft={anodeLeft} /> : <Exchanger share={share} />}
    </svg>
  )
}

function Tank({ share, anodeLeft }: { share: number; anodeLeft: number | null }) {
  // At its limit the deposit is drawn a fifth of the tank deep, and never more than two fifths.
  const deep = 5.2 * share
  const clip = useId()
  return (
    <>
      <rect x="1.2" y="1.2" width="18.6" height="27.6" rx="5.5" className="fill-water-pale" />
      <clipPath id={clip}>
        <rect x="1.2" y="1.2" width="18.6" height="27.6" rx="5.5" />
      </clipPath>
      <rect x="1" y={28.8 - deep} width="19" height={deep + 1} className="fill-ochre" clipPath={`url(#${clip})`} />
      {anodeLeft !== null && (
        <>
          <line x1="10.5" x2="10.5" y1="2" y2="19" className="stroke-slate" strokeWidth="0.7" />
          <line
            x1="10.5"
            x2="10.5"
            y1="2"
            y2={2 + 16 * Math.max(anodeLeft, 0.04)}
            className="stroke-slate"
            strokeWidth="2.4"
          />
        </>
      )}
      <rect x="1.2" y="1.2" width="18.6" height="27.6" rx="5.5" className="fill-none stroke-ink" strokeWidth="1.5" />
    </>
  )
}

function Exchanger({ share }: { share: number }) {
  const passage = 'M6 24V9a2.4 2.4 0 0 1 4.8 0v11a2.4 2.4 0 0 0 4.8 0V6'
  return (
    <>
      <rect x="1.2" y="1.2" width="18.6" height="27.6" rx="2.5" className="fill-sheet stroke-ink" strokeWidth="1.5" />
      <path d={passage} className="fill-none stroke-ochre" strokeWidth="4.6" />
      <path d={passage} className="fill-none stroke-water-pale" strokeWidth={Math.max(4.2 - 1.7 * share, 0.9)} />
      <path d={passage} className="fill-none stroke-water" strokeWidth="0.8" />
    </>
  )
}
