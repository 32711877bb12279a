import type { ReactNode } from 'react'

import type { State } from './interlock'

const LEVELS: Record<string, [share: number, word: string]> = { full: [1, 'full'], airy: [0.86, 'air in it'], low: [0.7, 'lowered'], empty: [0.06, 'empty'] }
const ENERGY: Record<string, string> = { on: 'on', pilot: 'pilot', off: 'off', locked: 'dead' }
const PORTS: Record<string, string> = { high: 'port open', bottom: 'floor open', element: 'element out' }

/** What is open now: the valves of this heater, drawn. Steps change them. */
export function StateStrip({ state, fuel, store }: { state: State; fuel: string; store: string }) {
  const [share, level] = LEVELS[state.level!] ?? [1, '']
  const airIn = state.air === 'open' || state.relief === 'open'
  const loose = PORTS[state.ports!] ?? (state.joints !== 'tested' ? 'gas joint' : state.covers === 'off' ? 'cover off' : null)
  return (
    <ul aria-label="State of the heater" className="grid grid-cols-6 gap-1 text-center text-fine">
      <Part name="cold" word={state.cold!} strong={state.cold === 'shut'}>
        <Valve open={state.cold === 'open'} />
      </Part>
      <Part name={fuel === 'gas' ? 'burner' : fuel === 'electric' ? 'power' : 'boiler'} word={ENERGY[state.energy!] ?? ''} strong={state.energy !== 'on'}>
        {fuel === 'gas' ? <Flame lit={state.energy === 'on'} pilot={state.energy === 'pilot'} /> : <Bolt on={state.energy === 'on'} />}
      </Part>
      <Part name={store === 'tank' ? 'drain' : 'service'} word={state.drain === 'open' ? 'open' : state.hose === 'none' ? 'shut' : 'hose on'} strong={state.drain === 'open'}>
        <Valve open={state.drain === 'open'} />
      </Part>
      <Part name={loose ? 'open' : 'relief'} word={loose ?? (airIn ? 'open' : 'shut')} strong={airIn || loose !== null}>
        <Valve open={airIn || loose !== null} />
      </Part>
      <Part name="hot tap" word={state.tap!} strong={state.tap === 'open'}>
        <Valve open={state.tap === 'open'} />
      </Part>
      <Part name="water" word={state.fluid === 'acid' ? 'acid in' : state.water === 'scalding' && share > 0.5 ? 'scalds' : level} strong={state.fluid === 'acid' || state.water === 'scalding'} hurts={state.fluid === 'acid' || state.water === 'scalding'}>
        <svg viewBox="0 0 44 30" className="mx-auto h-7" aria-hidden>
          <rect x="12" y="2" width="20" height="26" rx="4" className="fill-none stroke-current" strokeWidth="2" />
          <rect x="14" y={4 + 22 * (1 - share)} width="16" height={22 * share} rx="2" className={state.fluid === 'acid' ? 'fill-ochre' : 'fill-water'} />
          {state.pressure === 'on' && <path d="M37 22V8m-3 4l3-4 3 4" className="fill-none stroke-current" strokeWidth="2" />}
        </svg>
      </Part>
    </ul>
  )
}

function Part({ name, word, strong, hurts = false, children }: { name: string; word: string; strong: boolean; hurts?: boolean; children: ReactNode }) {
  return (
    <li className={`rounded-md px-0.5 py-1 ${strong ? 'bg-line/60' : ''}`}>
      <span className="block text-soft">{name}</span>
      {children}
      <strong className={`block truncate ${hurts ? 'text-oxide' : strong ? 'text-water' : 'text-ink'}`}>{word}</strong>
    </li>
  )
}

function Valve({ open }: { open: boolean }) {
  return (
    <svg viewBox="0 0 44 30" className="mx-auto h-7" aria-hidden>
      <path d={open ? 'M0 15h44' : 'M0 15h11M33 15h11'} className={open ? 'stroke-water' : 'stroke-current'} strokeWidth={open ? 6 : 4} />
      <circle cx="22" cy="15" r="10" className="fill-ground stroke-current" strokeWidth="2.5" />
      <path d={open ? 'M12 15h20' : 'M22 5v20'} className={open ? 'stroke-water' : 'stroke-current'} strokeWidth="4" />
    </svg>
  )
}

function Flame({ lit, pilot }: { lit: boolean; pilot: boolean }) {
  return (
    <svg viewBox="0 0 44 30" className="mx-auto h-7" aria-hidden>
      <path d={pilot ? 'M22 28c-4 0-5-3-4-6 1-2 3-3 4-6 1 3 4 4 4 8 0 3-2 4-4 4z' : 'M22 28c-8 0-10-7-7-12 2-3 6-6 6-13 5 3 9 9 9 15 0 6-3 10-8 10z'} className={lit || pilot ? 'fill-copper/60 stroke-copper' : 'fill-none stroke-current'} strokeWidth="2" />
      {!lit && !pilot && <path d="M6 27L38 3" className="stroke-current" strokeWidth="3" />}
    </svg>
  )
}

function Bolt({ on }: { on: boolean }) {
  return (
    <svg viewBox="0 0 44 30" className="mx-auto h-7" aria-hidden>
      <path d="M25 2L13 17h8l-3 11 13-16h-8z" className={on ? 'fill-copper/60 stroke-copper' : 'fill-none stroke-current'} strokeWidth="2" />
      {!on && <path d="M6 27L38 3" className="stroke-current" strokeWidth="3" />}
    </svg>
  )
}
