import { queryOptions } from '@tanstack/react-query'

import { client, unwrap } from '../../api/client'
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
