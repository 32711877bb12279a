import type { Schema } from '../api/client'

/** Grains by how much came out; fixed, so that two people compare with the same picture. */
const GRAINS: Record<Schema['Removed'], number> = { none: 0, trace: 5, moderate: 26, heavy: 70, blocked: 120 }

/** All grains as one line: a hundred circles a picture take a telephone longer than the tap may. */
const GRAINS_DRAWN = Object.fromEntries(
  Object.keys(GRAINS).map((removed) => [removed, grains(removed as Schema['Removed'])]),
)

function grains(removed: Schema['Removed']): string {
  const deep = { none: 0, trace: 4, moderate: 11, heavy: 21, blocked: 33 }[removed]
  return Array.from({ length: GRAINS[removed] }, (_, at) => {
    // A low-discrepancy sequence spreads the grains evenly without chance.
    const across = (at * 0.7548777 + 0.31) % 1
    const down = (at * 0.5698403 + 0.17) % 1
    const y = 41 - down * deep
    const half = 15 + ((42 - y) / 36) * 5
    const r = 1.3 + ((at * 7) % 3) * 0.5
    const x = 28 + (across * 2 - 1) * (half - 2.5)
    return `M${(x - r).toFixed(1)} ${y.toFixed(1)}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`
  }).join('')
}

export function BucketPicture({ removed }: { removed: Schema['Removed'] }) {
  return (
    <svg viewBox="0 0 56 46" className="h-12 w-full" aria-hidden>
      <path d={GRAINS_DRAWN[removed]} className="fill-ochre" />
      <path d="M7 6l5.5 37h31L49 6" className="fill-none stroke-current" strokeWidth="2" />
    </svg>
  )
}

const ROD_LEFT: Record<Schema['RodGrade'], number> = {
  like_new: 0.97,
  worn: 0.72,
  half: 0.47,
  mostly_gone: 0.2,
  gone: 0,
}

export function RodPicture({ grade }: { grade: Schema['RodGrade'] }) {
  const left = ROD_LEFT[grade]
  const whole = 3 + 40 * Math.max(left - 0.1, 0)
  const taper = 3 + 40 * Math.min(left + 0.12, 1)
  const half = 2 + 5 * left
  return (
    <svg viewBox="0 0 56 50" className="h-12 w-full" aria-hidden>
      <line x1="28" x2="28" y1="3" y2="47" className="stroke-current" strokeWidth="1.6" />
      {left > 0 && (
        <path
          d={`M${28 - half} 3V${whole}L${28 - half * 0.4} ${taper}H${28 + half * 0.4}L${28 + half} ${whole}V3Z`}
          className="fill-current"
        />
      )}
      <rect x="20" y="0" width="16" height="5" className="fill-current" />
    </svg>
  )
}

export function ValvePicture({ outcome }: { outcome: Schema['ValveOutcome'] }) {
  const drops = { flows_and_reseats: 0, flows_and_weeps: 2, no_flow: 0, not_tested: 0 }[outcome]
  return (
    <svg viewBox="0 0 64 40" className="h-10 w-14 shrink-0" aria-hidden>
      <path d="M6 16h22v12H6z" className="fill-none stroke-current" strokeWidth="2" />
      <path
        d={outcome === 'not_tested' ? 'M10 16V11h20' : 'M10 16L28 4'}
        className="fill-none stroke-current"
        strokeWidth="2.6"
      />
      <path d="M28 22h10v14" className="fill-none stroke-current" strokeWidth="2" />
      {outcome === 'flows_and_reseats' && (
        <path d="M44 20l5 6 10-13" className="fill-none stroke-moss-deep" strokeWidth="3" />
      )}
      {outcome === 'no_flow' && <path d="M45 13l13 13m0-13L45 26" className="stroke-oxide" strokeWidth="3" />}
      {Array.from({ length: drops }, (_, at) => (
        <path key={at} d={`M${46 + 9 * at} 14q5 8 0 12q-5-4 0-12`} className="fill-water" />
      ))}
    </svg>
  )
}
