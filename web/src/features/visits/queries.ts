import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'
import { useMe } from '../../session/session'
import { recorded } from '../../device/unsent'
import { useRefresh } from '../../records/heaterQueries'
import type { Answers } from './answers'

export const dueSoonOptions = (q: string) =>
  queryOptions({
    queryKey: ['outlook', 'visits', q],
    queryFn: () => unwrap(client.GET('/api/outlook', { params: { query: { q, limit: 40 } } })),
  })

export const supervisorsOptions = queryOptions({
  queryKey: ['supervisors'],
  queryFn: () => unwrap(client.GET('/api/supervisors')),
})

/** The guide for what is chosen; for what is planned or due where nothing was chosen yet. */
export const guideOptions = (
  heaterId: number,
  component: Schema['Component'][] | null = null,
  extra: Schema['Extra'][] = [],
  complaint = '',
) =>
  queryOptions({
    queryKey: ['visits', 'guide', heaterId, component, extra, complaint],
    queryFn: () =>
      unwrap(
        client.GET('/api/heaters/{heater_id}/guide', {
          params: {
            path: { heater_id: heaterId },
            query: component ? { component, extra, complaint } : { extra, complaint },
          },
        }),
      ),
    placeholderData: (before) => before,
    staleTime: 5 * 60_000,
  })

const QUESTIONS_AGAIN_MS = 20_000

/** What the lead is asked from visits. */
export const questionsOptions = queryOptions({
  queryKey: ['visits', 'questions'],
  queryFn: () => unwrap(client.GET('/api/visits/questions')),
  refetchInterval: QUESTIONS_AGAIN_MS,
})

/** What was done at visits although it was held or is licensed to others. */
export const breachesOptions = queryOptions({
  queryKey: ['visits', 'breaches'],
  queryFn: () => unwrap(client.GET('/api/visits/breaches')),
  refetchInterval: QUESTIONS_AGAIN_MS,
})

/** Taps that could not be read, or with which their visit could not be followed, until somebody has looked. */
export const apartOptions = queryOptions({
  queryKey: ['visits', 'apart'],
  queryFn: () => unwrap(client.GET('/api/visits/apart')),
  refetchInterval: QUESTIONS_AGAIN_MS,
})

/** A tap is set aside for good with a reason, or read again without one. */
export function useSettleApart() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ id, why }: { id: number; why?: string }) => {
      const params = { path: { apart_id: id } }
      const asked =
        why === undefined
          ? client.POST('/api/visits/apart/{apart_id}/read', { params })
          : client.POST('/api/visits/apart/{apart_id}/aside', { params, body: { why } })
      return unwrap(asked.then((answer) => ({ ...answer, data: answer.response.ok ? true : undefined })))
    },
    onSettled: () => void queries.invalidateQueries({ queryKey: ['visits'] }),
  })
}

export function useAdvise() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ id, ...body }: Schema['AdviceIn'] & { id: string }) => {
      const asked = client.POST('/api/visits/questions/{question_id}', { params: { path: { question_id: id } }, body })
      return unwrap(asked.then((answer) => ({ ...answer, data: answer.response.ok ? true : undefined })))
    },
    onSettled: () => void queries.invalidateQueries({ queryKey: questionsOptions.queryKey }),
  })
}

/**
 * Record a visit: kept on the device first, then sent. Answers with what it moved, or null where it is only kept so
 * far.
 * Raises what the server says against it; then it is not kept, since it has to be put right.
 */
export function useRecordVisit() {
  const refresh = useRefresh()
  const me = useMe()
  return useMutation({
    // Without a signal it is kept, and the mutation ends.
    networkMode: 'always',
    mutationFn: ({ body, heater }: { body: Schema['VisitIn']; heater: string; answers: Answers }) =>
      recorded(body, me.id, heater),
    // What moved is told at once; what else shows it is read beside that.
    onSuccess: (answer) => {
      if (answer) void refresh()
    },
  })
}
