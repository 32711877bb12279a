import { queryOptions, useMutation } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'
import { useRefresh } from '../heaters/queries'

export const dueSoonOptions = (q: string) =>
  queryOptions({
    queryKey: ['outlook', 'visits', q],
    queryFn: () => unwrap(client.GET('/api/outlook', { params: { query: { q, limit: 40 } } })),
  })

export const supervisorsOptions = queryOptions({
  queryKey: ['supervisors'],
  queryFn: () => unwrap(client.GET('/api/supervisors')),
})

/** The guide for what is chosen; for what is planned or due where nothing was chosen yet. */
export const guideOptions = (heaterId: number, component: Schema['Component'][] | null = null) =>
  queryOptions({
    queryKey: ['visits', 'guide', heaterId, component],
    queryFn: () => unwrap(client.GET('/api/heaters/{heater_id}/guide', { params: { path: { heater_id: heaterId }, query: component ? { component } : {} } })),
    placeholderData: (before) => before,
    staleTime: 5 * 60_000,
  })

export function useRecordVisit() {
  const refresh = useRefresh()
  return useMutation({
    mutationFn: (body: Schema['VisitIn']) => unwrap(client.POST('/api/visits', { body })),
    onSuccess: refresh,
    // The visit's own id makes sending it again harmless.
    retry: (count, error) => count < 3 && 'status' in error && error.status === 503,
    retryDelay: 1500,
  })
}
