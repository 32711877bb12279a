import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'

import { useCompany, useMay } from '../session/session'
import { siteVisitsOptions } from './roundQueries'
import { REASONS, serviceWords, STANDINGS, whenWords } from './roundWords'

/** When somebody comes next: what whoever rings asks first. */
export function NextVisit({ siteId }: { siteId: number }) {
  const { today } = useCompany()
  const plans = useMay('plan')
  const { data } = useQuery(siteVisitsOptions(siteId))
  if (!data) return null
  const [next, ...later] = data
  return (
    <div className="border-l-4 border-water pl-3">
      {next ? (
        <p>
          <strong>{whenWords(next, today)}</strong>, {STANDINGS[next.standing]}
          {next.technician && `, ${next.technician}`}
          <span className="block text-fine text-soft">
            {next.reason === 'due'
              ? serviceWords(next.services)
              : [REASONS[next.reason], next.said].filter(Boolean).join(': ')}
            {later.length > 0 && ` · ${later.length} more after it`}
          </span>
        </p>
      ) : (
        <p className="text-soft">No visit is planned.</p>
      )}
      <p className="flex gap-4">
        <Link to={`/sites/${siteId}/call`} className="text-copper-deep underline underline-offset-2">
          {plans ? 'Move, confirm or book' : 'All visits to come'}
        </Link>
        {next && plans && (
          <Link
            to={`/rounds?visit=${next.id}&on=${next.on ?? next.week}`}
            className="text-copper-deep underline underline-offset-2"
          >
            On the board
          </Link>
        )}
      </p>
    </div>
  )
}
