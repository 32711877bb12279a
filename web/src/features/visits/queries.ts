import { queryOptions, useMutation } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'
import { useMe } from '../../app/session'
import { device } from '../../device/store'
import { keepVisit, sendKept, takeBack } from '../../device/unsent'
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

/**
 * Record a visit: kept on the device first, then sent. Answers with what it moved, or null where it is only kept so far.
 * Raises what the server says against it; then it is not kept, since it has to be put right.
 */
export function useRecordVisit() {
  const refresh = useRefresh()
  const me = useMe()
  return useMutation({
    // Without a signal it is kept, and the mutation ends.
    networkMode: 'always',
    mutationFn: async ({ body, heater }: { body: Schema['VisitIn']; heater: string }) => {
      await keepVisit(body, me.id, heater)
      const answer = (await sendKept(me.id)).get(body.client_id)
      if (answer) return answer
      const kept = await device.unsent.get(body.client_id)
      if (!kept?.trouble) return null
      await takeBack(body.client_id)
      throw new Error(kept.trouble)
    },
    onSuccess: (answer) => (answer ? refresh() : undefined),
  })
}
