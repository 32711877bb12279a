import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'

import { client, unwrap } from '../api/client'
import { Freshness } from './Freshness'

afterEach(cleanup)

afterEach(() => vi.unstubAllGlobals())

function Dates({ asked }: { asked: () => string }) {
  return <p>due {useQuery({ queryKey: ['outlook'], queryFn: asked, staleTime: Infinity }).data}</p>
}

it('shows the dates of yesterday until the job that computes new ones is done, and says so', async () => {
  let pending = 2
  let due = 'in March'
  vi.stubGlobal('fetch', (request: Request) => {
    const json = (body: unknown, headers = {}) => Promise.resolve(Response.json(body, { headers }))
    if (request.method === 'POST') return json({ new: 1 }, { 'X-Stale': 'soon' })
    pending -= 1
    if (pending === 0) due = 'in May'
    return json({ pending: pending > 0 })
  })
  const queries = new QueryClient()
  render(
    <QueryClientProvider client={queries}>
      <Freshness />
      <Dates asked={() => due} />
    </QueryClientProvider>,
  )
  expect(await screen.findByText('due in March')).toBeTruthy()
  expect(screen.queryByRole('status')).toBeNull()
  await unwrap(client.POST('/api/zones/{zone_id}/supplier', { params: { path: { zone_id: 1 } } }))
  expect(await screen.findByRole('status')).toHaveProperty('textContent', 'New dates are being computed')
  expect(await screen.findByText('due in May', {}, { timeout: 5000 })).toBeTruthy()
  expect(screen.queryByRole('status')).toBeNull()
})
