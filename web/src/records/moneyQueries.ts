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

export const planFitOptions = (siteId: number) =>
  queryOptions({
    queryKey: ['money', 'plan-fit', siteId],
    queryFn: () => unwrap(client.GET('/api/sites/{site_id}/plan-fit', { params: { path: { site_id: siteId } } })),
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

/** One after the other, each by the version that the one before left; 0 where the book had no such line. */
export function useSetPrice() {
  const counted = useCounted()
  const queries = useQueryClient()
  return useMutation({
    scope: { id: 'prices' },
    mutationFn: (said: Schema['PriceIn']) => {
      const now = queries.getQueryData(moneyOptions.queryKey)?.prices.find((one) => one.key === said.key)
      return unwrap(client.PUT('/api/money/prices', { body: { ...said, version: now?.version ?? 0 } }))
    },
    onSuccess: (price) =>
      queries.setQueryData(
        moneyOptions.queryKey,
        (book) => book && { ...book, prices: book.prices.map((one) => (one.key === price.key ? price : one)) },
      ),
    onSettled: counted,
  })
}

export function useSetPlan() {
  const counted = useCounted()
  const queries = useQueryClient()
  return useMutation({
    scope: { id: 'plans' },
    mutationFn: (said: Schema['ContractPlanIn']) => {
      const now = queries.getQueryData(moneyOptions.queryKey)?.plans.find((one) => one.name === said.name)
      return unwrap(client.PUT('/api/money/plans', { body: { ...said, version: now?.version ?? 0 } }))
    },
    onSuccess: (plan) =>
      queries.setQueryData(
        moneyOptions.queryKey,
        (book) => book && { ...book, plans: book.plans.map((one) => (one.name === plan.name ? plan : one)) },
      ),
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
