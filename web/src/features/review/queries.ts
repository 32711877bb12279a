import { queryOptions } from '@tanstack/react-query'

import { client, unwrap } from '../../api/client'

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

export const replacementsOptions = queryOptions({
  queryKey: ['review', 'replacements'],
  queryFn: () => unwrap(client.GET('/api/review/replacements')),
})
