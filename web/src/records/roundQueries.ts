import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

const LOOKS_AGAIN_MS = 20_000

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
    // Another planner's move, or a technician who is late, appears by itself; a page that nobody looks at asks nothing.
    refetchInterval: LOOKS_AGAIN_MS,
  })

export const unplacedOptions = (week: string) =>
  queryOptions({
    queryKey: ['rounds', 'unplaced', week],
    queryFn: () => unwrap(client.GET('/api/rounds/unplaced', { params: { query: { week } } })),
    placeholderData: (before) => before,
  })

/** `agreed`: with the customer, who is on the telephone; what they were promised before does not bind. */
export const placesOptions = (id: number, version: number, first: string, agreed = false) =>
  queryOptions({
    queryKey: ['rounds', 'places', id, version, first, agreed],
    queryFn: () =>
      unwrap(
        client.GET('/api/rounds/appointments/{appointment_id}/places', {
          params: { path: { appointment_id: id }, query: { first, days: 14, agreed } },
        }),
      ),
  })

/** Every place on a day's rounds that a visit could be put, with its cost. */
export const positionsOptions = (id: number, version: number, on: string) =>
  queryOptions({
    queryKey: ['rounds', 'positions', id, version, on],
    queryFn: () =>
      unwrap(
        client.GET('/api/rounds/appointments/{appointment_id}/positions', {
          params: { path: { appointment_id: id }, query: { on } },
        }),
      ),
  })

/** Every visit to come of a site, the next first. */
export const siteVisitsOptions = (siteId: number) =>
  queryOptions({
    queryKey: ['rounds', 'site', siteId],
    queryFn: () =>
      unwrap(client.GET('/api/rounds/sites/{site_id}/appointments', { params: { path: { site_id: siteId } } })),
    refetchInterval: LOOKS_AGAIN_MS,
  })

/** Where a visit that somebody asks for could go. */
export const slotsOptions = (body: Schema['SlotsIn']) =>
  queryOptions({
    queryKey: ['rounds', 'slots', body],
    queryFn: () => unwrap(client.POST('/api/rounds/slots', { body })),
    placeholderData: (before) => before,
  })

export const usualCallsOptions = queryOptions({
  queryKey: ['usual-calls'],
  queryFn: () => unwrap(client.GET('/api/rounds/usual-calls')),
  staleTime: Infinity,
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
    meta: { said: 'Planning has begun.' },
    mutationFn: (body: Schema['RunIn']) => unwrap(client.POST('/api/rounds/runs', { body })),
    onSuccess: replanned,
  })
}

export function useStopPlanning() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'Planning is stopped.' },
    mutationFn: (id: number) =>
      unwrap(client.POST('/api/rounds/runs/{run_id}/stop', { params: { path: { run_id: id } } })),
    onSuccess: replanned,
  })
}

/** `onMoved` is told even where the screen that asked is drawn anew meanwhile. */
export function useMove(onMoved: (on: string) => void) {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'The visit is moved.' },
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

export function useBook() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'The visit is booked.' },
    mutationFn: (body: Schema['BookingIn']) => unwrap(client.POST('/api/rounds/appointments', { body })),
    onSettled: replanned,
  })
}

/** A technician's own visit: running late, or could not be done. */
export function useLate() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'They are told that it will be later.' },
    mutationFn: ({ id, minutes }: { id: number; minutes: number }) =>
      unwrap(
        client.POST('/api/rounds/mine/{appointment_id}/late', {
          params: { path: { appointment_id: id } },
          body: { minutes },
        }),
      ),
    onSettled: replanned,
  })
}

export function useNotDone() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'Noted as not done.' },
    mutationFn: ({ id, ...body }: Schema['NotDoneIn'] & { id: number }) =>
      unwrap(
        client.POST('/api/rounds/mine/{appointment_id}/not-done', { params: { path: { appointment_id: id } }, body }),
      ),
    onSettled: replanned,
  })
}

export function useStand() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'Its standing is changed.' },
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
    meta: { said: 'The day is dealt out anew.' },
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
    meta: { said: 'It is offered.' },
    mutationFn: (body: Schema['OffersIn']) => unwrap(client.POST('/api/outbox/offers', { body })),
    onSettled: replanned,
  })
}

/** What an offer would write, and to whom; nothing is written. */
export const previewOptions = (body: Schema['OffersIn']) =>
  queryOptions({
    queryKey: ['rounds', 'offers', body],
    queryFn: () => unwrap(client.POST('/api/outbox/offers/preview', { body })),
  })

export function useRecall() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'The message is taken back.' },
    mutationFn: (id: number) =>
      unwrap(client.POST('/api/outbox/messages/{message_id}/recall', { params: { path: { message_id: id } } })),
    onSettled: replanned,
  })
}

/** Somebody was called instead of being written to. */
export function useCalled() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'The answer is kept.' },
    mutationFn: ({ id, ...body }: Schema['CalledIn'] & { id: number }) =>
      unwrap(client.POST('/api/outbox/messages/{message_id}/called', { params: { path: { message_id: id } }, body })),
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
    meta: { said: 'The count is kept.' },
    mutationFn: (body: Schema['CountIn']) => unwrap(client.PUT('/api/stock', { body })),
    onSettled: replanned,
  })
}

/** Parts change their place; sent again by a lost signal they are moved once. */
export function useMovePart() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'The parts are moved.' },
    mutationFn: (body: Omit<Schema['PartMoveIn'], 'client_id'>) =>
      unwrap(client.POST('/api/stock-moves', { body: { ...body, client_id: crypto.randomUUID() } })),
    onSettled: replanned,
  })
}

export function useServiceLevel() {
  const replanned = useReplanned()
  return useMutation({
    meta: { said: 'Kept.' },
    mutationFn: (body: Schema['LevelIn']) => unwrap(client.PUT('/api/stock-settings', { body })),
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
    meta: { said: '' },
    mutationFn: (body: Schema['ShiftIn']) => unwrap(client.POST('/api/rounds/shift', { body })),
    onSettled: (_told, _error, asked) => (asked.dry ? undefined : replanned()),
  })
}
