import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { scaleLinear } from 'd3-scale'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { figureWords } from '../../lib/figures'
import { computed, type Tree } from '../../lib/formula'
import { fieldText, isQuantity, label, numberOf, stored, type Units } from '../../lib/units'
import { useCompany } from '../../session/session'
import { Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { BenchNav } from './BenchNav'
import { calculatorsOptions } from './queries'

type Figure = Schema['FigureOut']
type Input = Figure['inputs'][number]

/** Everything that the trade reckons: inputs with their range, the formula and its source, and how it bends. */
export function CalculatorsPage() {
  const [address] = useSearchParams()
  const heater = Number(address.get('heater')) || undefined
  const { data, error, refetch } = useQuery(calculatorsOptions(heater))
  const chosen = data?.find((one) => one.name === address.get('of')) ?? data?.[0]
  return (
    <div className="flex h-full flex-col narrow:h-auto">
      <h1 className="sr-only">Calculators</h1>
      <BenchNav />
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the calculators" />}
      {data && chosen && (
        <div className="flex min-h-0 flex-1 narrow:flex-col">
          <nav
            aria-label="Calculators"
            className={clsx(
              'w-[300px] shrink-0 overflow-auto border-r border-line py-2 narrow:order-last',
              'narrow:w-full narrow:border-r-0 print:hidden',
            )}
          >
            {heater && (
              <p className="px-5 pb-2">
                Filled in with what is known of{' '}
                <Link to={`/heaters/${heater}`} className="text-copper-deep underline underline-offset-2">
                  {address.get('tag') ?? 'this heater'}
                </Link>
              </p>
            )}
            <ul>
              {data
                .toSorted((one, other) => one.title.localeCompare(other.title))
                .map((one) => (
                  <li key={one.name}>
                    <Link
                      to={addressOf(one.name, address)}
                      replace
                      aria-current={one.name === chosen.name ? 'page' : undefined}
                      className={clsx(
                        'block px-5 py-1.5 narrow:py-3',
                        one.name === chosen.name ? 'bg-sheet font-bold' : 'text-copper-deep hover:underline',
                      )}
                    >
                      {one.title}
                    </Link>
                  </li>
                ))}
            </ul>
          </nav>
          <Reckoned key={`${chosen.name} ${heater}`} figure={chosen} />
        </div>
      )}
    </div>
  )
}

/** Another calculator, of the same heater; what was typed into the last is left behind. */
function addressOf(name: string, address: URLSearchParams): string {
  const kept = ['heater', 'tag'].flatMap((one) => (address.has(one) ? [[one, address.get(one)!]] : []))
  return `?${new URLSearchParams([...kept, ['of', name]]).toString()}`
}

function Reckoned({ figure }: { figure: Figure }) {
  const { units } = useCompany()
  const [address, setAddress] = useSearchParams()
  const [frame, size] = useSize()
  const [main, setMain] = useState(() => mainInput(figure))
  const typed = (one: Input) => address.get(one.name) ?? inputText(units, one, one.value)
  const inputs = Object.fromEntries(figure.inputs.map((one) => [one.name, inputFigure(units, one, typed(one))]))
  const wrong = figure.inputs.filter((one) => !(inputs[one.name]! >= one.low && inputs[one.name]! <= one.high))
  const tree = figure.tree as Tree
  const value = wrong.length ? null : computed(tree, inputs)
  const say = (name: string, text: string) =>
    setAddress(
      (now) => {
        now.set('of', figure.name)
        now.set(name, text)
        return now
      },
      { replace: true },
    )
  return (
    <>
      <section aria-label={figure.title} className="w-[380px] shrink-0 overflow-auto px-6 py-4 narrow:w-full">
        <h2 className="text-title font-bold">{figure.title}</h2>
        <p aria-live="polite" className="mt-1 text-[28px] leading-9 font-bold text-copper-deep">
          {value === null ? '–' : figureWords(figure.unit, value, units)}
        </p>
        <div className="mt-4 space-y-3">
          {figure.inputs.map((one) => (
            <Field
              key={one.name}
              label={one.label}
              unit={unitOf(units, one)}
              inputMode="decimal"
              value={typed(one)}
              onChange={(event) => say(one.name, event.target.value)}
              onFocus={() => setMain(one.name)}
              fault={wrong.includes(one) ? `allowed: ${rangeWords(units, one)}` : undefined}
              hint={rangeWords(units, one)}
            />
          ))}
        </div>
        <p className="mt-5">
          <strong>{figure.reads}</strong>
        </p>
        <p className="mt-1 text-soft">Source: {figure.source}.</p>
        <p className="mt-3 text-fine text-soft">The address holds the figures: keep it, send it, or print the page.</p>
      </section>
      <div ref={frame} className="min-h-0 min-w-0 flex-1 border-l border-line narrow:h-[300px] narrow:flex-none">
        {value !== null && size.width > 0 && (
          <Bend figure={figure} inputs={inputs} main={main} units={units} width={size.width} height={size.height} />
        )}
      </div>
    </>
  )
}

const unitOf = (units: Units, one: Input) =>
  isQuantity(units, one.unit) ? label(units, one.unit) : one.unit === '1' ? '' : one.unit

const inputText = (units: Units, one: Input, value: number) =>
  isQuantity(units, one.unit) ? fieldText(units, one.unit, value) : String(Number(value.toPrecision(4)))

const inputFigure = (units: Units, one: Input, text: string) =>
  (isQuantity(units, one.unit) ? stored(units, one.unit, text) : numberOf(text)) ?? NaN

const rangeWords = (units: Units, one: Input) =>
  `${figureWords(one.unit, one.low, units)} to ${figureWords(one.unit, one.high, units)}`

/** The input against which the answer is drawn first: the one that moves it most when it is doubled. */
export function mainInput(figure: Figure): string {
  const inputs = Object.fromEntries(figure.inputs.map((one) => [one.name, one.value]))
  const at = computed(figure.tree as Tree, inputs)
  const moves = figure.inputs.map((one) => {
    const doubled = computed(figure.tree as Tree, { ...inputs, [one.name]: Math.min(2 * one.value, one.high) })
    return Number.isFinite(doubled) ? Math.abs(doubled - at) : 0
  })
  return figure.inputs[moves.indexOf(Math.max(...moves))]!.name
}

const POINTS = 80

/** Where the answer is drawn: about what was typed, within what is allowed. */
export function spanOf(one: Input, value: number): [number, number] {
  const reach = Math.max(Math.abs(value), (one.high - one.low) / 50)
  return [Math.max(one.low, value - reach), Math.min(one.high, value + reach)]
}

interface BendProps {
  figure: Figure
  inputs: Record<string, number>
  main: string
  units: Units
  width: number
  height: number
}

function Bend({ figure, inputs, main, units, width, height }: BendProps) {
  const one = figure.inputs.find((each) => each.name === main) ?? figure.inputs[0]!
  const now = inputs[one.name]!
  const [from, to] = spanOf(one, now)
  const tree = figure.tree as Tree
  const points = Array.from({ length: POINTS + 1 }, (_, at) => {
    const given = from + ((to - from) * at) / POINTS
    return { given, value: computed(tree, { ...inputs, [one.name]: given }) }
  }).filter((each) => Number.isFinite(each.value))
  const value = computed(tree, inputs)
  const top = Math.max(...points.map((each) => each.value), Number.isFinite(value) ? value : 0, 1e-9)
  const bottom = Math.min(0, ...points.map((each) => each.value))
  const x = scaleLinear()
    .domain([from, to])
    .range([70, width - 34])
  const y = scaleLinear()
    .domain([bottom, top * 1.08])
    .range([height - 56, 40])
  const tick = (unit: string, at: number) => figureWords(unit, at, units)
  const path = points.map((each) => `${x(each.given)} ${y(each.value)}`).join('L')
  const words = `${figure.title} against ${one.label}: ${tick(figure.unit, value)} at ${tick(one.unit, now)}`
  return (
    <svg width={width} height={height} role="img" aria-label={words}>
      <text x="20" y="24" className="fill-ink text-[13px] font-bold">
        {figure.title}
        <tspan className="fill-soft font-normal">
          {' '}
          against {one.label.toLowerCase()}; touch another input to change it
        </tspan>
      </text>
      {y.ticks(5).map((at) => (
        <g key={at}>
          <line x1="66" x2={width - 30} y1={y(at)} y2={y(at)} className="stroke-line" />
          <text x="60" y={y(at) + 4} textAnchor="end" className="fill-soft text-[12px]">
            {tick(figure.unit, at)}
          </text>
        </g>
      ))}
      {x.ticks(5).map((at) => (
        <text key={at} x={x(at)} y={height - 34} textAnchor="middle" className="fill-soft text-[12px]">
          {tick(one.unit, at)}
        </text>
      ))}
      {points.length > 1 && <path d={`M${path}`} fill="none" className="stroke-water" strokeWidth="2.5" />}
      {Number.isFinite(value) && (
        <>
          <path d={`M${x(now)} ${y(value)}V${y(bottom)}`} className="stroke-copper" strokeDasharray="4 4" />
          <circle cx={x(now)} cy={y(value)} r="6" className="fill-copper" />
          <text
            x={Math.min(x(now) + 10, width - 110)}
            y={Math.max(y(value) - 10, 56)}
            className="fill-copper-deep stroke-ground text-[13px] font-bold [paint-order:stroke]"
            strokeWidth="5"
          >
            {tick(figure.unit, value)}
          </text>
        </>
      )}
    </svg>
  )
}
