import { cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Link, MemoryRouter, Route, Routes } from 'react-router'
import { afterEach, expect, it } from 'vitest'

import { Announced } from './Announced'
import { Arrival } from './Arrival'

afterEach(cleanup)

function shown() {
  render(
    <MemoryRouter>
      <nav>
        <Link to="/mill">to the mill</Link>
      </nav>
      <main>
        <Routes>
          <Route path="/" element={<h1>Home</h1>} />
          <Route
            path="/mill"
            element={
              <>
                <title>Mill · Aquifer</title>
                <h1>The mill</h1>
                <input aria-label="grain" />
              </>
            }
          />
        </Routes>
      </main>
      <Arrival />
      <Announced />
    </MemoryRouter>,
  )
}

it('leaves the first page alone, and gives the focus to the heading of the next', async () => {
  shown()
  expect(document.activeElement).toBe(document.body)
  expect(screen.getByRole('status').textContent).not.toBe('Mill')
  await userEvent.click(screen.getByRole('link'))
  await waitFor(() => expect(document.activeElement?.textContent).toBe('The mill'))
  expect(screen.getByRole('status').textContent).toBe('Mill')
})
