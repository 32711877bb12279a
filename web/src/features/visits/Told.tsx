import type { Schema } from '../../api/client'
import { fieldText, isQuantity, label, type Units } from '../../lib/units'
import { Hazard } from '../../ui/States'
import type { Answers, Value } from './answers'
import { AnswerSheet } from './AnswerSheet'
import { Toggle } from './controls'
import { judged } from './guide/judged'
import { Verdicts } from './guide/Verdicts'
import { asked, questionsOf, type Group, type Question } from './questions'

interface ToldProps {
  group: Group
  isTank: boolean
  observations: Schema['ObservationOut'][]
  answers: Answers
  rules: Schema['OnSiteRuleOut'][]
  usual: Record<string, number[]>
  units: Units
  onAnswer: (field: string, value: Value) => void
}

/** One thing that was looked at: what was told of it in a line, opened to tell more. */
export function Told({ group, isTank, observations, answers, rules, usual, units, onAnswer }: ToldProps) {
  const questions = questionsOf(group.asks, isTank, true, observations)
  const skipped = `${group.of}.skipped`
  const words =
    answers[skipped] === true
      ? group.skips
      : asked(questions, answers)
          .flatMap((one) => worded(one, answers[one.field], units))
          .join(', ')
  return (
    <details className="border-b border-line last:border-0">
      <summary className="min-h-13 cursor-pointer px-4 py-3">
        <strong>{group.name}</strong> <span className="text-body text-soft">{words || 'not told'}</span>
      </summary>
      <div className="space-y-3 px-4 pb-4">
        {group.hazards.map((one) => (
          <Hazard key={one}>{one}</Hazard>
        ))}
        <AnswerSheet questions={questions} answers={answers} usual={usual} units={units} onAnswer={onAnswer} />
        {group.skips && (
          <Toggle
            text={group.skips}
            on={answers[skipped] === true}
            onToggle={() => onAnswer(skipped, answers[skipped] !== true)}
          />
        )}
        <Verdicts
          judged={judged(
            rules,
            answers,
            questions.map((one) => one.field),
          )}
        />
      </div>
    </details>
  )
}

function worded(question: Question, value: Value | undefined, units: Units): string[] {
  if (value === null || value === undefined || value === false) return []
  if (question.kind === 'words') return [String(value)]
  if (question.kind === 'toggle') return [question.title.toLowerCase()]
  if (question.kind === 'seen') {
    const look = question.looks.find((one) => one.value === value)
    return [`${question.title.toLowerCase()}: ${look?.words ?? String(value)}`]
  }
  if (question.kind === 'grades') return [question.options.find((one) => one.value === value)?.label ?? String(value)]
  const text = isQuantity(units, question.unit)
    ? `${fieldText(units, question.unit, value as number)} ${label(units, question.unit)}`
    : `${value} ${question.unit}`
  return [text]
}
