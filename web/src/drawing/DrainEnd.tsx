import type { Schema } from '../api/client'
import { shown, type Units } from '../lib/units'
import { Turned, type Turn } from './Turned'
import { GROUND, TANK } from './tank'

type Seen = Schema['SeenOut']

const SIDES = { left: 'right', right: 'left' } as const

/** A drain by its side, and by whose it is once somebody followed its pipe. */
export function drainName(seen: Seen, side: Seen['at_drain']): string {
  if (!side) return 'drain'
  if (!seen.tank_drain) return `${side} drain`
  return side === seen.tank_drain ? "tank's drain" : "boiler's drain"
}

/** Of two drains side by side, the one at which the hands are not. */
export function OtherDrain({ seen, onTurn }: { seen: Seen; onTurn: Turn }) {
  const side = SIDES[seen.at_drain || 'left']
  return (
    <>
      <path d="M246 338V400" className="stroke-rule" strokeWidth="9" />
      <path d="M246 338H210" className="stroke-rule" strokeWidth="9" />
      <Turned label={`${drainName(seen, side)}: go to it`} turn={['at_drain', side]} onTurn={onTurn}>
        <circle cx="204" cy="338" r="22" fill="transparent" />
        <circle cx="204" cy="338" r="13" className="fill-sheet stroke-ash" strokeWidth="2.5" />
        <text x="182" y="334" textAnchor="end" className="fill-ink text-[13px] narrow:text-[20px]">
          {drainName(seen, side)}
          <tspan x="182" dy="16" className="fill-soft text-[12px] narrow:text-[18px]">
            go to it
          </tspan>
        </text>
      </Turned>
    </>
  )
}

/** What screws on the drain, and where its water goes. */
export function DrainEnd({ seen, units }: { seen: Seen; units: Units }) {
  const murk = Math.min(seen.murk_g_l / 6, 1)
  const flows = seen.drain_runs !== 'dry'
  const hose = 'M190 400H150Q120 400 120 430V494'
  return (
    <>
      <path d={`M${TANK.x} 400H196`} className="stroke-rule" strokeWidth="9" />
      {seen.hose && (
        <>
          <path d={hose} className="stroke-slate" strokeWidth="11" fill="none" strokeLinecap="round" />
          {seen.drain_runs === 'runs' && (
            <path
              d={hose}
              className={murk > 0.15 ? 'stroke-ochre' : 'stroke-water-pale'}
              strokeWidth="5"
              strokeDasharray="12 9"
              fill="none"
            />
          )}
          {seen.hose_in === 'bucket' ? (
            <Bucket x={120} litres={seen.bucket_l} murky={murk} words={shown(units, 'small_volume_l', seen.bucket_l)} />
          ) : (
            <text x="120" y="534" textAnchor="middle" className="fill-soft text-[12px] narrow:text-[20px]">
              into the floor drain
            </text>
          )}
        </>
      )}
      {seen.cap && <rect x="180" y="390" width="16" height="20" rx="3" className="fill-slate" />}
      {seen.gauge && <Gauge kpa={seen.gauge_kpa ?? 0} words={shown(units, 'pressure_kpa', seen.gauge_kpa ?? 0)} />}
      {!seen.hose && flows && (
        <path
          d={`M190 404V${GROUND - 4}`}
          className={murk > 0.15 ? 'stroke-ochre' : 'stroke-water'}
          strokeWidth={seen.drain_runs === 'runs' ? 8 : 2.5}
          strokeDasharray={seen.drain_runs === 'runs' ? undefined : '3 12'}
        />
      )}
    </>
  )
}

function Gauge({ kpa, words }: { kpa: number; words: string }) {
  const angle = (-120 + Math.min(Math.max(kpa, 0) / 1400, 1) * 240) * (Math.PI / 180)
  return (
    <g aria-label={`Gauge: ${words}`} role="img">
      <path d="M190 400h-26v-8" className="stroke-rule" strokeWidth="6" fill="none" />
      <circle cx="150" cy="352" r="38" className="fill-sheet stroke-ink" strokeWidth="2.5" />
      <path
        d={`M150 352L${150 + 28 * Math.sin(angle)} ${352 - 28 * Math.cos(angle)}`}
        className="stroke-oxide"
        strokeWidth="3"
        strokeLinecap="round"
      />
      <text x="150" y="380" textAnchor="middle" className="fill-ink text-[12px] narrow:text-[20px]">
        {words}
      </text>
    </g>
  )
}

interface BucketProps {
  x: number
  litres: number
  words: string
  /** 0 clear to 1. */
  murky: number
}

export function Bucket({ x, litres, words, murky }: BucketProps) {
  const full = Math.min(litres / 15, 1)
  const half = 20 - 5 * (1 - full)
  return (
    <>
      <path
        d={`M${x - half} ${GROUND - 30 * full}L${x - 15} ${GROUND - 2}h30L${x + half} ${GROUND - 30 * full}z`}
        className={murky > 0.15 ? 'fill-ochre' : 'fill-water-pale'}
      />
      <path
        d={`M${x - 22} ${GROUND - 36}L${x - 16} ${GROUND - 1}h32L${x + 22} ${GROUND - 36}`}
        className="stroke-ink"
        strokeWidth="2.5"
        fill="none"
      />
      <text x={x} y="534" textAnchor="middle" className="fill-soft text-[12px] narrow:text-[20px]">
        {words}
      </text>
    </>
  )
}
