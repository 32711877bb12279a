import type { Query } from '@tanstack/react-query'
import type { PersistedClient, Persister } from '@tanstack/react-query-persist-client'

import { device } from './store'

/** What a visit needs to be read without a signal, by the first word of its key. */
const NEEDED = new Set(['me', 'company', 'heaters', 'visits', 'supervisors', 'rounds'])

export const keeps = (query: Pick<Query, 'queryKey' | 'state'>) =>
  query.state.status === 'success' && NEEDED.has(String(query.queryKey[0]))

export const persister: Persister = {
  persistClient: async (client: PersistedClient) => {
    await device.kept.put({ key: 'queries', value: JSON.stringify(client) })
  },
  restoreClient: async () => {
    const found = await device.kept.get('queries')
    return found ? (JSON.parse(found.value) as PersistedClient) : undefined
  },
  removeClient: async () => {
    await device.kept.delete('queries')
  },
}
