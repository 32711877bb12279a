import clsx from 'clsx'
import { useState, type ReactNode } from 'react'

import { fieldText, isQuantity, label, numberOf, shown, stored, type Units } from '../../lib/units'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'

interface MeasureProps {
  label: string
  /** A quantity, or a unit as it is written. */
  unit: string
  units: Units
  value: number | null | undefined
  /** Outside of it a reading is asked for once more before it is taken. */
  usual?: number[] | undefined
  onChange: (value: number | null) => void
}

/** A reading. What is unusual is asked about; it is taken when it is said again, or when whoever typed it goes on. */
export function Measure({ label: text, unit, units, value, usual, onChange }: MeasureProps) {
  const [doubtful, setDoubtful] = useState<number | null>(null)
  const quantity = isQuantity(units, unit) ? unit : null
  const words = (one: number) => (quantity ? shown(units, quantity, one) : `${one} ${unit === '1' ? '' : unit}`.trim())
  return (
    <div
      className="mt-3 first:mt-0"
      onBlur={(event) => {
        // Nothing that was typed is lost: the question stays, and the figure with it.
        if (doubtful !== null && !event.currentTarget.contains(event.relatedTarget)) onChange(doubtful)
      }}
    >
      <Field
        className="[&_input]:h-12"
        label={text}
        unit={quantity ? label(units, quantity) : unit === '1' ? undefined : unit}
        inputMode="decimal"
        defaultValue={quantity ? fieldText(units, quantity, value) : (value ?? '')}
        onChange={(event) => {
          const typed = quantity ? stored(units, quantity, event.target.value.trim()) : numberOf(event.target.value)
          if (Number.isNaN(typed)) return
          const unusual = typed !== null && usual !== undefined && (typed < usual[0]! || typed > usual[1]!)
          setDoubtful(unusual ? typed : null)
          if (!unusual) onChange(typed)
        }}
      />
      {doubtful !== null && (
        <p role="alert" className="mt-2 flex items-center gap-3 text-ochre-deep">
          <span className="flex-1">
            {words(doubtful)} is unusual: {words(usual![0]!)} to {words(usual![1]!)} is. Read it once more.
          </span>
          <Button
            className="min-h-11"
            onClick={() => {
              onChange(doubtful)
              setDoubtful(null)
            }}
          >
            It is so
          </Button>
        </p>
      )}
    </div>
  )
}

export function Toggle({ text, on, onToggle }: { text: ReactNode; on: boolean; onToggle: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onToggle}
      className={clsx(
        'flex min-h-12 w-full items-center gap-3 rounded-xl border-2 px-4 text-left',
        on ? 'border-copper font-bold text-copper' : 'border-line',
      )}
    >
      <svg width="22" height="22" viewBox="0 0 22 22" className="shrink-0" aria-hidden>
        <rect x="1.5" y="1.5" width="19" height="19" rx="4" className="fill-none stroke-current" strokeWidth="2" />
        {on && <path d="M5.5 11.5l4 4 7-9" className="fill-none stroke-current" strokeWidth="2.6" />}
      </svg>
      {text}
    </button>
  )
}
