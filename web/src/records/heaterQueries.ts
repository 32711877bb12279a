import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'
import type { operations } from '../api/schema.gen'

export interface HeaterFilters {
  q?: string
  guessed?: boolean
  archived?: boolean
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

export type Tried = NonNullable<operations['aquifer_forecasts_api_what_if']['parameters']['query']>

/** What a change would do; the server computes it in a tenth of a second, so it is asked for as the slider moves. */
export const whatIfOptions = (id: number, tried: Tried) =>
  queryOptions({
    queryKey: ['heaters', id, 'what-if', tried],
    queryFn: () =>
      unwrap(client.GET('/api/heaters/{heater_id}/what-if', { params: { path: { heater_id: id }, query: tried } })),
    staleTime: 60_000,
  })

/** Ten years of a tank in money. */
export const tenYearsOptions = (
  heaterId: number,
  asked: { energy_kwh: number | null; energy_price: number | null; damage: number | null },
) =>
  queryOptions({
    queryKey: ['heaters', heaterId, 'ten-years', asked],
    queryFn: () =>
      unwrap(
        client.GET('/api/heaters/{heater_id}/ten-years', {
          params: { path: { heater_id: heaterId }, query: asked },
        }),
      ),
    retry: false,
  })

/** Teach where a maker's serials tell their date. */
export function useTeachSerial(heaterId: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['SerialPatternIn']) => unwrap(client.PUT('/api/serial-patterns', { body })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: heaterOptions(heaterId).queryKey }),
  })
}

export const equipmentOptions = queryOptions({
  queryKey: ['equipment'],
  queryFn: () => unwrap(client.GET('/api/equipment')),
  staleTime: Infinity,
})

export const taggedOptions = (tag: string) =>
  queryOptions({
    queryKey: ['tags', tag],
    queryFn: () => unwrap(client.GET('/api/tags', { params: { query: { tag } } })),
  })

export const findOptions = (q: string) =>
  queryOptions({
    queryKey: ['find', q],
    queryFn: () => unwrap(client.GET('/api/find', { params: { query: { q } } })),
  })

export const viewsOptions = (place: Schema['Place']) =>
  queryOptions({
    queryKey: ['views', place],
    queryFn: () => unwrap(client.GET('/api/views', { params: { query: { place } } })),
  })

export const duplicatesOptions = queryOptions({
  queryKey: ['heaters', 'duplicates'],
  queryFn: () => unwrap(client.GET('/api/duplicates')),
})

export const gapsOptions = (kind: Schema['Gap'] | undefined) =>
  queryOptions({
    queryKey: ['gaps', kind],
    queryFn: () => unwrap(client.GET('/api/gaps', { params: { query: { ...(kind ? { kind } : {}), limit: 300 } } })),
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
      queries.invalidateQueries({ queryKey: ['sites'] }),
      queries.invalidateQueries({ queryKey: ['history'] }),
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

export function useFitPart(heaterId: number) {
  const refresh = useRefresh()
  return useMutation({
    mutationFn: (body: Schema['FitIn']) =>
      unwrap(client.POST('/api/heaters/{heater_id}/parts', { params: { path: { heater_id: heaterId } }, body })),
    onSuccess: refresh,
  })
}

export function useCorrectPart(partId: number) {
  const refresh = useRefresh()
  return useMutation({
    mutationFn: (body: Schema['PartPatch']) =>
      unwrap(client.PATCH('/api/parts/{part_id}', { params: { path: { part_id: partId } }, body })),
    onSuccess: refresh,
  })
}

export function useArchive(heaterId: number) {
  const refresh = useRefresh()
  const params = { path: { heater_id: heaterId } }
  return useMutation({
    mutationFn: (end: Schema['EndIn']) =>
      unwrap(client.POST('/api/heaters/{heater_id}/archive', { params, body: end })),
    onSuccess: refresh,
  })
}

export function useRestore(heaterId: number) {
  const refresh = useRefresh()
  const params = { path: { heater_id: heaterId } }
  return useMutation({
    mutationFn: () => unwrap(client.POST('/api/heaters/{heater_id}/restore', { params })),
    onSuccess: refresh,
  })
}

export function useMerge() {
  const refresh = useRefresh()
  return useMutation({
    meta: { said: 'The two are one heater now.' },
    mutationFn: ({ kept, other }: { kept: number; other: number }) =>
      unwrap(
        client.POST('/api/heaters/{heater_id}/merge', {
          params: { path: { heater_id: kept } },
          body: { other_id: other },
        }),
      ),
    onSuccess: refresh,
  })
}

export function useBulkPreview() {
  return useMutation({
    mutationFn: (body: Schema['BulkIn']) => unwrap(client.POST('/api/heaters/bulk/preview', { body })),
  })
}

export function useBulkChange() {
  const refresh = useRefresh()
  return useMutation({
    mutationFn: (body: Schema['BulkChangeIn']) => unwrap(client.POST('/api/heaters/bulk', { body })),
    onSuccess: refresh,
  })
}

export function useKeepView(place: Schema['Place']) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['ViewIn']) => unwrap(client.POST('/api/views', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['views', place] }),
  })
}

export function useAddSite() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['SiteIn']) => unwrap(client.POST('/api/sites', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['sites'] }),
  })
}
