import { queryOptions } from '@tanstack/react-query'

import { client, unwrap } from '../api/client'

export const importsOptions = queryOptions({
  queryKey: ['imports', 'sent'],
  queryFn: () => unwrap(client.GET('/api/imports')),
  refetchInterval: (query) =>
    query.state.data?.some((one) => ['checking', 'applying'].includes(one.state)) ? 1000 : false,
})
