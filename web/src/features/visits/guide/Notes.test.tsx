import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Tap } from '../../../device/store'
import { Notes } from './Notes'

afterEach(cleanup)

const noted = (clientId: string, why: string, name = '') => ({ clientId, kind: 'noted', why, name }) as Tap
const press = (name: string) => userEvent.click(screen.getByRole('button', { name }))

it('keeps a note at its step, or leaves it for another day', async () => {
  const tell = vi.fn()
  render(<Notes taps={[]} step="burner.alarm" onTell={tell} />)
  expect(screen.getByRole('button', { name: 'Keep the note' })).toHaveProperty('disabled', true)
  await userEvent.type(screen.getByLabelText('Note'), '  no CO alarm in the hall ')
  await press('For another day')
  expect(tell).toHaveBeenCalledWith({
    kind: 'noted',
    step: 'burner.alarm',
    why: 'no CO alarm in the hall',
    name: 'another_day',
  })
  expect(screen.getByLabelText('Note')).toHaveProperty('value', '')
})

it('tells the notes so far, and takes one back', async () => {
  const tell = vi.fn()
  render(
    <Notes
      taps={[noted('a', 'the strap is loose'), noted('b', 'paint it', 'another_day')]}
      step="arrival.look"
      onTell={tell}
    />,
  )
  expect(screen.getAllByRole('listitem').map((one) => one.textContent)).toEqual([
    'the strap is looseTake back',
    'paint itfor another dayTake back',
  ])
  await press('Take back: paint it')
  expect(tell).toHaveBeenCalledWith({ kind: 'undo', of: 'b' })
})
