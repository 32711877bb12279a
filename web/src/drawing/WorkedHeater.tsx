import { useId } from 'react'

import type { Schema } from '../api/client'
import { shown, type Units } from '../lib/units'
import { Bucket, DrainEnd, drainName, OtherDrain } from './DrainEnd'
import { Grains } from './Grains'
import { BoilerSide, Breaker, Burner } from './HeatSource'
import { RodHead, RodOut } from './RodAtHand'
import { FLOOR, GROUND, TANK } from './tank'
import { TankInside, type Heats } from './TankInside'
import { Valve, type Turn } from './Turned'

type Seen = Schema['SeenOut']
type Inside = Schema['InsideOut']

interface Props {
  seen: Seen
  /** The tank cut open; null leaves it shut. */
  inside: Inside | null
  heats: Heats
  units: Units
  onTurn: Turn
}

/**
 * A heater whose valves are turned by hand: what is open, lit and running, and the tank cut open where that is asked.
 */
export function WorkedHeater({ seen, inside, heats, units, onTurn }: Props) {
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
      <HotPipe seen={seen} />

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
          <TankInside inside={inside} grains={grains} heats={heats} words={temperature} />
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
      {seen.at_drain && <OtherDrain seen={seen} onTurn={onTurn} />}
      {heats === 'burner' && <Burner seen={seen} onTurn={onTurn} units={units} />}
      {heats === 'elements' && <Breaker seen={seen} onTurn={onTurn} />}
      {heats === 'coil' && <BoilerSide seen={seen} onTurn={onTurn} units={units} />}
      <RodHead seen={seen} onTurn={onTurn} />
      {seen.rod === 'out' && <RodOut seen={seen} units={units} />}
      {seen.leaks && (
        <path
          d={`M${TANK.x + 120} ${FLOOR + 8}V${GROUND - 4}`}
          className="stroke-water"
          strokeWidth="3"
          strokeDasharray="3 10"
        />
      )}

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
        words="side"
      />
      <Valve
        x={222}
        y={400}
        name={drainName(seen, seen.at_drain)}
        state={seen.drain}
        turn={['drain', seen.drain === 'shut' ? 'open' : 'shut']}
        along={seen.drain !== 'shut'}
        words={seen.at_drain ? 'below' : 'above'}
        onTurn={onTurn}
      />
    </svg>
  )
}

const box = { x: TANK.x, y: TANK.y, width: TANK.wide, height: TANK.tall }

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

/** Off, it hangs beside the port that it left open. */
const HotPipe = ({ seen }: { seen: Seen }) => (
  <path
    d={seen.hot_pipe ? `M400 ${TANK.y}V62H670` : `M436 ${TANK.y - 24}V62H670`}
    className="stroke-copper"
    strokeOpacity="0.55"
    strokeWidth="9"
    fill="none"
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
