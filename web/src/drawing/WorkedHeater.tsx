import clsx from 'clsx'
import { useId, type KeyboardEvent, type ReactNode } from 'react'

import type { Schema } from '../api/client'
import { shown, type Units } from '../lib/units'
import { Grains } from './Grains'

type Seen = Schema['SeenOut']
type Inside = Schema['InsideOut']

interface Props {
  seen: Seen
  /** The tank cut open; null leaves it shut. */
  inside: Inside | null
  fired: boolean
  units: Units
  /** One turn of what was touched. */
  onTurn: (handle: string, to: string) => void
}

const TANK = { x: 270, y: 118, wide: 176, tall: 300 }
const FLOOR = TANK.y + TANK.tall
const GROUND = 514

/**
 * A heater whose valves are turned by hand: what is open, lit and running, and the tank cut open where that is asked.
 */
export function WorkedHeater({ seen, inside, fired, units, onTurn }: Props) {
  const clip = useId()
  const grains = useId()
  const temperature = (value: number) => shown(units, 'temperature_c', value)
  return (
    <svg viewBox="0 0 720 546" className="h-full w-full" role="group" aria-label="The heater">
      <defs>
        <clipPath id={clip}>
          <rect x={TANK.x} y={TANK.y} width={TANK.wide} height={TANK.tall} rx="34" />
        </clipPath>
        <Grains id={grains} />
      </defs>
      <path d={`M10 ${GROUND}h700`} className="stroke-rule" strokeWidth="2" />
      {seen.floor_l > 0.3 && <Puddle litres={seen.floor_l} />}

      {/* Cold comes in on the left and goes down inside, hot leaves on the right. */}
      <path d="M24 62H318" className="stroke-water" strokeWidth="9" fill="none" />
      <path d={`M318 58V${TANK.y}`} className="stroke-water" strokeWidth="9" />
      <path d={`M400 ${TANK.y}V62H670`} className="stroke-copper" strokeOpacity="0.55" strokeWidth="9" fill="none" />

      <rect
        x={TANK.x - 9}
        y={TANK.y - 9}
        width={TANK.wide + 18}
        height={TANK.tall + 18}
        rx="42"
        className="fill-ochre-pale stroke-rule"
        fillOpacity="0.45"
      />
      <g clipPath={`url(#${clip})`}>
        <rect {...box} className="fill-sheet" />
        {inside ? (
          <Content inside={inside} grains={grains} fired={fired} words={temperature} />
        ) : (
          <text
            x={TANK.x + TANK.wide / 2}
            y={TANK.y + 150}
            textAnchor="middle"
            className="fill-soft text-[13px] narrow:text-[20px]"
          >
            <tspan x={TANK.x + TANK.wide / 2}>closed:</tspan>
            <tspan x={TANK.x + TANK.wide / 2} dy="18" className="narrow:hidden">
              read it from outside
            </tspan>
          </text>
        )}
      </g>
      <rect {...box} rx="34" fill="none" className="stroke-ink" strokeWidth="3" />

      {/* The relief valve, its pipe, and where it ends. */}
      <path d={`M${TANK.x + TANK.wide} 158h40`} className="stroke-rule" strokeWidth="8" />
      <path d={`M486 158V448`} className="stroke-rule" strokeWidth="8" />
      <ReliefEnd seen={seen} />
      <Stream x={486} y={452} runs={seen.relief_runs} />
      {seen.relief_bucket && <Bucket x={486} litres={seen.relief_bucket_l} words="" murky={0} />}

      <DrainEnd seen={seen} units={units} />
      {fired ? <Burner seen={seen} onTurn={onTurn} units={units} /> : <Breaker seen={seen} onTurn={onTurn} />}

      <Valve
        x={64}
        y={62}
        name="house main"
        state={seen.main_open ? 'open' : 'shut'}
        turn={['main', seen.main_open ? 'shut' : 'open']}
        along={seen.main_open}
        onTurn={onTurn}
      />
      <Valve
        x={190}
        y={62}
        name="cold"
        state={seen.cold_open ? 'open' : 'shut'}
        turn={['cold', seen.cold_open ? 'shut' : 'open']}
        along={seen.cold_open}
        onTurn={onTurn}
      />
      <Valve
        x={600}
        y={62}
        name="hot faucet"
        state={seen.tap_open ? 'open' : 'shut'}
        turn={['tap', seen.tap_open ? 'shut' : 'open']}
        along={seen.tap_open}
        onTurn={onTurn}
      />
      <path d="M666 58v30" className="stroke-copper" strokeOpacity="0.55" strokeWidth="9" />
      <Tap seen={seen} words={temperature} />
      <Valve
        x={466}
        y={158}
        name="relief lever"
        state={seen.lever_up ? 'up' : 'down'}
        turn={['lever', seen.lever_up ? 'down' : 'up']}
        along={!seen.lever_up}
        onTurn={onTurn}
        side
      />
      <Valve
        x={222}
        y={400}
        name="drain"
        state={seen.drain}
        turn={['drain', seen.drain === 'shut' ? 'open' : 'shut']}
        along={seen.drain !== 'shut'}
        onTurn={onTurn}
      />
    </svg>
  )
}

const box = { x: TANK.x, y: TANK.y, width: TANK.wide, height: TANK.tall }

interface ContentProps {
  inside: Inside
  grains: string
  fired: boolean
  words: (celsius: number) => string
}

/** Water by its warmth, layer over layer, and what lies on the floor. */
function Content({ inside, grains, fired, words }: ContentProps) {
  const up = (share: number) => FLOOR - share * TANK.tall
  const bed = inside.loose_share + inside.hard_share
  const layers = inside.layers.map((one, place) => ({ ...one, from: inside.layers[place - 1]?.to ?? 0 }))
  const top = layers.at(-1)
  return (
    <>
      {layers.map((one) => (
        <rect
          key={one.to}
          x={TANK.x}
          y={up(one.to)}
          width={TANK.wide}
          height={Math.max(up(one.from) - up(one.to), 0.5)}
          className={one.celsius > 35 ? 'fill-copper' : 'fill-water'}
          fillOpacity={one.celsius > 35 ? 0.12 + (one.celsius - 35) / 120 : 0.42 - one.celsius / 130}
        />
      ))}
      {!fired && (
        <>
          <Element share={0.7} burnt={inside.upper_burnt} />
          <Element share={0.12} burnt={inside.lower_burnt} />
        </>
      )}
      <path d={`M318 ${TANK.y}V${FLOOR - 30}`} className="stroke-rule" strokeWidth="3" />
      <rect x={TANK.x} y={up(bed)} width={TANK.wide} height={bed * TANK.tall + 2} fill={`url(#${grains})`} />
      {top && inside.share > 0.08 && (
        <text
          x={TANK.x + TANK.wide - 14}
          y={up(top.to) + 22}
          textAnchor="end"
          className="fill-ink text-[13px] narrow:text-[20px]"
        >
          {words(top.celsius)}
        </text>
      )}
      {layers[0] && top && top.celsius - layers[0].celsius > 3 && (
        <text
          x={TANK.x + TANK.wide - 14}
          y={up(bed) - 8}
          textAnchor="end"
          className="fill-ink text-[13px] narrow:text-[20px]"
        >
          {words(layers[0].celsius)}
        </text>
      )}
    </>
  )
}

const Element = ({ share, burnt }: { share: number; burnt: boolean }) => (
  <g>
    <rect
      x={TANK.x}
      y={FLOOR - share * TANK.tall - 5}
      width="118"
      height="10"
      rx="5"
      className={clsx('stroke-ink', burnt ? 'fill-oxide' : 'fill-ochre-pale')}
    />
    {burnt && (
      <path d={`M${TANK.x + 60} ${FLOOR - share * TANK.tall - 8}l8 16`} className="stroke-sheet" strokeWidth="3" />
    )}
  </g>
)

interface ValveProps {
  x: number
  y: number
  name: string
  state: string
  turn: [string, string]
  /** The handle lies along the pipe. */
  along: boolean
  onTurn: Props['onTurn']
  /** The words stand beside it. */
  side?: boolean
}

function Valve({ x, y, name, state, turn, along, onTurn, side = false }: ValveProps) {
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
      <Said x={side ? x + 46 : x} y={side ? y + 5 : y - 26} side={side} name={name} state={state} />
    </Turned>
  )
}

interface SaidProps {
  x: number
  y: number
  name: string
  state: string
  side: boolean
}

/** What it is and how it stands; on a telephone larger, over each other. */
function Said({ x, y, name, state, side }: SaidProps) {
  const anchor = side ? 'start' : 'middle'
  return (
    <>
      <text x={x} y={y} textAnchor={anchor} className="fill-ink text-[13px] font-bold narrow:hidden">
        {name}: {state}
      </text>
      <text x={x} y={side ? y - 4 : y - 20} textAnchor={anchor} className="hidden fill-ink text-[20px] narrow:inline">
        {name}
        <tspan x={x} dy="20" className="font-bold">
          {state}
        </tspan>
      </text>
    </>
  )
}

interface TurnedProps {
  label: string
  turn: [string, string]
  onTurn: Props['onTurn']
  children: ReactNode
}

function Turned({ label, turn, onTurn, children }: TurnedProps) {
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

function Tap({ seen, words }: { seen: Seen; words: (celsius: number) => string }) {
  if (seen.tap_runs === 'dry') return null
  return (
    <>
      <path
        d="M666 92V196"
        className="stroke-water"
        strokeWidth={seen.tap_runs === 'spits' ? 3 : 6}
        strokeDasharray={seen.tap_runs === 'spits' ? '4 14' : undefined}
        strokeOpacity="0.7"
      />
      <text x="654" y="150" textAnchor="end" className="fill-ink text-[13px] narrow:text-[20px]">
        {seen.tap_c === null ? 'it spits' : words(seen.tap_c)}
      </text>
    </>
  )
}

const Stream = ({ x, y, runs }: { x: number; y: number; runs: Seen['relief_runs'] }) =>
  runs === 'dry' ? null : (
    <path
      d={`M${x} ${y}V${GROUND - 4}`}
      className="stroke-water"
      strokeWidth={runs === 'runs' ? 8 : 2.5}
      strokeDasharray={runs === 'runs' ? undefined : '3 12'}
      strokeOpacity="0.75"
    />
  )

function ReliefEnd({ seen }: { seen: Seen }) {
  if (seen.outlet === '')
    return (
      <text x="498" y="420" className="fill-soft text-[12px] narrow:text-[20px]">
        its end: not looked at
      </text>
    )
  if (seen.outlet === 'capped')
    return (
      <>
        <rect x="476" y="444" width="20" height="10" rx="2" className="fill-oxide" />
        <text x="502" y="424" className="fill-oxide text-[13px] font-bold">
          capped
        </text>
      </>
    )
  return (
    <text x="498" y="420" className="fill-soft text-[12px] narrow:text-[20px]">
      {seen.outlet === 'open' ? 'ends over the floor' : 'ends over a floor drain'}
    </text>
  )
}

/** What screws on the drain, and where its water goes. */
function DrainEnd({ seen, units }: { seen: Seen; units: Units }) {
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

function Bucket({ x, litres, words, murky }: BucketProps) {
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

const Puddle = ({ litres }: { litres: number }) => (
  <ellipse
    cx="230"
    cy={GROUND + 2}
    rx={Math.min(40 + 18 * Math.sqrt(litres), 215)}
    ry="9"
    className="fill-water"
    fillOpacity="0.45"
  />
)

function Burner({ seen, onTurn, units }: { seen: Seen; onTurn: Props['onTurn']; units: Units }) {
  const next = { on: 'pilot', pilot: 'off', off: 'pilot' }[seen.dial] ?? 'pilot'
  const words = seen.dial === 'on' ? `dial: ${shown(units, 'temperature_c', seen.mark_c)}` : `dial: ${seen.dial}`
  return (
    <>
      <path d={`M${TANK.x + 20} 446h136v34H${TANK.x + 20}z`} className="fill-sheet stroke-ink" strokeWidth="2" />
      {seen.burns &&
        [0, 1, 2, 3, 4].map((place) => (
          <path
            key={place}
            d={`M${TANK.x + 44 + place * 22} 474q-8 -10 0 -24q8 14 0 24`}
            className="fill-water"
            fillOpacity="0.85"
          />
        ))}
      {seen.pilot_lit && !seen.burns && <path d="M358 476q-4 -5 0 -12q4 7 0 12" className="fill-water" />}
      <path d="M700 496H446" className="stroke-ochre-deep" strokeWidth="6" />
      <Valve
        x={640}
        y={496}
        name="gas"
        state={seen.gas_open ? 'open' : 'shut'}
        turn={['gas_cock', seen.gas_open ? 'shut' : 'open']}
        along={seen.gas_open}
        onTurn={onTurn}
      />
      <Turned label={`${words}. Turn it to ${next}`} turn={['dial', next]} onTurn={onTurn}>
        <rect x="416" y="456" width="58" height="52" rx="6" className="fill-slate stroke-ink" strokeWidth="2" />
        <circle cx="445" cy="482" r="17" className="fill-sheet stroke-ink" strokeWidth="2" />
        <path
          d={`M445 482L${{ on: '458 473', pilot: '445 467', off: '432 473' }[seen.dial] ?? '445 467'}`}
          className="stroke-copper"
          strokeWidth="4"
          strokeLinecap="round"
        />
        <text x="445" y="534" textAnchor="middle" className="fill-ink text-[13px] font-bold narrow:text-[20px]">
          {words}
        </text>
      </Turned>
    </>
  )
}

function Breaker({ seen, onTurn }: { seen: Seen; onTurn: Props['onTurn'] }) {
  const next = seen.breaker === 'on' ? 'locked' : 'on'
  const current = seen.burns ? 'current flows' : 'no current'
  return (
    <>
      <path d="M446 270H560V300M446 382H560V346" className="stroke-rule" strokeWidth="2.5" fill="none" />
      <Turned
        label={`breaker: ${seen.breaker}. ${next === 'locked' ? 'Turn it off and lock it' : 'Turn it on'}`}
        turn={['breaker', next]}
        onTurn={onTurn}
      >
        <rect x="534" y="296" width="52" height="54" rx="6" className="fill-sheet stroke-ink" strokeWidth="2.5" />
        <rect x="553" y={seen.breaker === 'on' ? 304 : 324} width="14" height="18" className="fill-ink" />
        {seen.breaker === 'locked' && <circle cx="560" cy="312" r="6" className="fill-oxide" />}
        <text x="598" y="320" className="fill-ink text-[13px] font-bold narrow:text-[20px]">
          breaker: {seen.breaker}
        </text>
      </Turned>
      <text x="598" y="342" className="fill-soft text-[12px] narrow:text-[20px]">
        {current}
      </text>
    </>
  )
}
