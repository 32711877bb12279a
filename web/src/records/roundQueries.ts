import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export const seasonOptions = queryOptions({
  queryKey: ['rounds', 'season'],
  queryFn: () => unwrap(client.GET('/api/rounds/season')),
  // While a planning is under way, look again.
  refetchInterval: (query) => (query.state.data?.under_way ? 700 : 30_000),
})

export const weeksOptions = (first: string, count: number) =>
  queryOptions({
    queryKey: ['rounds', 'weeks', first, count],
    queryFn: () => unwrap(client.GET('/api/rounds/weeks', { params: { query: { first, count } } })),
    placeholderData: (before) => before,
  })

export const dayOptions = (on: string) =>
  queryOptions({
    queryKey: ['rounds', 'day', on],
    queryFn: () => unwrap(client.GET('/api/rounds/days/{on}', { params: { path: { on } } })),
    placeholderData: (before) => before,
  })

export const unplacedOptions = (week: string) =>
  queryOptions({
    queryKey: ['rounds', 'unplaced', week],
    queryFn: () => unwrap(client.GET('/api/rounds/unplaced', { params: { query: { week } } })),
    placeholderData: (before) => before,
  })

export const placesOptions = (id: number, version: number, first: string) =>
  queryOptions({
    queryKey: ['rounds', 'places', id, version, first],
    queryFn: () =>
      unwrap(
        client.GET('/api/rounds/appointments/{appointment_id}/places', {
          params: { path: { appointment_id: id }, query: { first, days: 14 } },
        }),
      ),
  })

export const roadsOptions = (box: { west: number; south: number; east: number; north: number }) =>
  queryOptions({
    queryKey: ['roads', box],
    queryFn: () => unwrap(client.GET('/api/rounds/roads', { params: { query: box } })),
    staleTime: Infinity,
  })

/** What was answered is shown at once; the rest is read again meanwhile. */
function useReplanned() {
  const queries = useQueryClient()
  return () => void queries.invalidateQueries({ queryKey: ['rounds'] })
}

export function useAskForPlan() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (body: Schema['RunIn']) => unwrap(client.POST('/api/rounds/runs', { body })),
    onSuccess: replanned,
  })
}

export function useStopPlanning() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(client.POST('/api/rounds/runs/{run_id}/stop', { params: { path: { run_id: id } } })),
    onSuccess: replanned,
  })
}

/** `onMoved` is told even where the screen that asked is drawn anew meanwhile. */
export function useMove(onMoved: (on: string) => void) {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: ({ id, ...body }: Schema['MoveIn'] & { id: number }) =>
      unwrap(
        client.POST('/api/rounds/appointments/{appointment_id}/move', {
          params: { path: { appointment_id: id } },
          body,
        }),
      ),
    onSuccess: (one) => one.on && onMoved(one.on),
    onSettled: replanned,
  })
}

export function useStand() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: ({ id, ...body }: Schema['PromiseIn'] & { id: number }) =>
      unwrap(
        client.POST('/api/rounds/appointments/{appointment_id}/standing', {
          params: { path: { appointment_id: id } },
          body,
        }),
      ),
    onSettled: replanned,
  })
}

export function useDisturb(on: string) {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (body: Schema['DisturbanceIn']) =>
      unwrap(client.POST('/api/rounds/days/{on}/disturbance', { params: { path: { on } }, body })),
    onSettled: replanned,
  })
}

export const messagesOptions = queryOptions({
  queryKey: ['rounds', 'messages'],
  queryFn: () => unwrap(client.GET('/api/outbox/messages')),
  refetchInterval: 20_000,
})

export const callsOptions = queryOptions({
  queryKey: ['rounds', 'calls'],
  queryFn: () => unwrap(client.GET('/api/outbox/calls')),
})

export const calendarsOptions = queryOptions({
  queryKey: ['calendars'],
  queryFn: () => unwrap(client.GET('/api/outbox/calendars')),
})

export function useOffer() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (body: Schema['OffersIn']) => unwrap(client.POST('/api/outbox/offers', { body })),
    onSettled: replanned,
  })
}

export const stockOptions = (on: string) =>
  queryOptions({
    queryKey: ['rounds', 'stock', on],
    queryFn: () => unwrap(client.GET('/api/stock/{on}', { params: { path: { on } } })),
    placeholderData: (before) => before,
  })

export function useCount() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (body: Schema['CountIn']) => unwrap(client.PUT('/api/stock', { body })),
    onSettled: replanned,
  })
}

export function useServiceLevel() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (service_level: number) => unwrap(client.PUT('/api/stock-settings', { body: { service_level } })),
    onSettled: replanned,
  })
}

export const ofWeeksOptions = (week: string, until: string) =>
  queryOptions({
    queryKey: ['rounds', 'week', week, until],
    queryFn: () =>
      unwrap(client.GET('/api/rounds/weeks/{week}/appointments', { params: { path: { week }, query: { until } } })),
  })

/** Ask what a shift would do, or do it. */
export function useShift() {
  const replanned = useReplanned()
  return useMutation({
    mutationFn: (body: Schema['ShiftIn']) => unwrap(client.POST('/api/rounds/shift', { body })),
    onSettled: (_told, _error, asked) => (asked.dry ? undefined : replanned()),
  })
}
