import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Phrase } from '../../ui/Phrase'
import { trialOptions, useSetPractice } from '../../records/outlookQueries'
import { useVersion } from '../../records/version'

const RISKS = [0.05, 0.1, 0.15, 0.2, 0.25, 0.33, 0.5]

const PRACTICES: Record<Schema['Practice'], string> = {
  condition: 'a date is set by risk',
  annual: 'everything is flushed yearly',
  hard_water_half_yearly: 'hard water is flushed half-yearly',
  long_service: 'long service with jetting',
}

export interface Tried {
  practice: Schema['Practice']
  tolerance: number
}

/** "1 in 5" */
export function riskWords(tolerance: number): string {
  return `1 in ${Math.round(1 / tolerance)}`
}

/** What the company follows, as words of a sentence; another choice is tried before anything is set. */
export function PracticeWords({ tried, onTry }: { tried: Tried; onTry: (tried: Tried) => void }) {
  const { tolerance: ours } = useCompany()
  const risks = [...new Set([...RISKS, ours, tried.tolerance])].sort((a, b) => a - b)
  return (
    <>
      Here
      <Phrase
        label="Practice"
        value={tried.practice}
        options={Object.entries(PRACTICES).map(([value, label]) => ({ value: value as Schema['Practice'], label }))}
        onChange={(practice) => onTry({ ...tried, practice })}
      />
      {tried.practice === 'condition' && (
        <>
          of
          <Phrase
            label="Accepted risk"
            value={String(tried.tolerance)}
            options={risks.map((one) => ({ value: String(one), label: riskWords(one) }))}
            onChange={(value) => onTry({ ...tried, tolerance: Number(value) })}
          />
        </>
      )}
      .
    </>
  )
}

/** The coming twelve months as they are set and as they would be, in work and in risk. */
export function TrialStrip({ tried, onBack }: { tried: Tried; onBack: () => void }) {
  const sets = useMay('set_practice')
  const found = useQuery(trialOptions(tried))
  const { version, onError } = useVersion(useCompany().version)
  const set = useSetPractice(onBack)
  return (
    <div
      role="status"
      aria-label="What it would change"
      className="flex min-h-[42px] shrink-0 items-center gap-5 border-b border-copper bg-sheet px-5"
    >
      {found.error && <span className="font-semibold text-oxide">{found.error.message}</span>}
      {!found.data && !found.error && <span className="text-soft">Computing the whole base that way …</span>}
      {found.data && (
        <>
          <strong>Tried, not set:</strong>
          <Figure now={found.data.now.services} tried={found.data.tried.services} what="services in twelve months" />
          <Figure now={found.data.now.hours} tried={found.data.tried.hours} what="hours at heaters" />
          <Figure now={found.data.now.over_days} tried={found.data.tried.over_days} what="days over a limit" />
          {found.data.asked_of < found.data.heaters && (
            <span className="text-fine text-soft">from {found.data.asked_of} of them</span>
          )}
        </>
      )}
      <div className="flex-1" />
      {set.error && (
        <span role="alert" className="font-semibold text-oxide">
          {set.error.message}
        </span>
      )}
      {sets && found.data && (
        <Button
          className="min-h-8"
          disabled={set.isPending}
          onClick={() => set.mutate({ ...tried, version }, { onError })}
        >
          Follow this from now on
        </Button>
      )}
      <Button look="quiet" className="min-h-8 px-2" onClick={onBack}>
        Back to ours
      </Button>
    </div>
  )
}

function Figure({ now, tried, what }: { now: number; tried: number; what: string }) {
  const more = tried - now
  return (
    <span className="whitespace-nowrap narrow:whitespace-normal">
      <strong className="text-lead">{tried.toLocaleString('en')}</strong> {what}
      <span className="text-soft">
        , {more === 0 ? 'as now' : `${Math.abs(more).toLocaleString('en')} ${more > 0 ? 'more' : 'fewer'}`}
      </span>
    </span>
  )
}
