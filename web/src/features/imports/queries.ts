import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'

export const importOptions = (id: number) =>
  queryOptions({
    queryKey: ['imports', id],
    queryFn: () => unwrap(client.GET('/api/imports/{run_id}', { params: { path: { run_id: id } } })),
    // While a job works on it, look again.
    refetchInterval: (query) => (['checking', 'applying'].includes(query.state.data?.state ?? 'checking') ? 600 : false),
  })

export const importRowsOptions = (id: number, action: Schema['RowAction'] | undefined, state: string) =>
  queryOptions({
    queryKey: ['imports', id, 'rows', action, state],
    queryFn: () =>
      unwrap(
        client.GET('/api/imports/{run_id}/rows', {
          params: { path: { run_id: id }, query: action ? { action, limit: 200 } : { limit: 200 } },
        }),
      ),
  })

export function useSendFile() {
  return useMutation({
    mutationFn: ({ kind, file }: { kind: string; file: File }) => {
      const form = new FormData()
      form.set('kind', kind)
      form.set('file', file)
      return unwrap(client.POST('/api/imports', { body: form as never, bodySerializer: (body) => body as unknown as FormData }))
    },
  })
}

export function useDecide(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (what: 'confirm' | 'cancel') =>
      what === 'confirm'
        ? unwrap(client.POST('/api/imports/{run_id}/confirm', { params: { path: { run_id: id } } }))
        : unwrap(client.POST('/api/imports/{run_id}/cancel', { params: { path: { run_id: id } } })),
    onSuccess: (run) => queries.setQueryData(['imports', id], run),
  })
}
