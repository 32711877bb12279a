import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered } from '../../test/rendered'
import { ofHeaterOptions, writtenOptions } from './queries'
import { WrittenPage } from './WrittenPage'

const own = (more: Partial<Schema['WrittenOut']>): Schema['WrittenOut'] => ({
  name: 'our_cellar',
  text: '[our_cellar]\n',
  is_trouble: false,
  by: 'Tamsin',
  at: '2026-11-29T10:00:00Z',
  ...more,
})

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

it('keeps what is written, and lists the company’s own', async () => {
  const sent = answering({ body: [own({}), own({ name: 'our_shop', is_trouble: true })] })
  rendered(<WrittenPage />, { known: [[writtenOptions.queryKey, [own({})]]] })
  const text = screen.getByLabelText('Write a heater')
  await userEvent.clear(text)
  await userEvent.paste('[[our_shop]')
  await userEvent.click(screen.getByRole('button', { name: 'Keep it' }))
  expect(await screen.findByText(/Kept: it is offered/)).toBeTruthy()
  expect(sent[0]).toMatchObject({ method: 'PUT', path: '/api/bench/written', body: { text: '[[our_shop]' } })
  const kept = within(screen.getByRole('region', { name: 'Your own' }))
  await waitFor(() => expect(kept.getAllByRole('listitem')).toHaveLength(2))
  expect(kept.getAllByRole('listitem')[1]!.textContent).toContain('a complaint, by Tamsin')
})

it('says what is wrong in what was written, and keeps what was typed', async () => {
  answering({ status: 422, body: { message: 'Scenario a: kind = kettle; allowed: gas_tank.', fields: {} } })
  rendered(<WrittenPage />, { known: [[writtenOptions.queryKey, []]] })
  await userEvent.click(screen.getByRole('button', { name: 'Keep it' }))
  expect(await screen.findByText(/kind = kettle/)).toBeTruthy()
  expect(screen.getByLabelText<HTMLTextAreaElement>('Write a heater').value).toContain('[our_cellar]')
  expect(screen.getByText(/^None yet/)).toBeTruthy()
})

it('takes one out by its name', async () => {
  const sent = answering({ body: [] })
  rendered(<WrittenPage />, { known: [[writtenOptions.queryKey, [own({})]]] })
  await userEvent.click(screen.getByRole('button', { name: 'Take out our_cellar' }))
  expect(await screen.findByText(/^None yet/)).toBeTruthy()
  expect(sent[0]).toMatchObject({ method: 'DELETE', path: '/api/bench/written/our_cellar' })
})

it('begins with a heater on record where it came from one', () => {
  rendered(<WrittenPage />, {
    known: [
      [writtenOptions.queryKey, []],
      [ofHeaterOptions(41).queryKey, { text: '[as_found_41]' }],
    ],
    at: '/bench/written?heater=41',
  })
  const text = screen.getByLabelText<HTMLTextAreaElement>('A heater on record, without its names')
  expect(text.value).toBe('[as_found_41]')
})
