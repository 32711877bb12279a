import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export const zoneMapOptions = queryOptions({
  queryKey: ['zones', 'map'],
  queryFn: () => unwrap(client.GET('/api/zones/map')),
})

export type MapBox = { west: number; south: number; east: number; north: number }

/** Heaters on a piece of the map, all of it if null, by squares. */
export const heaterMapOptions = (box: MapBox | null, component: Schema['Component'] | undefined) =>
  queryOptions({
    queryKey: ['heaters', 'map', box, component],
    queryFn: () =>
      unwrap(client.GET('/api/heater-map', { params: { query: { ...(box ?? {}), ...(component && { component }) } } })),
  })

export const zoneOptions = (id: number) =>
  queryOptions({
    queryKey: ['zones', id],
    queryFn: () => unwrap(client.GET('/api/zones/{zone_id}', { params: { path: { zone_id: id } } })),
  })

/** Change a zone, or make one where there is none yet. */
export function useKeepZone(zoneId: number | null) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['ZoneIn']) =>
      zoneId === null
        ? unwrap(client.POST('/api/zones', { body }))
        : unwrap(client.PUT('/api/zones/{zone_id}', { params: { path: { zone_id: zoneId } }, body })),
    onSuccess: () => {
      for (const key of ['zones', 'history', 'sites']) void queries.invalidateQueries({ queryKey: [key] })
    },
  })
}

export function useAddTest(zoneId: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['TestIn']) =>
      unwrap(client.POST('/api/zones/{zone_id}/tests', { params: { path: { zone_id: zoneId } }, body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['zones'] }),
  })
}

export function useFetchSupplier(zoneId: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: () => unwrap(client.POST('/api/zones/{zone_id}/supplier', { params: { path: { zone_id: zoneId } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['zones'] }),
  })
}
