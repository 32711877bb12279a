import { useState } from 'react'

import type { Schema } from '../../../api/client'
import { figureWords } from '../../../lib/figures'
import { computed, type Tree } from '../../../lib/formula'
import { type Units } from '../../../lib/units'
import { Button } from '../../../ui/Button'
import type { Answers, Value } from '../answers'
import { Measure } from '../controls'

type Figure = Schema['FigureOut']
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

/** A calculator, filled in. A figure tried is a figure tried: a reading is kept only when somebody says so. */
export function Calculator({ figure, answers, usual, units, onAnswer }: Props) {
  const [typed, setTyped] = useState<Record<string, number>>({})
  const inputs = { ...inputsOf(figure, answers), ...typed }
  const wrong = figure.inputs.find((one) => inputs[one.name]! < one.low || inputs[one.name]! > one.high)
  const value = computed(figure.tree as Tree, inputs)
  const readings = wrong
    ? []
    : figure.inputs
        .filter((one) => one.field && typed[one.name] !== undefined)
        .map((one) => ({ field: one.field, label: one.label, unit: one.unit, value: typed[one.name]! }))
  if (figure.writes && !wrong)
    readings.push({ field: figure.writes, label: figure.title, unit: figure.unit, value: Math.round(value) })
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
              if (next !== null) setTyped((before) => ({ ...before, [one.name]: next }))
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
        {readings.map((one) => (
          <Keep
            key={one.field}
            words={`${one.label}, ${figureWords(one.unit, one.value, units)}`}
            isKept={answers[one.field] === one.value}
            onKeep={() => onAnswer(one.field, one.value)}
          />
        ))}
        <p className="mt-2 text-body text-soft">
          {figure.reads}. Source: {figure.source}.
        </p>
      </div>
    </details>
  )
}

function Keep({ words, isKept, onKeep }: { words: string; isKept: boolean; onKeep: () => void }) {
  if (isKept)
    return (
      <p role="status" className="mt-2 text-body text-soft">
        Kept as a reading: {words}
      </p>
    )
  return (
    <Button className="mt-2 min-h-11 w-full whitespace-normal!" onClick={onKeep}>
      Keep as a reading: {words}
    </Button>
  )
}
