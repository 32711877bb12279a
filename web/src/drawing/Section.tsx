import { useId } from 'react'

import type { Schema } from '../api/client'
import { shown, type Units } from '../lib/units'
import { isTank } from './HeaterSign'
import { Grains } from './Grains'

interface Props {
  heater: Schema['HeaterOut']
  forecasts: Schema['ForecastOut'][]
  units: Units
  height: number
}

type Spread = Schema['SpreadOut']

const WIDTH = 326
const TANK_X = 106

/**
 * The heater cut open, to scale in height: deposit as deep as it is believed to be, the rod as thick as it still is.
 */
export function Section({ heater, forecasts, units, height }: Props) {
  return isTank(heater.kind) ? (
    <TankSection heater={heater} forecasts={forecasts} units={units} height={height} />
  ) : (
    <ExchangerSection forecasts={forecasts} units={units} height={height} />
  )
}

function TankSection({ heater, forecasts, units, height }: Props) {
  const clip = useId()
  const grains = useId()
  const of = (component: Schema['Component']) => forecasts.find((one) => one.component === component)
  const tall = heater.height_mm ?? 1250
  const wide = heater.diameter_mm ?? 520
  const top = 34
  const scale = (height - top - 26) / tall
  const tankHeight = tall * scale
  const tankWidth = Math.min(wide * scale, 96)
  const floor = top + tankHeight
  const fired = heater.kind === 'gas_tank' || heater.kind === 'mobile_tank'
  const depth = of('sediment')?.state.depth_mm
  const left = of('anode')?.state.fraction_left
  const stuck = of('relief_valve')?.state.probability_stuck
  const drainPort = heater.drain_port_height_mm ?? 50
  const up = (mm: number) => floor - mm * scale
  const right = TANK_X + tankWidth
  const middle = TANK_X + tankWidth / 2
  // Deposit of a few millimetres would be a hairline: its depth is drawn four times too large, and says so.
  const deposit = (mm: number) => Math.min(mm * scale * 4, tankHeight * 0.7)
  const rodX = middle + tankWidth * 0.22
  const rodLength = tankHeight * 0.78
  const ends = {
    anode: top + rodLength * 0.45,
    valve: top + 34,
    port: up(drainPort),
    deposit: depth ? floor - deposit(depth.p50) / 2 : floor,
  }
  // Labels beside one another are pushed apart.
  const portLabel = Math.min(ends.port, floor - 12)
  return (
    <svg width={WIDTH} height={height} role="img" aria-label={described(depth, left, stuck, units)}>
      <defs>
        <clipPath id={clip}>
          <rect x={TANK_X} y={top} width={tankWidth} height={tankHeight} rx={24} />
        </clipPath>
        <Grains id={grains} />
      </defs>
      <rect
        x={TANK_X - 10}
        y={top - 10}
        width={tankWidth + 20}
        height={tankHeight + (fired ? 34 : 20)}
        rx={28}
        className="fill-line/50 stroke-rule"
        strokeWidth="1"
      />
      <g clipPath={`url(#${clip})`}>
        <rect x={TANK_X} y={top} width={tankWidth} height={tankHeight} className="fill-water-pale" />
        {depth && (
          <>
            <rect
              x={TANK_X}
              width={tankWidth}
              y={floor - deposit(depth.p90)}
              height={deposit(depth.p90)}
              className="fill-ochre-pale"
            />
            <rect
              x={TANK_X}
              width={tankWidth}
              y={floor - deposit(depth.p50)}
              height={deposit(depth.p50)}
              fill={`url(#${grains})`}
            />
          </>
        )}
      </g>
      {fired && (
        <rect
          x={middle - 9}
          y={top - 20}
          width={18}
          height={tankHeight + 20}
          className="fill-ground stroke-rule"
          strokeWidth="1"
        />
      )}
      <rect
        x={TANK_X}
        y={top}
        width={tankWidth}
        height={tankHeight}
        rx={24}
        className="fill-none stroke-ink"
        strokeWidth="2.4"
      />
      {fired && (
        <path
          d={`M${middle - 16} ${floor + 18}q4-14 8 0q4-16 8 0q4-16 8 0q4-14 8 0`}
          className="fill-none stroke-copper"
          strokeWidth="1.8"
        />
      )}
      <path d={`M${TANK_X + tankWidth * 0.2} ${top - 22}V${up(60)}`} className="stroke-ink" strokeWidth="6" />
      <path d={`M${TANK_X + tankWidth * 0.2} ${top - 22}V${up(62)}`} className="stroke-sheet" strokeWidth="3.4" />
      {left && (
        <>
          <line x1={rodX} x2={rodX} y1={top + 2} y2={top + rodLength} className="stroke-slate" strokeWidth="1.4" />
          <path d={rod(rodX, top + 2, rodLength, left.p50)} className="fill-slate" />
        </>
      )}
      {heater.lower_element_height_mm && (
        <path
          d={`M${TANK_X} ${up(heater.lower_element_height_mm)}h${tankWidth * 0.62}v5h-${tankWidth * 0.62}`}
          className="fill-none stroke-copper"
          strokeWidth="2.2"
        />
      )}
      {heater.probe_height_mm && (
        <path
          d={`M${TANK_X} ${up(heater.probe_height_mm)}h${tankWidth * 0.3}`}
          className="stroke-copper"
          strokeWidth="4"
        />
      )}
      <path d={`M${right - 3} ${ends.valve - 5}h16v10h-16z`} className="fill-sheet stroke-ink" strokeWidth="1.4" />
      <path d={`M${right + 13} ${ends.valve}h7V${floor - 6}`} className="fill-none stroke-ink" strokeWidth="2" />
      <path d={`M${right - 3} ${ends.port - 4}h14v8h-14z`} className="fill-sheet stroke-ink" strokeWidth="1.4" />

      {left && (
        <Label
          side="right"
          x={right}
          y={ends.anode}
          from={rodX}
          name="anode"
          value={`${Math.round(left.p50 * 100)} % left`}
        />
      )}
      <Label
        side="right"
        x={right}
        y={ends.valve - 14}
        from={right + 6}
        name="relief valve"
        value={stuck ? valveWords(stuck.p50) : ''}
      />
      <Label
        side="right"
        x={right}
        y={portLabel}
        from={right + 11}
        name="drain port"
        value={`${shown(units, 'length_mm', drainPort)} up`}
      />
      {depth && (
        <Label
          side="left"
          x={TANK_X}
          y={Math.min(ends.deposit, floor - 16)}
          from={TANK_X + 8}
          name="deposit"
          value={`${range(depth, units)}`}
        />
      )}
      {heater.lower_element_height_mm && (
        <Label
          side="left"
          x={TANK_X}
          y={up(heater.lower_element_height_mm) - 22}
          from={TANK_X + 4}
          name="element"
          value={`${shown(units, 'length_mm', heater.lower_element_height_mm)} up`}
        />
      )}
      {heater.probe_height_mm && !heater.lower_element_height_mm && (
        <Label
          side="left"
          x={TANK_X}
          y={up(heater.probe_height_mm) - 26}
          from={TANK_X + 4}
          name="probe"
          value={`${shown(units, 'length_mm', heater.probe_height_mm)} up`}
        />
      )}
      <Label
        side="left"
        x={TANK_X}
        y={top + tankHeight * 0.3}
        from={TANK_X + tankWidth * 0.2}
        name="dip tube"
        value="cold in"
      />
    </svg>
  )
}

function ExchangerSection({ forecasts, units, height }: Omit<Props, 'heater'>) {
  const scale = forecasts.find((one) => one.component === 'scale')
  const thickness = scale?.state.thickness_mm
  const share = thickness && scale ? Math.min(thickness.p50 / scale.limit_value, 2.2) : 0
  const most = thickness && scale ? Math.min(thickness.p90 / scale.limit_value, 2.4) : 0
  const top = 30
  const low = height - 60
  const path =
    `M62 ${low + 30}V${top + 26}a18 18 0 0 1 36 0V${low - 18}a18 18 0 0 0 36 0V${top + 26}a18 18 ` +
    `0 0 1 36 0V${low + 30}`
  return (
    <svg
      width={WIDTH}
      height={height}
      role="img"
      aria-label={thickness ? `Scale ${range(thickness, units, 2)} thick in the exchanger` : 'Exchanger'}
    >
      <rect
        x="28"
        y={top - 14}
        width="176"
        height={low - top + 36}
        rx="10"
        className="fill-sheet stroke-ink"
        strokeWidth="2.2"
      />
      <path d={path} className="fill-none stroke-ink" strokeWidth="27" />
      <path d={path} className="fill-none stroke-ochre-pale" strokeWidth="24" />
      <path
        d={path}
        className="fill-none stroke-ochre"
        strokeWidth={Math.max(24 - 7 * Math.max(most - share, 0), 10)}
      />
      <path d={path} className="fill-none stroke-water-pale" strokeWidth={Math.max(24 - 7 * most - 1, 3)} />
      <text x="56" y={height - 8} className="fill-soft text-[12px]" textAnchor="middle">
        cold in
      </text>
      <text x="176" y={height - 8} className="fill-soft text-[12px]" textAnchor="middle">
        hot out
      </text>
      {thickness && scale && (
        <>
          <Label side="right" x={194} y={top + 60} from={186} name="scale" value={`${range(thickness, units, 2)}`} />
          <Label
            side="right"
            x={194}
            y={top + 120}
            from={204}
            name="it bears"
            value={`${shown(units, 'length_mm', scale.limit_value, 2)}`}
          />
        </>
      )}
    </svg>
  )
}

function Label({
  side,
  x,
  y,
  from,
  name,
  value,
}: {
  side: 'left' | 'right'
  x: number
  y: number
  from: number
  name: string
  value: string
}) {
  const outer = side === 'left' ? x - 24 : x + 32
  const anchor = side === 'left' ? 'end' : 'start'
  const text = side === 'left' ? outer - 5 : outer + 5
  return (
    <g>
      <line x1={from} x2={outer} y1={y} y2={y} className="stroke-ink" strokeWidth="0.9" />
      <text x={text} y={y - 2} textAnchor={anchor} className="fill-ink text-[12px] font-bold">
        {name}
      </text>
      <text x={text} y={y + 12} textAnchor={anchor} className="fill-soft text-[12px]">
        {value}
      </text>
    </g>
  )
}

/** A rod worn from its foot upwards: whole at the head, wire below, tapering between. */
function rod(x: number, top: number, length: number, left: number): string {
  const whole = length * Math.max(left - 0.12, 0)
  const taper = length * Math.min(left + 0.12, 1)
  const half = 2.2 + 3.4 * left
  return `M${x - half} ${top}V${top + whole}L${x} ${top + taper}L${x + half} ${top + whole}V${top}Z`
}

function range({ p10: low, p90: high }: Spread, units: Units, decimals = 0): string {
  const first = shown(units, 'length_mm', low, units.length_mm?.decimals || decimals).split(' ')[0]
  const last = shown(units, 'length_mm', high, units.length_mm?.decimals || decimals)
  return last.startsWith(`${first} `) ? `about ${last}` : `${first} to ${last}`
}

function valveWords(stuck: number): string {
  if (stuck >= 0.995) return 'stuck'
  if (stuck < 0.005) return 'moves'
  return `1 in ${Math.max(Math.round(1 / stuck), 2)} stuck`
}

function described(
  depth: Spread | undefined,
  left: Spread | undefined,
  stuck: Spread | undefined,
  units: Units,
): string {
  const said = ['Section of the tank.']
  if (depth) said.push(`Deposit ${range(depth, units)} deep.`)
  if (left) said.push(`${Math.round(left.p50 * 100)} % of the anode left.`)
  if (stuck) said.push(`Relief valve: ${valveWords(stuck.p50)}.`)
  return said.join(' ')
}
