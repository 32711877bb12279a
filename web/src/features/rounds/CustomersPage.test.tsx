import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { callsOptions, messagesOptions, previewOptions } from '../../records/roundQueries'
import { answering, rendered } from '../../test/rendered'
import { CustomersPage } from './CustomersPage'

const MAY: Schema['Action'][] = ['read', 'plan']
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const call = {
  message_id: null as number | null,
  appointment_id: 7,
  customer: 'Marram',
  phone: '555-0101',
  site: 'Marram Bakery',
  on: '2026-12-01' as string | null,
  why: 'could not be delivered',
  say: ['We would come on Tuesday.'],
  answers: [] as string[],
}
const message = {
  id: 1,
  kind: 'offer',
  state: 'answered',
  way: 'email',
  customer: 'Pell',
  site: 'Pell School',
  subject: '',
  body: 'Dear Pell',
  trouble: '',
  tries: 1,
  written_at: '',
  sent_at: null,
  answered: 'other_time' as string | null,
  words: 'mornings',
  appointment_id: 2,
  on: '2026-12-02',
}
const known = (calls: unknown[], messages: unknown[], offers: unknown[] = []) =>
  [
    [callsOptions.queryKey, calls],
    [messagesOptions.queryKey, messages],
    [previewOptions({ first: '2026-11-25', last: '2026-12-09' }).queryKey, offers],
  ] as [readonly unknown[], unknown][]

it('lists whom to call with what to say, and what was written', async () => {
  rendered(<CustomersPage />, { known: known([call], [message]), may: MAY })
  expect(screen.getByText('asks for another time: mornings')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'What to say' }))
  expect(screen.getByText('We would come on Tuesday.')).toBeTruthy()
  // A planned visit is placed on the board; only who was to be told something is asked about.
  expect(screen.queryByRole('button', { name: /They said yes/ })).toBeNull()
})

it('keeps what they said who had to be called because their time was changed', async () => {
  const sent = answering({ body: message })
  rendered(<CustomersPage />, {
    known: known([{ ...call, message_id: 5, answers: ['accepted', 'told', 'other_time'] }], []),
    may: MAY,
  })
  await userEvent.click(screen.getByRole('button', { name: 'What to say' }))
  await userEvent.click(screen.getByRole('button', { name: 'Marram Bakery: Another time' }))
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/api/outbox/messages/5/called',
    body: { said: 'other_time', words: '' },
  })
})

it('asks only for what can be said to it', async () => {
  rendered(<CustomersPage />, { known: known([{ ...call, message_id: 5, on: null, answers: ['told'] }], []), may: MAY })
  await userEvent.click(screen.getByRole('button', { name: 'What to say' }))
  expect(screen.queryByRole('button', { name: /They said yes/ })).toBeNull()
  expect(screen.getByRole('button', { name: 'Marram Bakery: They know' })).toBeTruthy()
})

it('recalls an offer that waits, and no other', async () => {
  const sent = answering({ body: { ...message, state: 'dropped' } })
  const waits = { ...message, id: 2, customer: 'Osk', state: 'waiting', answered: null, words: '' }
  rendered(<CustomersPage />, { known: known([], [message, waits]), may: MAY })
  await userEvent.click(screen.getByRole('button', { name: /Recall/ }))
  expect(sent[0]!.path).toBe('/api/outbox/messages/2/recall')
})

it('writes to nobody before somebody has looked, and only to whom they left in', async () => {
  const offer = (appointment_id: number, way: string) => ({
    appointment_id,
    customer: `C${appointment_id}`,
    site: `Site ${appointment_id}`,
    on: '2026-12-01',
    times: 'Tuesday',
    way,
    address: '',
    body: `Dear C${appointment_id}, we offer`,
  })
  const sent = answering({ body: { written: 1, to_call: 0 } })
  rendered(<CustomersPage />, {
    known: known([], [], [offer(1, 'email'), offer(2, 'text'), offer(3, 'call')]),
    may: MAY,
  })
  await userEvent.click(screen.getByRole('button', { name: 'Offer the coming fortnight …' }))
  const list = within(screen.getByRole('list', { name: 'Offers' }))
  expect(screen.getByText('2 of 2 are written to; 1 are to be called instead.')).toBeTruthy()
  expect(list.getByRole<HTMLInputElement>('checkbox', { name: /Site 3/ }).disabled).toBe(true)
  await userEvent.click(list.getByRole('button', { name: 'What is said to C2' }))
  expect(list.getByText('Dear C2, we offer')).toBeTruthy()
  await userEvent.click(list.getByRole('checkbox', { name: /Site 1/ }))
  expect(sent).toEqual([])
  await userEvent.click(screen.getByRole('button', { name: 'Write to 1' }))
  expect(sent[0]!.body).toEqual({ appointment_ids: [2], not_before: null })
  expect(await screen.findByText(/1 written/)).toBeTruthy()
})
