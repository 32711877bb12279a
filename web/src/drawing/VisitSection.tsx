import clsx from 'clsx'
import type { ReactNode } from 'react'

interface Props {
  /** For each field the words that may be so. */
  words: Record<string, string[]>
  /** Share of the content, least and most. */
  level: [number, number]
  fuel: string
  store: string
  ignition: string
  /** The piece that the step is about. */
  part: string
}

type Is = 'yes' | 'no' | 'maybe'
const is = (words: string[] | undefined, ...wanted: string[]): Is => {
  const found = (words ?? []).filter((one) => wanted.includes(one)).length
  return found === 0 ? 'no' : found === (words ?? []).length ? 'yes' : 'maybe'
}

const WIDTH = 358
const HEIGHT = 192

/** The heater cut open as it may be now: water, flame and flow, with the piece that the step is about lit. */
export function VisitSection({ words, level, fuel, store, ignition, part }: Props) {
  const cold = is(words.cold, 'open')
  const drain = is(words.drain, 'open')
  const tap = is(words.tap, 'open')
  const relief = is(words.relief, 'open')
  const energy = words.energy ?? []
  const acid = is(words.fluid, 'acid') !== 'no'
  const hot = is(words.water, 'scalding') !== 'no'
  const lines = described({ cold, drain, tap, relief, energy, acid, hot, words, level, fuel, store })
  const tank = store === 'tank'
  return (
    <figure className="m-0">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-auto w-full" aria-hidden>
        {tank ? (
          <TankBody words={words} level={level} acid={acid} part={part} fuel={fuel} drain={drain} />
        ) : (
          <Exchanger acid={acid} level={level} part={part} />
        )}
        {/* Cold comes down on the left, hot leaves on the right. */}
        <Piece on={part === 'cold_valve'}>
          <Pipe d="M10 34H96" flows={cold === 'yes' && (drain === 'yes' || tap === 'yes')} />
          <Valve x={52} y={34} open={cold} doubt={is(words.cold, 'passing')} />
          <Word
            x={52}
            y={14}
            name="cold"
            word={position(cold, is(words.cold, 'passing') !== 'no' && cold === 'no' ? 'may pass' : 'shut')}
          />
        </Piece>
        <Piece on={part === 'hot_tap'}>
          <Pipe d="M262 34H330" flows={tap === 'yes'} />
          <Faucet x={326} y={34} open={tap} />
          <Word x={304} y={14} name="faucet" word={position(tap, 'shut')} />
        </Piece>
        <Piece on={part === 'relief_valve' || part === 'relief_pipe'}>
          <Pipe d={`M232 58H270V${tank ? 132 : 100}`} flows={relief === 'yes'} thin />
          <Valve x={252} y={58} open={relief} small />
          <Word
            x={278}
            y={84}
            name="relief"
            word={
              is(words.relief_works, 'no') === 'yes'
                ? 'dead'
                : is(words.discharge, 'blocked') === 'yes'
                  ? 'blocked'
                  : position(relief, 'shut')
            }
            anchor="start"
          />
        </Piece>
        <Piece on={part === 'drain_port' || part === 'service_ports'}>
          <Pipe d="M232 146H300" flows={drain === 'yes'} />
          <Valve x={258} y={146} open={drain} doubt={is(words.drain, 'drips')} />
          {is(words.hose, 'rated', 'plain') !== 'no' && (
            <path
              d="M268 146q22 0 26 14t30 12"
              className={clsx(
                'fill-none stroke-moss',
                is(words.hose, 'rated', 'plain') === 'maybe' ? '[stroke-dasharray:3_3]' : '',
              )}
              strokeWidth="6"
            />
          )}
          <Word
            x={278}
            y={136}
            name={tank ? 'drain' : 'port'}
            word={is(words.drain, 'drips') === 'yes' ? 'drips' : position(drain, 'shut')}
            anchor="start"
          />
        </Piece>
        <Piece on={['gas_control', 'burner', 'pilot', 'breaker', 'draft_hood', 'flame_rod'].includes(part)}>
          {fuel === 'gas' ? (
            <Gas words={words} energy={energy} ignition={ignition} tank={tank} />
          ) : (
            <Power words={words} energy={energy} boiler={fuel === 'boiler'} />
          )}
        </Piece>
        {part === 'expansion_tank' && (
          <Piece on>
            <path d="M78 34v18" className="stroke-current" strokeWidth="3" />
            <ellipse cx="78" cy="66" rx="13" ry="15" className="fill-ground stroke-current" strokeWidth="2.5" />
            <path d="M66 68q12 8 24 0" className="fill-none stroke-current" strokeWidth="1.5" />
          </Piece>
        )}
        <text
          x={176}
          y={HEIGHT - 4}
          textAnchor="middle"
          className={`text-[11px] font-bold ${acid || hot ? 'fill-oxide' : 'fill-soft'}`}
        >
          {waterWords(level, acid, hot)}
        </text>
      </svg>
      <ul aria-label="State of the heater" className="sr-only">
        {lines.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </figure>
  )
}

const position = (open: Is, shut: string) => (open === 'yes' ? 'open' : open === 'no' ? shut : 'not known')

function waterWords([low, high]: [number, number], acid: boolean, hot: boolean): string {
  const full =
    low >= 0.999
      ? 'full'
      : high <= 0.06
        ? 'empty'
        : high <= 0.85
          ? 'below the upper ports'
          : low >= 0.85
            ? 'air in it'
            : 'level not known'
  return `${acid ? 'acid may be in it, ' : ''}${full}${hot && high > 0.06 ? ', may scald' : ''}`
}

interface Told {
  cold: Is
  drain: Is
  tap: Is
  relief: Is
  energy: string[]
  acid: boolean
  hot: boolean
  words: Record<string, string[]>
  level: [number, number]
  fuel: string
  store: string
}

function described({ cold, drain, tap, relief, energy, acid, hot, words, level, fuel, store }: Told): string[] {
  const heat = fuel === 'gas' ? 'burner' : fuel === 'electric' ? 'power' : 'boiler'
  const said = [
    `cold ${position(cold, 'shut')}`,
    `${heat} ${energy.length === 1 ? energy[0] : 'not known'}${is(words.lock, 'yes') === 'yes' ? ', locked' : ''}`,
    `${store === 'tank' ? 'drain' : 'service port'} ` +
      (is(words.drain, 'drips') === 'yes' ? 'drips' : position(drain, 'shut')) +
      (is(words.hose, 'rated', 'plain') === 'yes' ? ', hose on' : ''),
    `relief ${position(relief, 'shut')}`,
    `hot faucet ${position(tap, 'shut')}`,
    `water ${waterWords(level, acid, hot)}`,
  ]
  if (fuel === 'gas') said.push(`gas ${position(is(words.gas, 'open'), 'shut')}`)
  for (const [field, bad, says] of OPENED)
    if (is(words[field], ...bad) !== 'no') said.push(is(words[field], ...bad) === 'yes' ? says : `${says}, or not`)
  return said
}

const OPENED: [string, string[], string][] = [
  ['ports', ['high', 'bottom', 'element'], 'a port open'],
  ['union', ['loose'], 'a union slack'],
  ['joints', ['open', 'untested'], 'a gas joint not tested'],
  ['covers', ['off'], 'a cover off'],
  ['tank', ['leaks'], 'the tank leaks'],
  ['tag', ['yes'], 'tagged off'],
]

/** What the step is about is lit, the rest pale. */
function Piece({ on, children }: { on: boolean; children: ReactNode }) {
  return <g className={on ? 'text-copper' : 'text-rule'}>{children}</g>
}

function Pipe({ d, flows, thin = false }: { d: string; flows: boolean; thin?: boolean }) {
  return (
    <>
      <path d={d} className="fill-none stroke-current" strokeWidth={thin ? 4 : 7} strokeLinejoin="round" />
      {flows && <path d={d} className="fill-none stroke-water [stroke-dasharray:7_5]" strokeWidth={thin ? 2 : 3.5} />}
    </>
  )
}

function Valve({
  x,
  y,
  open,
  doubt = 'no',
  small = false,
}: {
  x: number
  y: number
  open: Is
  doubt?: Is
  small?: boolean
}) {
  const r = small ? 7 : 9
  return (
    <g>
      <circle cx={x} cy={y} r={r} className="fill-ground stroke-current" strokeWidth="2.4" />
      {open === 'maybe' ? (
        <text x={x} y={y + 4} textAnchor="middle" className="fill-ochre text-[12px] font-bold">
          ?
        </text>
      ) : (
        <path
          d={open === 'yes' ? `M${x - r + 1} ${y}H${x + r - 1}` : `M${x} ${y - r + 1}V${y + r - 1}`}
          className={open === 'yes' ? 'stroke-water' : 'stroke-current'}
          strokeWidth="3.4"
        />
      )}
      {doubt !== 'no' && open !== 'yes' && <circle cx={x} cy={y + r + 6} r="2.2" className="fill-water" />}
    </g>
  )
}

function Faucet({ x, y, open }: { x: number; y: number; open: Is }) {
  return (
    <g>
      <path d={`M${x} ${y}v-8m-7 0h14M${x} ${y}h10v12`} className="fill-none stroke-current" strokeWidth="3.4" />
      {open === 'yes' && (
        <path d={`M${x + 10} ${y + 14}v22`} className="stroke-water [stroke-dasharray:5_3]" strokeWidth="3.4" />
      )}
      {open === 'maybe' && (
        <text x={x + 10} y={y + 28} textAnchor="middle" className="fill-ochre text-[13px] font-bold">
          ?
        </text>
      )}
    </g>
  )
}

function Word({
  x,
  y,
  name,
  word,
  anchor = 'middle',
}: {
  x: number
  y: number
  name: string
  word: string
  anchor?: 'middle' | 'start'
}) {
  const doubt = word === 'not known' || word === 'may pass'
  return (
    <text x={x} y={y} textAnchor={anchor} className="text-[11px]">
      <tspan className="fill-soft">{name} </tspan>
      <tspan className={doubt ? 'fill-ochre font-bold' : 'fill-ink font-bold'}>{word}</tspan>
    </text>
  )
}

/** A tank: what is certainly water is full, what may be is hatched. */
function TankBody({
  words,
  level: [low, high],
  acid,
  part,
  fuel,
  drain,
}: {
  words: Record<string, string[]>
  level: [number, number]
  acid: boolean
  part: string
  fuel: string
  drain: Is
}) {
  const [x, top, wide, tall] = [120, 22, 112, 132]
  const y = (share: number) => top + tall * (1 - share)
  const leaks = is(words.tank, 'leaks') !== 'no'
  const port = is(words.ports, 'closed')
  return (
    <g>
      <defs>
        <pattern id="maybe-water" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="3" height="7" className="fill-water" opacity="0.45" />
        </pattern>
        <clipPath id="visit-tank">
          <rect x={x} y={top} width={wide} height={tall} rx="18" />
        </clipPath>
      </defs>
      <g clipPath="url(#visit-tank)">
        <rect x={x} y={y(high)} width={wide} height={y(0) - y(high)} fill="url(#maybe-water)" />
        <rect
          x={x}
          y={y(low)}
          width={wide}
          height={y(0) - y(low)}
          className={acid ? 'fill-ochre' : 'fill-water'}
          opacity="0.8"
        />
        <rect
          x={x}
          y={y(0) - 9}
          width={wide}
          height={9}
          className={part === 'deposit' ? 'fill-copper' : 'fill-ochre-pale'}
          opacity={part === 'deposit' ? 1 : 0.5}
        />
      </g>
      {fuel === 'gas' && (
        <rect
          x={x + 46}
          y={top - 14}
          width="20"
          height={tall + 14}
          className="fill-ground stroke-rule"
          strokeWidth="1"
          opacity="0.85"
        />
      )}
      <rect
        x={x}
        y={top}
        width={wide}
        height={tall}
        rx="18"
        className={`fill-none ${part === 'tank' ? 'stroke-copper' : leaks ? 'stroke-oxide' : 'stroke-ink'}`}
        strokeWidth={part === 'tank' ? 4 : 2.2}
      />
      <path
        d={`M96 34h34v${tall - 34}`}
        className={`fill-none ${part === 'dip_tube' ? 'stroke-copper' : 'stroke-rule'}`}
        strokeWidth={part === 'dip_tube' ? 5 : 3.5}
      />
      <path
        d={`M${x + 86} ${top - 6}v78`}
        className={part === 'anode' ? 'stroke-copper' : 'stroke-rule'}
        strokeWidth={part === 'anode' ? 8 : 4}
      />
      <path d="M232 34h30" className="stroke-rule" strokeWidth="7" />
      {fuel === 'electric' && (
        <>
          <path
            d={`M${x} ${top + 40}h52v6h-52`}
            className={`fill-none ${part === 'upper_element' ? 'stroke-copper' : 'stroke-rule'}`}
            strokeWidth="3"
          />
          <path
            d={`M${x} ${top + 100}h52v6h-52`}
            className={`fill-none ${part === 'lower_element' ? 'stroke-copper' : 'stroke-rule'}`}
            strokeWidth="3"
          />
        </>
      )}
      {(fuel === 'gas' || fuel === 'boiler') && part === 'probe' && (
        <path d={`M${x} ${top + 108}h40`} className="stroke-copper" strokeWidth="6" />
      )}
      {fuel === 'boiler' && (
        <path
          d={`M${x} ${top + 70}q30 -14 50 0t50 0M${x} ${top + 92}q30 -14 50 0t50 0`}
          className={`fill-none ${part === 'exchanger' ? 'stroke-copper' : 'stroke-rule'}`}
          strokeWidth="3"
        />
      )}
      {port !== 'yes' && (
        <text x={x + wide / 2} y={top + 20} textAnchor="middle" className="fill-oxide text-[11px] font-bold">
          {port === 'no' ? 'port open' : 'port open?'}
        </text>
      )}
      {drain === 'yes' && (
        <path d={`M${x + 70} ${top + 118}h34`} className="stroke-water [stroke-dasharray:6_4]" strokeWidth="3" />
      )}
    </g>
  )
}

function Exchanger({ acid, level: [low, high], part }: { acid: boolean; level: [number, number]; part: string }) {
  const path = 'M96 34h36v92a14 14 0 0 0 28 0V52a14 14 0 0 1 28 0v74a14 14 0 0 0 28 0V34h46'
  return (
    <g>
      <rect x="112" y="18" width="120" height="140" rx="10" className="fill-none stroke-ink" strokeWidth="2.2" />
      <path
        d={path}
        className={`fill-none ${part === 'exchanger' || part === 'inlet_screen' ? 'stroke-copper' : 'stroke-rule'}`}
        strokeWidth="14"
      />
      {high > 0 && (
        <path
          d={path}
          className={clsx(
            'fill-none',
            acid ? 'stroke-ochre' : 'stroke-water',
            low < 0.999 ? '[stroke-dasharray:4_6]' : '',
          )}
          strokeWidth="7"
        />
      )}
      {part === 'trap' && <path d="M172 158v14q0 6 8 6t8 -6v-6" className="fill-none stroke-copper" strokeWidth="4" />}
      <path d="M232 146h-20" className="stroke-rule" strokeWidth="7" />
    </g>
  )
}

function Gas({
  words,
  energy,
  ignition,
  tank,
}: {
  words: Record<string, string[]>
  energy: string[]
  ignition: string
  tank: boolean
}) {
  const gas = is(words.gas, 'open')
  const lit =
    energy.length === 1 ? energy[0]! : energy.includes('on') ? 'maybe' : energy.includes('pilot') ? 'maybe' : 'off'
  const x = tank ? 176 : 172
  return (
    <g>
      <path d="M10 146H112" className="stroke-current" strokeWidth="5" />
      <Valve x={48} y={146} open={gas} />
      <Word x={48} y={130} name="gas" word={position(gas, 'shut')} />
      {lit !== 'off' && (
        <path
          d={
            lit === 'pilot'
              ? `M${x} 168c-4 0-5-4-3-7 1-2 2-3 3-6 1 3 3 4 3 7s-1 6-3 6z`
              : `M${x - 26} 168q6-16 10 0q5-20 10 0q5-20 10 0q5-20 10 0q4-16 10 0z`
          }
          className={`${lit === 'maybe' ? 'fill-none [stroke-dasharray:3_2]' : 'fill-copper/60'} stroke-copper`}
          strokeWidth="1.6"
        />
      )}
      <text x={10} y={170} className="text-[11px]">
        <tspan className="fill-soft">{ignition === 'pilot' ? 'burner ' : 'heater '}</tspan>
        <tspan className={lit === 'maybe' ? 'fill-ochre font-bold' : 'fill-ink font-bold'}>
          {lit === 'maybe' ? 'not known' : lit}
        </tspan>
        {is(words.tag, 'yes') === 'yes' && <tspan className="fill-oxide font-bold"> tagged</tspan>}
      </text>
    </g>
  )
}

function Power({ words, energy, boiler }: { words: Record<string, string[]>; energy: string[]; boiler: boolean }) {
  const on = energy.length === 1 ? energy[0]! : 'not known'
  return (
    <g>
      <path
        d="M10 132h74"
        className={`stroke-current ${on === 'on' ? '' : '[stroke-dasharray:4_4]'}`}
        strokeWidth="2.5"
      />
      <rect x="36" y="118" width="22" height="28" rx="4" className="fill-ground stroke-current" strokeWidth="2.4" />
      <path
        d={on === 'on' ? 'M47 140v-16m-4 5l4-5 4 5' : on === 'off' ? 'M47 124v16m-4-5l4 5 4-5' : 'M47 128v8'}
        className="fill-none stroke-current"
        strokeWidth="2.6"
      />
      <text x={10} y={166} className="text-[11px]">
        <tspan className="fill-soft">{boiler ? 'boiler ' : 'power '}</tspan>
        <tspan className={on === 'not known' ? 'fill-ochre font-bold' : 'fill-ink font-bold'}>{on}</tspan>
        {is(words.lock, 'yes') === 'yes' && <tspan className="fill-water font-bold">, locked</tspan>}
        {is(words.dead, 'yes') === 'yes' && <tspan className="fill-water font-bold">, dead</tspan>}
      </text>
    </g>
  )
}
