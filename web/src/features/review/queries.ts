import { queryOptions } from '@tanstack/react-query'

import { client, unwrap } from '../../api/client'

export const heldOptions = queryOptions({
  queryKey: ['review', 'forecasts'],
  queryFn: () => unwrap(client.GET('/api/review/forecasts')),
})

/** The server tries every practice on the base: it takes a moment, and stands for as long as the day. */
export const practicesOptions = queryOptions({
  queryKey: ['review', 'practices'],
  queryFn: () => unwrap(client.GET('/api/review/practices')),
  staleTime: 600_000,
})

export const replacementsOptions = queryOptions({
  queryKey: ['review', 'replacements'],
  queryFn: () => unwrap(client.GET('/api/review/replacements')),
})
