import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { companyOptions } from '../../session/session'
import { ArchiveDialog } from './ArchiveDialog'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const HEATER = { id: 7, tag: 'T-7' } as Schema['HeaterOut']

function opened() {
  const sent: unknown[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push(await request.json())
    return new Response(JSON.stringify(HEATER), { status: 200, headers: { 'content-type': 'application/json' } })
  })
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } })
  const pound = { label: 'lb', factor: 1 / 0.45359237, offset: 0, decimals: 1 }
  queries.setQueryData(companyOptions.queryKey, { units: { mass_kg: pound } } as unknown as Schema['CompanyOut'])
  const closed = vi.fn()
  render(
    <QueryClientProvider client={queries}>
      <ArchiveDialog heater={HEATER} today="2026-11-24" open onOpenChange={closed} />
    </QueryClientProvider>,
  )
  return { sent, closed }
}

it('asks why first, and for what came after it only where something did', async () => {
  const { sent, closed } = opened()
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Archive it' }).disabled).toBe(true)
  await userEvent.selectOptions(screen.getByLabelText('Why does it go?'), 'left')
  expect(screen.queryByLabelText('Tag of the new heater')).toBeNull()
  await userEvent.selectOptions(screen.getByLabelText('Why does it go?'), 'leaked')
  await userEvent.type(screen.getByLabelText('Tag of the new heater'), 'T-8')
  await userEvent.type(screen.getByLabelText(/Weight of the old one/), '100')
  await userEvent.click(screen.getByRole('button', { name: 'Archive it' }))
  await waitFor(() => expect(closed).toHaveBeenCalledWith(false))
  expect(sent).toEqual([
    {
      cause: 'leaked',
      on: '2026-11-24',
      successor_tag: 'T-8',
      note: '',
      weight_kg: expect.closeTo(45.36, 2) as number,
    },
  ])
})
