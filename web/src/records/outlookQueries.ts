import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export interface OutlookFilters {
  zone_id?: number | undefined
  kind?: Schema['HeaterKind'] | undefined
  until?: string | undefined
  order: Schema['Order']
}

const PAGE = 100

export const outlookOptions = (filters: OutlookFilters) =>
  infiniteQueryOptions({
    queryKey: ['outlook', filters],
    queryFn: ({ pageParam }) =>
      unwrap(client.GET('/api/outlook', { params: { query: { ...given(filters), offset: pageParam, limit: PAGE } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.offset + last.rows.length < last.total ? last.offset + PAGE : undefined),
  })

/** The strata above the rows; asked for beside them, so that neither waits for the other. */
export const weeksOptions = ({ zone_id, kind, until }: OutlookFilters) =>
  queryOptions({
    queryKey: ['outlook', 'weeks', { zone_id, kind, until }],
    queryFn: () => unwrap(client.GET('/api/outlook/weeks', { params: { query: given({ zone_id, kind, until }) } })),
  })

export const trialOptions = (tried: Schema['PracticeIn']) =>
  queryOptions({
    queryKey: ['outlook', 'trial', tried],
    queryFn: () => unwrap(client.GET('/api/outlook/trial', { params: { query: tried } })),
  })

/** Every forecast is computed anew after this, so everything shown is asked for again. */
export function useSetPractice(onSet: () => void) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['PracticeIn']) => unwrap(client.PUT('/api/outlook/practice', { body })),
    onSuccess: () => {
      void queries.invalidateQueries()
      onSet()
    },
  })
}

export const forecastOptions = (heaterId: number) =>
  queryOptions({
    queryKey: ['heaters', heaterId, 'forecast'],
    queryFn: () =>
      unwrap(client.GET('/api/heaters/{heater_id}/forecast', { params: { path: { heater_id: heaterId } } })),
  })

export const changesOptions = (heaterId: number) =>
  queryOptions({
    queryKey: ['heaters', heaterId, 'changes'],
    queryFn: () =>
      unwrap(client.GET('/api/heaters/{heater_id}/changes', { params: { path: { heater_id: heaterId } } })),
  })

/** Only what was chosen goes into the address. */
function given<T extends object>(filters: T): T {
  return Object.fromEntries(Object.entries(filters).filter(([, value]) => value !== undefined && value !== '')) as T
}
