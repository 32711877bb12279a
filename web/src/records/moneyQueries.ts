import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export const moneyOptions = queryOptions({
  queryKey: ['money', 'book'],
  queryFn: () => unwrap(client.GET('/api/money')),
})

export const quotesOptions = (state: Schema['QuoteState']) =>
  queryOptions({
    queryKey: ['money', 'quotes', state],
    queryFn: () => unwrap(client.GET('/api/money/quotes', { params: { query: { state } } })),
    placeholderData: (before) => before,
  })

export const dayWorthOptions = (on: string) =>
  queryOptions({
    queryKey: ['money', 'day', on],
    queryFn: () => unwrap(client.GET('/api/money/days/{on}', { params: { path: { on } } })),
    placeholderData: (before) => before,
  })

export const contractOptions = (siteId: number) =>
  queryOptions({
    queryKey: ['money', 'contract', siteId],
    queryFn: () => unwrap(client.GET('/api/sites/{site_id}/contract', { params: { path: { site_id: siteId } } })),
  })

function useCounted() {
  const queries = useQueryClient()
  return () => void queries.invalidateQueries({ queryKey: ['money'] })
}

export function useStep() {
  const counted = useCounted()
  return useMutation({
    mutationFn: ({ id, ...body }: Schema['QuoteStepIn'] & { id: number }) =>
      unwrap(client.POST('/api/money/quotes/{quote_id}/state', { params: { path: { quote_id: id } }, body })),
    onSettled: counted,
  })
}

export function useWriteQuote() {
  const counted = useCounted()
  return useMutation({
    mutationFn: ({ id, ...body }: Schema['QuoteLinesIn'] & { id: number }) =>
      unwrap(client.PUT('/api/money/quotes/{quote_id}/lines', { params: { path: { quote_id: id } }, body })),
    onSettled: counted,
  })
}

export function useSetPrice() {
  const counted = useCounted()
  return useMutation({
    mutationFn: (body: Schema['PriceIn']) => unwrap(client.PUT('/api/money/prices', { body })),
    onSettled: counted,
  })
}

export function useSetPlan() {
  const counted = useCounted()
  return useMutation({
    mutationFn: (body: Schema['ContractPlanIn']) => unwrap(client.PUT('/api/money/plans', { body })),
    onSettled: counted,
  })
}

export function useSetContract(siteId: number) {
  const counted = useCounted()
  return useMutation({
    mutationFn: (body: Schema['ContractIn']) =>
      unwrap(client.PUT('/api/sites/{site_id}/contract', { params: { path: { site_id: siteId } }, body })),
    onSettled: counted,
  })
}
