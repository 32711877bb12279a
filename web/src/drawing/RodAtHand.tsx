import type { Schema } from '../api/client'
import { shown, type Units } from '../lib/units'
import { TANK } from './tank'
import { Turned, type Turn } from './Turned'

type Seen = Schema['SeenOut']

/** The rod's port at the top: its head, or none, or the open hole. */
export function RodHead({ seen, onTurn }: { seen: Seen; onTurn: Turn }) {
  const y = TANK.y - 9
  if (seen.rod === 'out') return <path d={`M344 ${y}h28`} className="stroke-oxide" strokeWidth="4" />
  const turn: [string, string] = seen.rod === 'loose' ? ['rod', 'out'] : ['rod', 'cracked']
  const does = seen.rod === 'loose' ? 'Take it out' : 'Crack it loose'
  return (
    <Turned label={`rod: ${seen.rod}. ${does}`} turn={turn} onTurn={onTurn}>
      <circle cx="358" cy={y - 6} r="16" fill="transparent" />
      <path
        d={seen.rod_head === 'none' ? `M346 ${y}v-6h24v6z` : `M344 ${y}l4 -12h20l4 12z`}
        className="fill-slate stroke-ink"
        strokeWidth="2"
      />
      <text x="358" y={y - 18} textAnchor="middle" className="fill-ink text-[12px] narrow:text-[18px]">
        {seen.rod === 'loose' ? 'rod: loose' : 'rod'}
      </text>
    </Turned>
  )
}

/** A rod that is out, beside the tank: thick where it is left, wire where it is gone. */
export function RodOut({ seen, units }: { seen: Seen; units: Units }) {
  const [top, tall] = [112, 190]
  const bare = Math.min((seen.rod_bare_mm ?? 0) / 1000, 1) * tall
  const half = Math.max(((seen.rod_thick_mm ?? 0) / 21) * 8, 2)
  const thick = shown(units, 'length_mm', seen.rod_thick_mm ?? 0)
  const wire = shown(units, 'length_mm', seen.rod_bare_mm ?? 0)
  const below = top + tall - bare
  const tip = bare > 0 ? `V${below - 18}L73 ${below}h-2L${72 - half} ${below - 18}V${top}z` : `V${below}h-${2 * half}z`
  return (
    <g role="img" aria-label={`The rod, out: ${thick} thick, wire bare on ${wire}`}>
      <rect x="58" y={top - 10} width="28" height="10" className="fill-slate stroke-ink" strokeWidth="1.5" />
      <path d={`M72 ${top}v${tall}`} className="stroke-ink" strokeWidth="2" />
      <path d={`M${72 - half} ${top}h${2 * half}${tip}`} className="fill-slate" fillOpacity="0.8" />
      <text x="98" y={top + 24} className="fill-ink text-[13px] narrow:text-[20px]">
        {thick} thick
        <tspan x="98" dy="18">
          {bare > 0 ? `bare: ${wire}` : 'no wire shows'}
        </tspan>
      </text>
    </g>
  )
}
