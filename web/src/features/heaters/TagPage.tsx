import { useQuery } from '@tanstack/react-query'
import { Navigate, useParams } from 'react-router'

import { useMay } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { taggedOptions } from '../../records/heaterQueries'

/** What a scanned label opens: the visit for who records visits on a phone, else the heater's page. */
export function TagPage() {
  const tag = useParams()['*'] ?? ''
  const records = useMay('record_visit')
  const { data, error, refetch } = useQuery(taggedOptions(tag))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what={`the heater with the tag ${tag}`} />
  const phone = window.matchMedia('(max-width: 700px)').matches
  return <Navigate to={records && phone ? `/visit/${data.id}` : `/heaters/${data.id}`} replace />
}
