import type { Schema } from '../../api/client'
import { clockIn, dateWords, dayIn } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { useEndSession } from './queries'

/** Where one is signed in, each to be ended from here. */
export function Sessions({ sessions }: { sessions: Schema['SessionOut'][] }) {
  const { today, timezone } = useCompany()
  const end = useEndSession()
  const when = (at: string) => `${dateWords(dayIn(timezone, at), today)}, ${clockIn(timezone, at)}`
  return (
    <ul className="border-b border-line">
      {sessions.map((one) => (
        <li key={one.key} className="flex min-h-11 items-baseline gap-3 border-t border-line py-2">
          <span className="flex-1">
            <span className="font-semibold">{deviceOf(one.agent)}</span>
            {one.address && <span className="text-soft"> at {one.address}</span>}
            <span className="block text-fine text-soft">
              {one.began && `since ${when(one.began)}`}
              {one.seen && !one.here && `, last used ${when(one.seen)}`}
            </span>
          </span>
          {one.here ? (
            <span className="text-soft">this one</span>
          ) : (
            <Button look="quiet" disabled={end.isPending} onClick={() => end.mutate(one.key)}>
              Sign out there
            </Button>
          )}
        </li>
      ))}
    </ul>
  )
}

const deviceOf = (agent: string) =>
  /Mobi|Android|iPhone|iPad/.test(agent)
    ? 'A phone or tablet'
    : agent
      ? 'A computer'
      : 'Something that names itself not'
