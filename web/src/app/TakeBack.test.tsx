import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { client, type Schema } from '../api/client'
import { setLastChange } from '../api/lastChange'
import { meOptions } from '../session/session'
import { TakeBack } from './TakeBack'

const MARK = 'a3c1f7a0-0000-4000-8000-000000000001'
let answers: Response[] = []
const asked: string[] = []

const json = (body: unknown, more: ResponseInit = {}) =>
  new Response(JSON.stringify(body), {
    ...more,
    headers: { 'Content-Type': 'application/json', ...(more.headers as Record<string, string>) },
  })

beforeEach(() => {
  asked.length = 0
  vi.stubGlobal('fetch', (request: Request) => {
    if (request.method === 'GET') return new Promise<Response>(() => undefined)
    asked.push(`${request.method} ${new URL(request.url).pathname}`)
    return Promise.resolve(answers.shift() ?? json({}))
  })
})
afterEach(() => {
  cleanup()
  act(() => setLastChange(null))
  vi.unstubAllGlobals()
})

function shown(may: string[] = ['keep_own_account']) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } })
  queries.setQueryData(meOptions.queryKey, { may } as unknown as Schema['MeOut'])
  render(
    <QueryClientProvider client={queries}>
      <TakeBack />
    </QueryClientProvider>,
  )
}

const archive = () => client.POST('/api/heaters/{heater_id}/archive', { params: { path: { heater_id: 7 } } })

it('offers to take back what an answer named as a change, and does', async () => {
  shown()
  expect(screen.queryByRole('group')).toBeNull()
  answers = [json({}, { headers: { 'X-Change': MARK } }), json({ heaters: 1 })]
  await act(async () => void (await archive()))
  await userEvent.click(screen.getByRole('button', { name: 'Take it back' }))
  expect(asked).toContain(`POST /api/changes/${MARK}/undo`)
  expect(screen.queryByRole('group')).toBeNull()
})

it('says why a change is not taken back', async () => {
  shown()
  answers = [
    json({}, { headers: { 'X-Change': MARK } }),
    json({ code: 'change.not_the_last', message: 'It was changed again.' }, { status: 409 }),
  ]
  await act(async () => void (await archive()))
  await userEvent.click(screen.getByRole('button', { name: 'Take it back' }))
  expect(await screen.findByText('It was changed again.')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Close' }))
  expect(screen.queryByRole('group')).toBeNull()
})

it('offers nothing for a visit, nor for a refusal, nor to who may not', async () => {
  shown()
  answers = [json({}, { headers: { 'X-Change': MARK } }), json({}, { status: 409, headers: { 'X-Change': MARK } })]
  await act(async () => void (await client.POST('/api/visits', { body: {} as never })))
  await act(async () => void (await archive()))
  expect(screen.queryByRole('group')).toBeNull()
  cleanup()
  shown(['read'])
  act(() => setLastChange(MARK))
  expect(screen.queryByRole('group')).toBeNull()
})

it('takes it back once by Control and Z, and goes by itself though a hand was at the one before', async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true })
  shown()
  act(() => setLastChange(MARK))
  fireEvent.pointerEnter(screen.getByRole('group'))
  act(() => void vi.advanceTimersByTime(60_000))
  expect(screen.getByRole('group')).toBeTruthy()
  answers = [json({ heaters: 1 })]
  fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true })
  fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true })
  await waitFor(() => expect(screen.queryByRole('group')).toBeNull())
  expect(asked.filter((one) => one.endsWith('/undo')).length).toBe(1)
  act(() => setLastChange('a3c1f7a0-0000-4000-8000-000000000002'))
  act(() => void vi.advanceTimersByTime(21_000))
  expect(screen.queryByRole('group')).toBeNull()
  vi.useRealTimers()
})
