import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, rendered } from '../../test/rendered'
import { contactOptions, CustomerContact } from './CustomerContact'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const known = (part: object = {}): [readonly unknown[], unknown][] => [
  [
    contactOptions(4).queryKey,
    { version: 3, way: 'email', opted_out: false, reached_by: 'email', address: 'a@example.com', ...part },
  ],
]

it('stops messages at the customer’s wish and keeps the way they chose', async () => {
  const sent = answering({ body: {} })
  rendered(<CustomerContact customerId={4} />, { known: known() })
  await userEvent.click(screen.getByRole('checkbox', { name: 'wants no messages' }))
  expect(sent).toEqual([
    { method: 'PUT', path: '/api/outbox/contacts/4', body: { way: 'email', opted_out: true, version: 3 } },
  ])
})

it('says where somebody is called for want of an address, and lets a reader change nothing', () => {
  rendered(<CustomerContact customerId={4} />, { known: known({ reached_by: 'call', address: '' }), may: ['read'] })
  expect(screen.getByText(/no address is on record/)).toBeTruthy()
  expect(screen.getByText('e-mail')).toBeTruthy()
  expect(screen.getByRole<HTMLInputElement>('checkbox').disabled).toBe(true)
})
