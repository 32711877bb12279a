import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'
import type { paths } from '../../api/schema.gen'

export type Asked = paths['/api/bench/lives']['get']['parameters']['query']

export interface Side {
  care: Asked['care'][number]
  softened: boolean
  setpoint_c: number
}

export const livesOptions = (query: Asked) =>
  queryOptions({
    queryKey: ['bench', 'lives', query],
    queryFn: () => unwrap(client.GET('/api/bench/lives', { params: { query } })),
    placeholderData: (before) => before,
    staleTime: 60_000,
  })

export const exchangerLivesOptions = (query: Asked) =>
  queryOptions({
    queryKey: ['bench', 'exchanger-lives', query],
    queryFn: () => unwrap(client.GET('/api/bench/exchanger-lives', { params: { query } })),
    placeholderData: (before) => before,
    staleTime: 60_000,
  })

export const scenariosOptions = queryOptions({
  queryKey: ['bench', 'scenarios'],
  queryFn: () => unwrap(client.GET('/api/bench/scenarios')),
})

export const peopleOptions = queryOptions({
  queryKey: ['bench', 'people'],
  queryFn: () => unwrap(client.GET('/api/bench/people')),
})

/**
 * Where a practice stands after its acts; each second is an answer of its own, and the last stays until it is there.
 */
export const practiceOptions = (body: Schema['AtBenchIn']) =>
  queryOptions({
    queryKey: ['bench', 'practice', body],
    queryFn: () => unwrap(client.POST('/api/bench/practice', { body })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 5_000,
    retry: 1,
  })

export function useEnding() {
  const known = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['AtBenchIn']) => unwrap(client.POST('/api/bench/practised', { body })),
    // The grade is shown at once; how one stands is read again meanwhile.
    onSuccess: () => void known.invalidateQueries({ queryKey: ['bench', 'scenarios'] }),
  })
}

export const troublesOptions = queryOptions({
  queryKey: ['bench', 'troubles'],
  queryFn: () => unwrap(client.GET('/api/bench/troubles')),
})

/** Where a search stands after its deeds; what was before stays until it is there. */
export const searchOptions = (body: Schema['SearchIn']) =>
  queryOptions({
    queryKey: ['bench', 'search', body],
    queryFn: () => unwrap(client.POST('/api/bench/search', { body })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 5_000,
    retry: 1,
  })

export function useSearched() {
  const known = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['SearchIn']) => unwrap(client.POST('/api/bench/searched', { body })),
    onSuccess: () => void known.invalidateQueries({ queryKey: ['bench', 'troubles'] }),
  })
}

export const writtenOptions = queryOptions({
  queryKey: ['bench', 'written'],
  queryFn: () => unwrap(client.GET('/api/bench/written')),
})

/** A heater on record, written as one to practise on. */
export const ofHeaterOptions = (heater_id: number | undefined) =>
  queryOptions({
    queryKey: ['bench', 'written', 'of', heater_id ?? null],
    queryFn: () =>
      unwrap(client.GET('/api/bench/written/of-heater', { params: { query: { heater_id: heater_id ?? 0 } } })),
    enabled: heater_id !== undefined,
    retry: false,
  })

/** What changes the company's own changes what is offered, too. */
function useOwn<Said>(say: (said: Said) => Promise<Schema['WrittenOut'][]>) {
  const known = useQueryClient()
  return useMutation({
    mutationFn: say,
    onSuccess: (told) => {
      known.setQueryData(writtenOptions.queryKey, told)
      void known.invalidateQueries({ queryKey: ['bench', 'scenarios'] })
      void known.invalidateQueries({ queryKey: ['bench', 'troubles'] })
    },
  })
}

export const useWrite = () => useOwn((body: Schema['WrittenIn']) => unwrap(client.PUT('/api/bench/written', { body })))

export const useTakenOut = () =>
  useOwn((name: string) => unwrap(client.DELETE('/api/bench/written/{name}', { params: { path: { name } } })))

/** Of a heater on record, or of a usual tank where none is given. */
export const calculatorsOptions = (heater_id?: number) =>
  queryOptions({
    queryKey: ['bench', 'calculators', heater_id ?? null],
    queryFn: () => unwrap(client.GET('/api/bench/calculators', { params: { query: { heater_id } } })),
    staleTime: heater_id === undefined ? Infinity : 60_000,
  })

export const signedOffOptions = queryOptions({
  queryKey: ['bench', 'signed-off'],
  queryFn: () => unwrap(client.GET('/api/bench/signed-off')),
})

/** What changed it answers with how all stands then. */
function useStanding<Said>(say: (said: Said) => Promise<Schema['SignedOffOut']>) {
  const known = useQueryClient()
  return useMutation({
    mutationFn: say,
    onSuccess: (told) => known.setQueryData(signedOffOptions.queryKey, told),
  })
}

export const useSignOff = () =>
  useStanding((body: Schema['SignOffIn']) => unwrap(client.POST('/api/bench/signed-off', { body })))

export const useAsked = () =>
  useStanding((body: Schema['AskedIn']) => unwrap(client.PUT('/api/bench/signed-off/asked', { body })))

export const useTakenBack = () =>
  useStanding((sign_off_id: number) =>
    unwrap(client.DELETE('/api/bench/signed-off/{sign_off_id}', { params: { path: { sign_off_id } } })),
  )
