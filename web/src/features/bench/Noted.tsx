import clsx from 'clsx'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { BucketPicture, RodPicture, ValvePicture } from '../../drawing/pictures'
import { fieldText, label, stored, type Units } from '../../lib/units'
import { Field } from '../../ui/Field'
import { Button } from '../../ui/Button'

interface Props {
  asks: string[]
  /** What stands noted. */
  notes: Record<string, string>
  units: Units
  onNote: (name: string, value: string) => void
}

const REMOVED: [Schema['Removed'], string][] = [
  ['none', 'nothing'],
  ['trace', 'trace'],
  ['moderate', 'moderate'],
  ['heavy', 'heavy'],
  ['blocked', 'blocks it'],
]
const RODS: [Schema['RodGrade'], string][] = [
  ['like_new', 'like new'],
  ['worn', 'worn'],
  ['half', 'half'],
  ['mostly_gone', 'mostly gone'],
  ['gone', 'gone'],
]
const DECISIONS: [string, string][] = [
  ['flushed', 'flushed'],
  ['left_alone', 'left alone, replacement planned'],
]
const OUTCOMES: [Schema['ValveOutcome'], string][] = [
  ['flows_and_reseats', 'flows, closes'],
  ['flows_and_weeps', 'flows, weeps'],
  ['no_flow', 'no flow'],
  ['not_tested', 'not tried'],
]

/** What a technician would put on record: judged against what was so. */
export function Noted({ asks, notes, units, onNote }: Props) {
  return (
    <section aria-label="Your notes" className="space-y-3">
      {asks.includes('tap_c') && (
        <Figure
          name="First hot water at the faucet"
          quantity="temperature_c"
          value={notes.tap_c}
          units={units}
          onNote={(value) => onNote('tap_c', value)}
        />
      )}
      {asks.includes('static_kpa') && (
        <Figure
          name="Pressure of the house"
          quantity="pressure_kpa"
          value={notes.static_kpa}
          units={units}
          onNote={(value) => onNote('static_kpa', value)}
        />
      )}
      {asks.includes('removed') && (
        <Grades name="What came out, in all" value={notes.removed} onChoose={(value) => onNote('removed', value)}>
          {REMOVED.map(([value, words]) => ({ value, words, picture: <BucketPicture removed={value} /> }))}
        </Grades>
      )}
      {asks.includes('valve_outcome') && (
        <Grades
          name="The relief valve that you found"
          value={notes.valve_outcome}
          onChoose={(value) => onNote('valve_outcome', value)}
        >
          {OUTCOMES.map(([value, words]) => ({ value, words, picture: <ValvePicture outcome={value} /> }))}
        </Grades>
      )}
      {asks.includes('rod_grade') && (
        <Grades name="What is left of the rod" value={notes.rod_grade} onChoose={(value) => onNote('rod_grade', value)}>
          {RODS.map(([value, words]) => ({ value, words, picture: <RodPicture grade={value} /> }))}
        </Grades>
      )}
      {asks.includes('decision') && (
        <Grades name="Its deposit" value={notes.decision} onChoose={(value) => onNote('decision', value)}>
          {DECISIONS.map(([value, words]) => ({ value, words, picture: null }))}
        </Grades>
      )}
    </section>
  )
}

interface FigureProps {
  name: string
  quantity: 'temperature_c' | 'pressure_kpa'
  value: string | undefined
  units: Units
  onNote: (value: string) => void
}

function Figure({ name, quantity, value, units, onNote }: FigureProps) {
  const [typed, setTyped] = useState('')
  const figure = stored(units, quantity, typed)
  const isSound = figure !== null && Number.isFinite(figure)
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (isSound) onNote(figure.toFixed(1))
      }}
    >
      <Field
        label={name}
        unit={label(units, quantity)}
        inputMode="decimal"
        value={typed}
        placeholder={value === undefined ? '' : `noted: ${fieldText(units, quantity, Number(value))}`}
        onChange={(event) => setTyped(event.target.value)}
        fault={typed && !isSound ? 'a number' : undefined}
        className="flex-1"
      />
      <Button type="submit" className="min-h-9" disabled={!isSound}>
        Note it
      </Button>
    </form>
  )
}

interface GradesProps {
  name: string
  value: string | undefined
  onChoose: (value: string) => void
  children: { value: string; words: string; picture: React.ReactNode }[]
}

function Grades({ name, value, onChoose, children }: GradesProps) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{name}</legend>
      <div className="flex gap-1">
        {children.map((one) => (
          <label
            key={one.value}
            className={clsx(
              'flex min-h-11 flex-1 cursor-pointer flex-col items-center rounded-md border-2 px-0.5',
              'py-1 text-center text-fine leading-tight focus-within:outline-3',
              'focus-within:outline-water',
              value === one.value ? 'border-copper bg-sheet font-bold' : 'border-line',
            )}
          >
            <input
              type="radio"
              name={name}
              checked={value === one.value}
              onChange={() => onChoose(one.value)}
              className="sr-only"
            />
            {one.picture}
            {one.words}
          </label>
        ))}
      </div>
    </fieldset>
  )
}
