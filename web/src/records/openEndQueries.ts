import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export interface OpenEndFilters {
  q?: string
  state?: Schema['OpenEndState']
  severity?: Schema['Severity']
  kind?: Schema['OpenEndKind']
}

export const openEndsOptions = (filters: OpenEndFilters) =>
  queryOptions({
    queryKey: ['open-ends', 'list', filters],
    queryFn: () => unwrap(client.GET('/api/open-ends', { params: { query: { ...filters, limit: 300 } } })),
  })

export const campaignsOptions = queryOptions({
  queryKey: ['open-ends', 'campaigns'],
  queryFn: () => unwrap(client.GET('/api/campaigns')),
})

export const buildsOptions = queryOptions({
  queryKey: ['builds'],
  queryFn: () => unwrap(client.GET('/api/builds')),
})

function useSettled() {
  const queries = useQueryClient()
  return () =>
    Promise.all(
      ['open-ends', 'heaters', 'sites', 'history'].map((key) => queries.invalidateQueries({ queryKey: [key] })),
    )
}

export function useMoveOpenEnd() {
  const settled = useSettled()
  return useMutation({
    meta: { said: 'The issue is changed.' },
    mutationFn: ({ id, ...body }: Schema['StateIn'] & { id: number }) =>
      unwrap(client.POST('/api/open-ends/{open_end_id}/state', { params: { path: { open_end_id: id } }, body })),
    onSuccess: settled,
  })
}

export function useRaiseOpenEnd() {
  const settled = useSettled()
  return useMutation({
    meta: { said: 'The issue is open now.' },
    mutationFn: (body: Schema['OpenEndIn']) => unwrap(client.POST('/api/open-ends', { body })),
    onSuccess: settled,
  })
}

export function useStartCampaign() {
  const settled = useSettled()
  return useMutation({
    meta: { said: 'The campaign has begun.' },
    mutationFn: (body: Schema['CampaignIn']) => unwrap(client.POST('/api/campaigns', { body })),
    onSuccess: settled,
  })
}

export function useEndCampaign() {
  const settled = useSettled()
  return useMutation({
    meta: { said: 'The campaign is over.' },
    mutationFn: (id: number) =>
      unwrap(client.POST('/api/campaigns/{campaign_id}/end', { params: { path: { campaign_id: id } } })),
    onSuccess: settled,
  })
}
