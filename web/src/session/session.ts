import { queryOptions, useQuery } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export const meOptions = queryOptions({
  queryKey: ['me'],
  queryFn: () => unwrap(client.GET('/api/me')),
  staleTime: Infinity,
})

export const companyOptions = queryOptions({
  queryKey: ['company'],
  queryFn: () => unwrap(client.GET('/api/company')),
  staleTime: 600_000,
})

export const zonesOptions = queryOptions({
  queryKey: ['zones'],
  queryFn: () => unwrap(client.GET('/api/zones')),
  staleTime: 600_000,
})

/** Whoever is signed in; the shell waits for it, so below it there always is somebody. */
export function useMe(): Schema['MeOut'] {
  return useQuery(meOptions).data!
}

export function useCompany(): Schema['CompanyOut'] {
  return useQuery(companyOptions).data!
}

export function useMay(action: Schema['Action']): boolean {
  return useMe().may.includes(action)
}
