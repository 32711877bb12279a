import { useState } from 'react'

import type { Schema } from '../../../api/client'
import { shown, type Units } from '../../../lib/units'
import { Button } from '../../../ui/Button'
import type { Answers, Value } from '../answers'
import { isQuantity, Measure } from '../controls'
import { computed, type Tree } from './formula'

type Figure = Schema['FigureOut']
const WORDS: Record<string, string> = { ohm: 'Ω', percent: '%', '1': '' }

export function figureWords(unit: string, value: number, units: Units): string {
  if (!Number.isFinite(value)) return 'never so'
  if (isQuantity(unit)) return shown(units, unit, value)
  return `${value >= 20 ? Math.round(value) : Number(value.toPrecision(3))} ${WORDS[unit] ?? unit}`.trim()
}

/** Inputs of a calculator: what was read at this visit before what is known of the heater. */
export function inputsOf(figure: Figure, answers: Answers): Record<string, number> {
  return Object.fromEntries(
    figure.inputs.map((one) => [
      one.name,
      typeof answers[one.field] === 'number' ? (answers[one.field] as number) : one.value,
    ]),
  )
}

export const valueOf = (figure: Figure, answers: Answers) => computed(figure.tree as Tree, inputsOf(figure, answers))

interface Props {
  figure: Figure
  answers: Answers
  usual: Record<string, number[]>
  units: Units
  onAnswer: (field: string, value: Value) => void
}

/** A calculator, filled in; what is a reading is kept as one, and its result can be. */
export function Calculator({ figure, answers, usual, units, onAnswer }: Props) {
  const [typed, setTyped] = useState<Record<string, number>>({})
  const inputs = { ...inputsOf(figure, answers), ...typed }
  const wrong = figure.inputs.find((one) => inputs[one.name]! < one.low || inputs[one.name]! > one.high)
  const value = computed(figure.tree as Tree, inputs)
  return (
    <details className="mt-2 rounded-lg border border-line">
      <summary className="min-h-11 cursor-pointer px-3 py-2.5">
        {figure.title}: <strong>{figureWords(figure.unit, value, units)}</strong>
      </summary>
      <div className="px-3 pb-3">
        {figure.inputs.map((one) => (
          <Measure
            key={one.name}
            label={one.label}
            unit={one.unit}
            units={units}
            value={inputs[one.name]}
            usual={usual[one.field]}
            onChange={(next) => {
              if (next === null) return
              setTyped((before) => ({ ...before, [one.name]: next }))
              if (one.field && next >= one.low && next <= one.high) onAnswer(one.field, next)
            }}
          />
        ))}
        {wrong ? (
          <p role="alert" className="mt-2 text-oxide">
            {wrong.label}: allowed is {figureWords(wrong.unit, wrong.low, units)} to{' '}
            {figureWords(wrong.unit, wrong.high, units)}.
          </p>
        ) : (
          <p className="mt-3" aria-live="polite">
            {figure.title}: <strong>{figureWords(figure.unit, value, units)}</strong>
          </p>
        )}
        {figure.writes && !wrong && (
          <Button className="mt-2 min-h-11 w-full" onClick={() => onAnswer(figure.writes, Math.round(value))}>
            {answers[figure.writes] === Math.round(value) ? 'Kept as a reading' : 'Keep as a reading'}
          </Button>
        )}
        <p className="mt-2 text-body text-soft">
          {figure.reads}. Source: {figure.source}.
        </p>
      </div>
    </details>
  )
}
