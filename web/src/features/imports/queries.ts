import { type QueryClient, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'

export const importOptions = (id: number) =>
  queryOptions({
    queryKey: ['imports', id],
    queryFn: () => unwrap(client.GET('/api/imports/{run_id}', { params: { path: { run_id: id } } })),
    // While a job works on it, look again.
    refetchInterval: (query) =>
      ['checking', 'applying'].includes(query.state.data?.state ?? 'checking') ? 600 : false,
  })

export type Shown = Schema['RowAction'] | 'doubtful' | undefined

export const importRowsOptions = (id: number, shown: Shown, state: string) =>
  queryOptions({
    queryKey: ['imports', id, 'rows', shown, state],
    queryFn: () =>
      unwrap(
        client.GET('/api/imports/{run_id}/rows', {
          params: {
            path: { run_id: id },
            query:
              shown === 'doubtful'
                ? { doubtful: true, limit: 200 }
                : shown
                  ? { action: shown, limit: 200 }
                  : { limit: 200 },
          },
        }),
      ),
  })

export const columnsOptions = (kind: string) =>
  queryOptions({
    queryKey: ['importColumns', kind],
    queryFn: () => unwrap(client.GET('/api/import-columns', { params: { query: { kind } } })),
    staleTime: Infinity,
  })

export function useSendFile() {
  const queries = useQueryClient()
  return useMutation({
    meta: { said: 'The file is sent and being read.' },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['imports', 'sent'] }),
    mutationFn: ({ kind, file }: { kind: string; file: File }) => {
      const form = new FormData()
      form.set('kind', kind)
      form.set('file', file)
      return unwrap(
        client.POST('/api/imports', { body: form as never, bodySerializer: (body) => body as unknown as FormData }),
      )
    },
  })
}

type Decision = 'confirm' | 'confirm without refused' | 'cancel' | 'match again' | 'undo'

export function useDecide(id: number) {
  const queries = useQueryClient()
  const path = { params: { path: { run_id: id } } }
  return useMutation({
    meta: { said: 'Decided.' },
    mutationFn: (what: Decision) => {
      if (what === 'cancel') return unwrap(client.POST('/api/imports/{run_id}/cancel', path))
      if (what === 'undo') return unwrap(client.POST('/api/imports/{run_id}/undo', path))
      if (what === 'match again') return unwrap(client.POST('/api/imports/{run_id}/columns/again', path))
      return unwrap(
        client.POST('/api/imports/{run_id}/confirm', {
          ...path,
          body: { without_refused: what === 'confirm without refused' },
        }),
      )
    },
    onSuccess: (run, what) => {
      told(queries, id)(run)
      if (what === 'undo') void queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'imports' })
    },
  })
}

/** A run goes on: what is known of it, and its line among the files that were sent. */
const told = (queries: QueryClient, id: number) => (run: Schema['ImportOut']) => {
  queries.setQueryData(['imports', id], run)
  void queries.invalidateQueries({ queryKey: ['imports', 'sent'] })
}

export function useTakeSheet(id: number) {
  const queries = useQueryClient()
  return useMutation({
    meta: { said: 'The sheet is taken.' },
    mutationFn: (sheet: string) =>
      unwrap(client.POST('/api/imports/{run_id}/sheet', { params: { path: { run_id: id } }, body: { sheet } })),
    onSuccess: told(queries, id),
  })
}

export function useDecideRows(id: number) {
  const queries = useQueryClient()
  return useMutation({
    meta: { said: 'Decided.' },
    mutationFn: (rows: Schema['DecidedIn'][]) =>
      unwrap(client.POST('/api/imports/{run_id}/decisions', { params: { path: { run_id: id } }, body: { rows } })),
    onSuccess: told(queries, id),
  })
}

export function useMatch(id: number) {
  const queries = useQueryClient()
  return useMutation({
    meta: { said: 'The columns are matched.' },
    mutationFn: (matches: Schema['MatchIn'][]) =>
      unwrap(client.POST('/api/imports/{run_id}/columns', { params: { path: { run_id: id } }, body: { matches } })),
    onSuccess: told(queries, id),
  })
}

export const baseFilesOptions = queryOptions({
  queryKey: ['baseFiles'],
  queryFn: () => unwrap(client.GET('/api/base-files')),
  refetchInterval: (query) => (query.state.data?.some((one) => one.state === 'writing') ? 1000 : false),
})

export function useAskForBase() {
  const queries = useQueryClient()
  return useMutation({
    meta: { said: 'The base is being written.' },
    mutationFn: () => unwrap(client.POST('/api/base-files')),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['baseFiles'] }),
  })
}
