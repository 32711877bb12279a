import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, refusal, rendered } from '../../test/rendered'
import { BulkDialog } from './BulkDialog'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const FILTERS = { q: 'chalk', guessed: false, archived: false }
const PREVIEW = {
  total: 12,
  changed: 3,
  refused: ['vehicle tanks have no loop'],
  shown: [{ id: 1, tag: 'T-1', site: 'Mill', before: '' }],
}

function shown() {
  rendered(<BulkDialog filters={FILTERS} total={12} open onOpenChange={() => undefined} />)
}

it('shows what would change before it changes anything, and changes only what was seen', async () => {
  const sent = answering({ body: PREVIEW }, { body: { changed: 3 } })
  shown()
  await userEvent.selectOptions(screen.getByLabelText('To'), 'annual')
  expect(screen.queryByRole('button', { name: /^Change \d/ })).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'See what it would do' }))
  expect(await screen.findByText(/of 12 would change/)).toBeTruthy()
  expect(screen.getByText('T-1, Mill: now nothing')).toBeTruthy()
  expect(screen.getByText('and 2 more')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Change 3' }))
  expect(await screen.findByText(/3 changed, and forecast anew/)).toBeTruthy()
  expect(sent.map(({ path, body }) => [path, body])).toEqual([
    ['/api/heaters/bulk/preview', { filters: FILTERS, field: 'practice', value: 'annual' }],
    ['/api/heaters/bulk', { filters: FILTERS, field: 'practice', value: 'annual', expected: 3 }],
  ])
})

it('forgets what was seen when the value changes', async () => {
  answering({ body: PREVIEW })
  shown()
  await userEvent.click(screen.getByRole('button', { name: 'See what it would do' }))
  await screen.findByText(/of 12 would change/)
  await userEvent.selectOptions(screen.getByLabelText('To'), 'long_service')
  expect(screen.queryByText(/of 12 would change/)).toBeNull()
  expect(screen.getByRole('button', { name: 'See what it would do' })).toBeTruthy()
})

it('sends a figure as a number and a choice of yes as true', async () => {
  const sent = answering({ body: PREVIEW })
  shown()
  await userEvent.selectOptions(screen.getByLabelText('What'), 'setpoint_c')
  await userEvent.type(screen.getByLabelText(/^To/), '52,5')
  await userEvent.click(screen.getByRole('button', { name: 'See what it would do' }))
  await screen.findByText(/of 12 would change/)
  await userEvent.selectOptions(screen.getByLabelText('What'), 'recirculated')
  await userEvent.selectOptions(screen.getByLabelText('To'), 'yes')
  await userEvent.click(screen.getByRole('button', { name: 'See what it would do' }))
  await screen.findByText(/of 12 would change/)
  expect(sent.map((one) => (one.body as { value: unknown }).value)).toEqual([52.5, true])
})

it('says why it is refused', async () => {
  answering(refusal('30 to 95 degC is allowed.', { value: 'out of range' }))
  shown()
  await userEvent.click(screen.getByRole('button', { name: 'See what it would do' }))
  expect(await screen.findByText('30 to 95 degC is allowed.')).toBeTruthy()
})
