import type { Schema } from '../../api/client'
import { useAnnounce } from '../../ui/announce'
import { Button } from '../../ui/Button'
import { useAskForPlan, useStopPlanning } from '../../records/roundQueries'

/** Plan anew; while it works, how far it is and a way to stop. The plan in force stays until it is done. */
export function Planning({
  season,
  today,
  weeks = 52,
}: {
  season: Schema['PlannedSeasonOut']
  today: string
  weeks?: number
}) {
  const ask = useAskForPlan()
  const stop = useStopPlanning()
  const busy = season.under_way
  useAnnounce(
    busy
      ? `Planning: ${busy.stage || 'waiting for a worker'}`
      : season.last?.state === 'failed'
        ? 'Planning failed'
        : 'The plan stands',
  )
  if (busy) {
    return (
      <p className="flex items-center gap-3">
        <progress className="h-2.5 w-40" max={1} value={busy.share} aria-label="Progress of the planning" />
        <span className="text-soft">{busy.stage || 'waiting for a worker'}</span>
        <Button look="quiet" disabled={stop.isPending} onClick={() => stop.mutate(busy.id)}>
          Stop
        </Button>
      </p>
    )
  }
  const failed = season.last?.state === 'failed' ? season.last : null
  return (
    <p className="flex items-center gap-3">
      {ask.error && (
        <span role="alert" className="font-semibold text-oxide">
          {ask.error.message}
        </span>
      )}
      {failed && !ask.error && (
        <span className="text-oxide">
          The last planning failed; the plan before stays.{failed.message && ` ${failed.message}`}
        </span>
      )}
      <Button
        disabled={ask.isPending}
        className="min-h-8"
        onClick={() => ask.mutate({ kind: 'season', first: today, weeks })}
      >
        {season.run ? 'Plan again' : 'Plan the season'}
      </Button>
    </p>
  )
}
