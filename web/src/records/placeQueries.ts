import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

/** What else can be told of a site. */
export const siteDetailsOptions = queryOptions({
  queryKey: ['site-details'],
  queryFn: () => unwrap(client.GET('/api/site-details')),
  staleTime: Infinity,
})

export const featureKindsOptions = queryOptions({
  queryKey: ['featureKinds'],
  queryFn: () => unwrap(client.GET('/api/features')),
  staleTime: Infinity,
})

export const siteOptions = (id: number) =>
  queryOptions({
    queryKey: ['sites', 'page', id],
    queryFn: () => unwrap(client.GET('/api/sites/{site_id}', { params: { path: { site_id: id } } })),
  })

/** What is seen at a place is said first on every list. */
function useShown(siteId: number) {
  const queries = useQueryClient()
  return async (page: Schema['SitePageOut']) => {
    queries.setQueryData(siteOptions(siteId).queryKey, page)
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['heaters'] }),
      queries.invalidateQueries({ queryKey: ['outlook'] }),
      queries.invalidateQueries({ queryKey: ['open-ends'] }),
      queries.invalidateQueries({ queryKey: ['history'] }),
    ])
  }
}

export const placeOptions = (id: number) =>
  queryOptions({
    queryKey: ['sites', 'place', id],
    queryFn: () => unwrap(client.GET('/api/sites/{site_id}/place', { params: { path: { site_id: id } } })),
  })

export function useSetPlace(siteId: number) {
  const shown = useShown(siteId)
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['PlaceIn']) =>
      unwrap(client.PUT('/api/sites/{site_id}/place', { params: { path: { site_id: siteId } }, body })),
    onSuccess: async (page) => {
      await shown(page)
      void queries.invalidateQueries({ queryKey: ['sites', 'place'] })
    },
  })
}

export function useKeepFeature(siteId: number) {
  const shown = useShown(siteId)
  return useMutation({
    mutationFn: ({ id, body }: { id: number | null; body: Schema['FeatureIn'] }) =>
      id === null
        ? unwrap(client.POST('/api/sites/{site_id}/features', { params: { path: { site_id: siteId } }, body }))
        : unwrap(client.PATCH('/api/features/{feature_id}', { params: { path: { feature_id: id } }, body })),
    onSuccess: shown,
  })
}

export function useChangeSite(siteId: number) {
  const shown = useShown(siteId)
  return useMutation({
    mutationFn: (body: Schema['SitePatch']) =>
      unwrap(client.PATCH('/api/sites/{site_id}', { params: { path: { site_id: siteId } }, body })),
    onSuccess: shown,
  })
}

export type Recorded = 'heaters' | 'sites' | 'zones'

const HISTORIES = {
  heaters: (id: number) =>
    unwrap(client.GET('/api/heaters/{heater_id}/history', { params: { path: { heater_id: id } } })),
  sites: (id: number) => unwrap(client.GET('/api/sites/{site_id}/history', { params: { path: { site_id: id } } })),
  zones: (id: number) => unwrap(client.GET('/api/zones/{zone_id}/history', { params: { path: { zone_id: id } } })),
}

export const historyOptions = (of: Recorded, id: number) =>
  queryOptions({ queryKey: ['history', of, id], queryFn: () => HISTORIES[of](id) })

export function useUndo() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (change: string) => unwrap(client.POST('/api/changes/{change}/undo', { params: { path: { change } } })),
    onSuccess: () => queries.invalidateQueries(),
  })
}
