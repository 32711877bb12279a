import { sentence } from '../../../lib/words'
import { VERDICTS } from '../../../lib/verdicts'
import type { Judged } from './judged'

/** Judgement at the moment it is needed: the verdict, why, what others would do, and who may decide. */
export function Verdicts({ judged }: { judged: Judged[] }) {
  return judged.map(({ rule, verdict }) => (
    <section key={rule.rule} aria-label={rule.question} className="rounded-xl border-l-8 border-water bg-sheet p-4">
      <p className="text-body text-soft">{rule.question}</p>
      <h2 className="text-title">{VERDICTS[verdict.verdict] ?? sentence(verdict.verdict.replaceAll('_', ' '))}</h2>
      <p className="mt-1">{sentence(verdict.because.join('; '))}.</p>
      {(verdict.ask_lead || verdict.licensed) && (
        <p className="mt-1 font-semibold">
          {[
            verdict.ask_lead && 'The lead decides.',
            verdict.licensed && 'Work for a licensed person, where the local code says so.',
          ]
            .filter(Boolean)
            .join(' ')}
        </p>
      )}
      {rule.options.length > 0 && (
        <details className="mt-2 text-body text-soft">
          <summary className="min-h-8">Where practice differs</summary>
          <ul className="list-disc pl-5">
            {rule.options.map((one) => (
              <li key={one.says}>
                {one.says} {one.follows && <strong>So we do.</strong>}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  ))
}
