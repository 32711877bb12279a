import { Field } from '../../ui/Field'
import type { Units } from '../../lib/units'
import type { Answers, Value } from './answers'
import { Measure, Toggle } from './controls'
import { canRead } from '../../instruments/instrument'
import { FromInstrument } from './FromInstrument'
import { Grades } from './Grades'
import { Looked } from './Looked'
import { asked, type Question } from './questions'

interface Props {
  questions: Question[]
  answers: Answers
  usual: Record<string, number[]>
  units: Units
  /** Where instruments may be read; nowhere if it is left out. */
  at?: { heaterId: number; isDemo: boolean }
  onAnswer: (field: string, value: Value) => void
}

/** Questions with their answers: by looking and comparing, by a reading, by a yes. */
export function AnswerSheet({ questions, answers, usual, units, at, onAnswer }: Props) {
  return (
    <div className="space-y-3">
      {asked(questions, answers).map((one) => {
        const value = answers[one.field] ?? null
        if (one.kind === 'toggle')
          return (
            <Toggle
              key={one.field}
              text={one.title}
              on={value === true}
              onToggle={() => onAnswer(one.field, value !== true)}
            />
          )
        if (one.kind === 'words')
          return (
            <Field
              key={one.field}
              className="[&_input]:h-12"
              label={one.title}
              placeholder={one.placeholder}
              maxLength={80}
              defaultValue={typeof value === 'string' ? value : ''}
              onBlur={(event) => {
                const typed = event.target.value.trim()
                if (typed !== (value ?? '')) onAnswer(one.field, typed || null)
              }}
            />
          )
        if (one.kind === 'seen')
          return (
            <Looked
              key={one.field}
              question={one}
              value={value as string | null}
              onChange={(chosen) => onAnswer(one.field, chosen)}
            />
          )
        if (one.kind === 'measure') {
          return (
            <div key={one.field}>
              <Measure
                // What an instrument told stands in the field as if it had been typed.
                key={String(answers[courseOf(one.field)] ?? '')}
                label={one.title}
                unit={one.unit}
                units={units}
                value={value as number | null}
                usual={usual[one.field]}
                onChange={(typed) => onAnswer(one.field, typed)}
              />
              {at && canRead(one.unit) && (
                <FromInstrument
                  field={one.field}
                  unit={one.unit}
                  units={units}
                  heaterId={at.heaterId}
                  isDemo={at.isDemo}
                  usual={usual[one.field]}
                  onTake={(read, course) => {
                    onAnswer(one.field, read)
                    onAnswer(courseOf(one.field), course)
                  }}
                />
              )}
            </div>
          )
        }
        return (
          <section key={one.field}>
            <p aria-hidden className="mb-2 text-body font-semibold text-soft">
              {one.title}
            </p>
            <Grades
              label={one.title}
              columns={one.columns}
              value={value as string | null}
              options={one.options}
              onChange={(chosen) => onAnswer(one.field, chosen)}
            />
          </section>
        )
      })}
    </div>
  )
}

const HOW: Record<string, string> = {
  'flush.depth_before_mm':
    'Before the flush, put a rod through the drain or the anode’s port and read how deep the deposit lies.',
  'flush.depth_after_mm':
    'After the flush, before it is filled, read the same way how deep what is left lies. Nothing is a reading: 0.',
  'rod.diameter_mm': 'Put a calliper on the rod where it looks average, grit brushed off.',
  'descale.dissolved_g': 'Acid spent times its strength is what dissolved: the calculator does it.',
}

/** On about one visit in twenty, drawn by the program: a measurement anchors what everybody grades by eye. */
export function Drawn({ fields }: { fields: string[] }) {
  const how = fields.flatMap((one) => HOW[one] ?? [])
  if (how.length === 0) return null
  return (
    <section className="rounded-xl border-2 border-water bg-sheet p-4">
      <h2 className="font-bold">This visit was drawn for a measurement</h2>
      {how.map((one) => (
        <p key={one} className="mt-1 text-body text-soft">
          {one} Grade it by eye as well.
        </p>
      ))}
    </section>
  )
}

/** Where the course of a reading is kept. */
const courseOf = (field: string) => `course.${field.replace('.', '_')}`
