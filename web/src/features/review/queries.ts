import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'

export const heldOptions = queryOptions({
  queryKey: ['review', 'forecasts'],
  queryFn: () => unwrap(client.GET('/api/review/forecasts')),
})

export const practicesOptions = queryOptions({
  queryKey: ['review', 'practices'],
  queryFn: () => unwrap(client.GET('/api/review/practices')),
})

export const workOptions = queryOptions({
  queryKey: ['review', 'work'],
  queryFn: () => unwrap(client.GET('/api/review/work')),
})

export const hoursOptions = queryOptions({
  queryKey: ['review', 'hours'],
  queryFn: () => unwrap(client.GET('/api/review/hours')),
})

export const replacementsOptions = queryOptions({
  queryKey: ['review', 'replacements'],
  queryFn: () => unwrap(client.GET('/api/review/replacements')),
})

/** What was reckoned of the years ahead, the newest first; looked at again while some of it is being reckoned. */
export const projectionsOptions = queryOptions({
  queryKey: ['projections'],
  queryFn: () => unwrap(client.GET('/api/projections')),
  refetchInterval: (query) => (query.state.data?.some((one) => one.state === 'working') ? 1000 : false),
})

export const projectionOptions = (id: number) =>
  queryOptions({
    queryKey: ['projections', id],
    queryFn: () => unwrap(client.GET('/api/projections/{projection_id}', { params: { path: { projection_id: id } } })),
    refetchInterval: (query) => (query.state.data?.state === 'working' ? 1000 : false),
  })

export const besideOptions = (id: number, other: number) =>
  queryOptions({
    queryKey: ['projections', id, 'beside', other],
    queryFn: () =>
      unwrap(
        client.GET('/api/projections/{projection_id}/beside/{other_id}', {
          params: { path: { projection_id: id, other_id: other } },
        }),
      ),
  })

export const projectionsHeldOptions = queryOptions({
  queryKey: ['projections', 'held'],
  queryFn: () => unwrap(client.GET('/api/projections/held')),
})

/** Have the years ahead reckoned under some decisions. */
export function useTry() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['ProjectionIn']) => unwrap(client.POST('/api/projections', { body })),
    // Nobody waits for the list: what was asked for is on its way.
    onSuccess: () => void queries.invalidateQueries({ queryKey: projectionsOptions.queryKey }),
  })
}

export function useDropProjection() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (id: number) => {
      const answer = client.DELETE('/api/projections/{projection_id}', { params: { path: { projection_id: id } } })
      return unwrap(answer.then((one) => ({ ...one, data: null })))
    },
    // Nobody waits for the list: what was asked for is on its way.
    onSuccess: () => void queries.invalidateQueries({ queryKey: projectionsOptions.queryKey }),
  })
}

export const demandOptions = queryOptions({
  queryKey: ['demand'],
  queryFn: () => unwrap(client.GET('/api/demand')),
})

export function useReckonDemand() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: () => unwrap(client.POST('/api/demand').then((one) => ({ ...one, data: null }))),
    onSuccess: () => setTimeout(() => void queries.invalidateQueries({ queryKey: ['demand'] }), 20_000),
  })
}
