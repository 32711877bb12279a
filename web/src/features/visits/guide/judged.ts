import type { Schema } from '../../../api/client'
import type { Answers } from '../answers'

export interface Judged {
  rule: Schema['OnSiteRuleOut']
  verdict: Schema['OnSiteCaseOut']
}

/** What the rules say of what was answered, where one of these fields bears on it. */
export function judged(rules: Schema['OnSiteRuleOut'][], answers: Answers, fields: string[]): Judged[] {
  return rules.flatMap((rule) => {
    if (!rule.answers.some((one) => fields.includes(one.field) && told(answers, one) !== null)) return []
    const at = rule.answers.map((one) => told(answers, one))
    const verdict = rule.cases.find((one) => one.at.every((word, place) => word === at[place]))
    return verdict ? [{ rule, verdict }] : []
  })
}

function told(answers: Answers, { field, above }: Schema['OnSiteAnswerOut']): string | null {
  const value = answers[field]
  if (value === null || value === undefined || value === false) return null
  if (above !== null && above !== undefined) return Number(value) > above ? 'above' : 'below'
  return String(value)
}
