import { act, cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, expect, it } from 'vitest'

import { FocusKept } from './FocusKept'

afterEach(cleanup)

function Shown() {
  const [names, setNames] = useState(['oak', 'elm'])
  const [held, setHeld] = useState(false)
  return (
    <main>
      <FocusKept />
      <h1>Trees</h1>
      <section aria-label="List">
        {names.map((name) => (
          <p key={name}>
            <button onClick={() => setNames(names.filter((one) => one !== name))}>fell {name}</button>
          </p>
        ))}
        <button disabled={held} onClick={() => setHeld(true)}>
          hold
        </button>
      </section>
      <button onClick={() => setHeld(false)}>let go</button>
      <p>beside</p>
    </main>
  )
}

it('goes on in the list whose button went away', async () => {
  render(<Shown />)
  await userEvent.click(screen.getByText('fell oak'))
  await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('region', { name: 'List' })))
})

it('goes back to a button that was held for a moment', async () => {
  render(<Shown />)
  const held = screen.getByText('hold')
  held.focus()
  await userEvent.keyboard('{Enter}')
  expect(held.matches(':disabled')).toBe(true)
  held.blur()
  screen.getByText('let go').click()
  await waitFor(() => expect(document.activeElement).toBe(held))
})

it('leaves the focus nowhere if somebody taps beside everything', async () => {
  render(<Shown />)
  screen.getByText('hold').focus()
  await userEvent.click(screen.getByText('beside'))
  screen.getByText('fell elm').click()
  await new Promise((done) => setTimeout(done, 80))
  expect(document.activeElement).toBe(document.body)
})

it('goes on beside a button that stays held, and in the list from which a dialog was opened', async () => {
  render(<Shown />)
  const held = screen.getByText('hold')
  held.focus()
  await userEvent.keyboard('{Enter}')
  held.blur()
  screen.getByText('beside').textContent = 'beside it'
  screen.getByText('beside it').append(document.createElement('i'))
  await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('region', { name: 'List' })))
  const dialog = document.body.appendChild(document.createElement('div'))
  dialog.innerHTML = '<button>yes</button>'
  screen.getByText('fell oak').focus()
  dialog.querySelector('button')!.focus()
  act(() => screen.getByText('fell oak').click())
  dialog.remove()
  await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('region', { name: 'List' })))
})
