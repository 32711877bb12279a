import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'

export interface HeaterFilters {
  q?: string
  zone_id?: number | undefined
  kind?: Schema['HeaterKind'] | undefined
  limit?: number
  offset?: number
}

export const heatersOptions = (filters: HeaterFilters) =>
  queryOptions({
    queryKey: ['heaters', 'list', filters],
    queryFn: () => unwrap(client.GET('/api/heaters', { params: { query: filters } })),
  })

const PAGE = 100

export const registerOptions = (filters: HeaterFilters) =>
  infiniteQueryOptions({
    queryKey: ['heaters', 'register', filters],
    queryFn: ({ pageParam }) =>
      unwrap(client.GET('/api/heaters', { params: { query: { ...filters, offset: pageParam, limit: PAGE } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (pages.length * PAGE < last.total ? pages.length * PAGE : undefined),
  })

export const heaterOptions = (id: number) =>
  queryOptions({
    queryKey: ['heaters', id],
    queryFn: () => unwrap(client.GET('/api/heaters/{heater_id}', { params: { path: { heater_id: id } } })),
  })

export const logOptions = (id: number) =>
  queryOptions({
    queryKey: ['heaters', id, 'log'],
    queryFn: () => unwrap(client.GET('/api/heaters/{heater_id}/log', { params: { path: { heater_id: id } } })),
  })

export const sitesOptions = (q: string) =>
  queryOptions({
    queryKey: ['sites', q],
    queryFn: () => unwrap(client.GET('/api/sites', { params: { query: { q, limit: 12 } } })),
  })

/** Whatever changes a heater may move every date on its water. */
export function useRefresh() {
  const queries = useQueryClient()
  return async () => {
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['heaters'] }),
      queries.invalidateQueries({ queryKey: ['outlook'] }),
    ])
  }
}

export function useAddHeater() {
  const refresh = useRefresh()
  return useMutation({
    mutationFn: (body: Schema['HeaterIn']) => unwrap(client.POST('/api/heaters', { body })),
    onSuccess: refresh,
  })
}

export function useChangeHeater(id: number) {
  const refresh = useRefresh()
  return useMutation({
    mutationFn: (body: Schema['HeaterPatch']) =>
      unwrap(client.PATCH('/api/heaters/{heater_id}', { params: { path: { heater_id: id } }, body })),
    onSuccess: refresh,
  })
}

export function useAddSite() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['SiteIn']) => unwrap(client.POST('/api/sites', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['sites'] }),
  })
}
