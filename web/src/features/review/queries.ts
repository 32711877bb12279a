import { queryOptions } from '@tanstack/react-query'

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

export const replacementsOptions = queryOptions({
  queryKey: ['review', 'replacements'],
  queryFn: () => unwrap(client.GET('/api/review/replacements')),
})

/** The years ahead under the company's practice and another; a second or two of reckoning. */
export const aheadOptions = (years: number, practice: Schema['Practice']) =>
  queryOptions({
    queryKey: ['review', 'ahead', years, practice],
    queryFn: () => unwrap(client.GET('/api/review/ahead', { params: { query: { years, practice } } })),
    placeholderData: (before) => before,
    staleTime: 5 * 60_000,
  })
