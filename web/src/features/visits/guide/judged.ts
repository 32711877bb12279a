import type { Schema } from '../../../api/client'
import type { Answers } from '../answers'

export interface Judged {
  moment: Schema['MomentOut']
  verdict: Schema['MomentCaseOut']
}

/** What the rules say of what was answered, where one of these fields bears on it. */
export function judged(moments: Schema['MomentOut'][], answers: Answers, fields: string[]): Judged[] {
  return moments.flatMap((moment) => {
    if (!moment.answers.some((one) => fields.includes(one.field) && told(answers, one) !== null)) return []
    const at = moment.answers.map((one) => told(answers, one))
    const verdict = moment.cases.find((one) => one.at.every((word, place) => word === at[place]))
    return verdict ? [{ moment, verdict }] : []
  })
}

function told(answers: Answers, { field, above }: Schema['MomentAnswerOut']): string | null {
  const value = answers[field]
  if (value === null || value === undefined || value === false) return null
  if (above !== null && above !== undefined) return Number(value) > above ? 'above' : 'below'
  return String(value)
}
