import type { Schema } from '../api/client'
import { shown, type Units } from '../lib/units'
import { Turned, Valve, type Turn } from './Turned'
import { TANK } from './tank'

type Seen = Schema['SeenOut']

export function Burner({ seen, onTurn, units }: { seen: Seen; onTurn: Turn; units: Units }) {
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

export function Breaker({ seen, onTurn }: { seen: Seen; onTurn: Turn }) {
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
      <text x="598" y="342" className="pointer-events-none fill-soft text-[12px] narrow:text-[20px]">
        {current}
      </text>
    </>
  )
}

/** A boiler beside its tank: the coil's pipes, its gauge, its switches. */
export function BoilerSide({ seen, onTurn, units }: { seen: Seen; onTurn: Turn; units: Units }) {
  const next = seen.breaker === 'on' ? 'locked' : 'on'
  const does = next === 'locked' ? 'Turn them off and tag them' : 'Turn them on'
  return (
    <>
      <path d="M446 322H560M446 376H560" className="stroke-ochre-deep" strokeWidth="7" fill="none" />
      <rect x="560" y="206" width="140" height="186" rx="10" className="fill-sheet stroke-ink" strokeWidth="2.5" />
      <text x="630" y="230" textAnchor="middle" className="fill-ink text-[13px] font-bold narrow:text-[20px]">
        boiler
      </text>
      <Turned label={`boiler's switches: ${seen.breaker}. ${does}`} turn={['breaker', next]} onTurn={onTurn}>
        <rect x="574" y="246" width="52" height="54" rx="6" className="fill-sheet stroke-ink" strokeWidth="2.5" />
        <rect x="593" y={seen.breaker === 'on' ? 254 : 274} width="14" height="18" className="fill-ink" />
        {seen.breaker === 'locked' && <circle cx="600" cy="262" r="6" className="fill-oxide" />}
        <text x="634" y="278" className="fill-ink text-[13px] font-bold narrow:text-[20px]">
          {seen.breaker}
        </text>
      </Turned>
      <text x="630" y="332" textAnchor="middle" className="fill-ink text-[13px] narrow:text-[20px]">
        gauge: {shown(units, 'pressure_kpa', seen.boiler_kpa ?? 0)}
      </text>
      <text x="630" y="358" textAnchor="middle" className="fill-soft text-[12px] narrow:text-[20px]">
        {seen.burns ? 'its pump runs' : 'its pump stands'}
      </text>
    </>
  )
}
