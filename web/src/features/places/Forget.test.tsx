import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, rendered } from '../../test/rendered'
import { Forget, keptOfOptions } from './Forget'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const kept = {
  name: 'Sallow Mill',
  sites: ['Mill', 'Mill cottage'],
  handed_over: [] as string[],
  heaters: 3,
  visits: 1,
  photographs: 0,
  messages: 2,
  upcoming: 1,
}
const shown = (part: object = {}) =>
  rendered(<Forget customerId={4} />, { known: [[keptOfOptions(4).queryKey, { ...kept, ...part }]] })

it('says what goes and what stays before the name is typed, and sends what was typed', async () => {
  const sent = answering({ body: null, status: 200 })
  shown()
  await userEvent.click(screen.getByRole('button', { name: 'Have them forgotten' }))
  expect(screen.getByText(/3 heaters at Mill, Mill cottage/).textContent).toContain('what 1 visit did')
  expect(screen.getByText('1 visit to come: called off, and not told')).toBeTruthy()
  expect(screen.queryByText(/others’ by now/)).toBeNull()
  expect(screen.getByRole('button', { name: 'Forget them' })).toHaveProperty('disabled', true)
  await userEvent.type(screen.getByLabelText('Type Sallow Mill'), 'Sallow Mill')
  await userEvent.click(screen.getByRole('button', { name: 'Forget them' }))
  expect(sent).toEqual([{ method: 'POST', path: '/api/customers/4/forget', body: { name: 'Sallow Mill' } }])
})

it('keeps what was typed where it is not their name, and names what is others’ by now', async () => {
  const body = { code: 'forget.name', message: 'That is not their name.', fields: {} }
  answering({ status: 422, body })
  shown({ handed_over: ['Tern Row'], upcoming: 0 })
  await userEvent.click(screen.getByRole('button', { name: 'Have them forgotten' }))
  expect(screen.getByText(/Tern Row: others’ by now/)).toBeTruthy()
  expect(screen.queryByText(/to come/)).toBeNull()
  await userEvent.type(screen.getByLabelText('Type Sallow Mill'), 'Sallow')
  await userEvent.click(screen.getByRole('button', { name: 'Forget them' }))
  expect(await screen.findByText('That is not their name.')).toBeTruthy()
  expect(screen.getByLabelText('Type Sallow Mill')).toHaveProperty('value', 'Sallow')
})
