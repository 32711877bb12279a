import clsx from 'clsx'
import { useState } from 'react'

import { Grades } from './Grades'
import type { Question } from './questions'

interface Props {
  question: Extract<Question, { kind: 'seen' }>
  value: string | null
  onChange: (value: string | null) => void
}

const CHOICE = 'min-h-12 rounded-lg border-2 bg-ground px-3 text-body leading-tight'

/** Something that is looked at: one tap where it is as it should be; else how it looks, and what to do about it. */
export function Looked({ question, value, onChange }: Props) {
  const [right, ...others] = question.looks
  const chosen = question.looks.find((one) => one.value === value)
  const wrong = chosen !== undefined && chosen !== right
  const [open, setOpen] = useState(wrong)
  if (!right) return null
  const isRight = chosen === right
  return (
    <section className="space-y-2">
      <p aria-hidden className="text-body font-semibold text-soft">
        {question.title}
      </p>
      <div className="grid grid-cols-[2fr_1fr] gap-2">
        <button
          type="button"
          aria-label={`${question.title}: ${right.words}`}
          aria-pressed={isRight}
          className={`${CHOICE} ${isRight ? 'border-copper font-bold text-copper' : 'border-line'}`}
          onClick={() => {
            setOpen(false)
            onChange(isRight ? null : right.value)
          }}
        >
          {right.words}
        </button>
        <button
          type="button"
          aria-label={`${question.title}: not so`}
          aria-expanded={open}
          className={`${CHOICE} ${wrong ? 'border-copper font-bold text-copper' : 'border-line'}`}
          onClick={() => setOpen(!open)}
        >
          not so …
        </button>
      </div>
      {open && (
        <Grades
          label={question.title}
          columns={2}
          value={value}
          options={others.map((one) => ({ value: one.value, label: one.words }))}
          onChange={onChange}
        />
      )}
      {chosen?.advice && (
        <p
          role="status"
          className={clsx(
            'border-l-4 pl-3 text-body',
            chosen.severity === 'danger' ? 'border-oxide font-semibold text-oxide' : 'border-ochre',
          )}
        >
          {chosen.advice[0]!.toUpperCase() + chosen.advice.slice(1)}.
        </p>
      )}
    </section>
  )
}
