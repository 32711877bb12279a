import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../api/client'

export type Owner = { heater_id: number } | { site_id: number }

export const attachmentsOptions = (of: Owner) =>
  queryOptions({
    queryKey: ['attachments', of],
    queryFn: () => unwrap(client.GET('/api/attachments', { params: { query: of } })),
  })

export function useAddAttachment(of: Owner) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ file, caption, visitClientId }: { file: File; caption: string; visitClientId?: string }) => {
      const form = new FormData()
      const told = { ...of, caption, ...(visitClientId ? { visit_client_id: visitClientId } : {}) }
      for (const [name, value] of Object.entries(told)) form.set(name, String(value))
      form.set('file', file)
      return unwrap(
        client.POST('/api/attachments', { body: form as never, bodySerializer: (body) => body as unknown as FormData }),
      )
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['attachments'] }),
  })
}

export function useChangeAttachment(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schema['AttachmentPatch']) =>
      unwrap(client.PATCH('/api/attachments/{attachment_id}', { params: { path: { attachment_id: id } }, body })),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ['attachments'] }),
        queries.invalidateQueries({ queryKey: ['history'] }),
      ]),
  })
}
