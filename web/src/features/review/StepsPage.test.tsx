import { QueryClient } from '@tanstack/react-query'
import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, refusal, rendered } from '../../test/rendered'
import { StepsPage } from './StepsPage'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

const told = (chosen: string, may_change = true) => ({
  version: 4,
  may_change,
  practices: [
    {
      name: 'air_in',
      question: 'Where air enters',
      chosen,
      options: [
        { word: 'faucet', says: 'The nearest hot faucet', usual: true },
        { word: 'relief', says: 'The relief lever', usual: false },
      ],
    },
  ],
})
const KEY = ['company', 'step-practices']
const MARKED = ['visits', 'marked']

it('shows each side and takes the one that the lead chooses', async () => {
  const sent = answering({ status: 200, body: told('relief') })
  rendered(<StepsPage />, {
    known: [
      [KEY, told('faucet')],
      [MARKED, []],
    ],
  })
  expect(screen.getByRole<HTMLInputElement>('radio', { name: /nearest hot faucet · most do/ }).checked).toBe(true)
  await userEvent.click(screen.getByRole('radio', { name: 'The relief lever' }))
  await waitFor(() =>
    expect(screen.getByRole<HTMLInputElement>('radio', { name: 'The relief lever' }).checked).toBe(true),
  )
  expect(sent[0]).toMatchObject({
    method: 'PUT',
    path: '/api/company/step-practices',
    body: { chosen: { air_in: 'relief' }, version: 4 },
  })
})

it('tells what somebody else chose meanwhile, and shows it', async () => {
  answering({ ...refusal('Tamsin changed this meanwhile.'), status: 409 })
  const fetched = vi.spyOn(QueryClient.prototype, 'invalidateQueries')
  rendered(<StepsPage />, {
    known: [
      [KEY, told('faucet')],
      [MARKED, []],
    ],
  })
  await userEvent.click(screen.getByRole('radio', { name: 'The relief lever' }))
  expect((await screen.findByRole('alert')).textContent).toBe('Tamsin changed this meanwhile.')
  expect(fetched).toHaveBeenCalledWith({ queryKey: KEY })
  expect(screen.getByRole<HTMLInputElement>('radio', { name: 'The relief lever' }).checked).toBe(false)
})

it('is only to be read by who may not change it', () => {
  rendered(<StepsPage />, { known: [[KEY, told('faucet', false)]] })
  expect(screen.getByRole('group').hasAttribute('disabled')).toBe(true)
  expect(screen.getByText(/The lead takes the side/)).toBeTruthy()
})

it('tells the lead which steps were done otherwise than the guide allows, and nobody else', () => {
  const marked = [
    {
      step: 'Crack the drain open.',
      procedure: 'Drain-valve trial',
      says: 'done although it was not safe yet',
      visits: 3,
    },
  ]
  rendered(<StepsPage />, {
    known: [
      [KEY, told('faucet')],
      [MARKED, marked],
    ],
    may: ['read', 'override'],
  })
  expect(screen.getByRole('row', { name: /Crack the drain open. done although it was not safe yet 3/ })).toBeTruthy()
  cleanup()
  rendered(<StepsPage />, {
    known: [
      [KEY, told('faucet', false)],
      [MARKED, marked],
    ],
    may: ['read'],
  })
  expect(screen.queryByRole('table')).toBeNull()
})
