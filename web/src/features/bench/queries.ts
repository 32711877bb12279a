import { queryOptions } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'

export const livesOptions = (body: Schema['LivesIn']) =>
  queryOptions({
    queryKey: ['bench', 'lives', body],
    queryFn: () => unwrap(client.POST('/api/bench/lives', { body })),
    placeholderData: (before) => before,
    staleTime: 60_000,
  })
