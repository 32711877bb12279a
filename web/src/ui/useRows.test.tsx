import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useRef, useState } from 'react'
import { afterEach, expect, it } from 'vitest'

import { useRows } from './useRows'

afterEach(cleanup)

const NAMES = Array.from({ length: 30 }, (_, at) => `issue ${at + 1}`)

function Issues() {
  const [names, setNames] = useState(NAMES)
  const list = useRef<HTMLUListElement>(null)
  const onKeyDown = useRows(list, { count: names.length })
  return (
    <>
      <button>before</button>
      <ul ref={list} onKeyDown={onKeyDown}>
        {names.map((name, number) => (
          <li key={name} data-row={number}>
            <a href={`/${number}`}>{name}</a>
            <button aria-label={`close ${name}`} onClick={() => setNames(names.filter((one) => one !== name))} />
          </li>
        ))}
      </ul>
      <button>after</button>
    </>
  )
}

const focused = () => document.activeElement?.textContent || document.activeElement?.getAttribute('aria-label')

it('is one stop of the Tab key, whose arrows stay on the same control', async () => {
  render(<Issues />)
  screen.getByText('before').focus()
  await userEvent.tab()
  expect(focused()).toBe('issue 1')
  await userEvent.tab()
  expect(focused()).toBe('close issue 1')
  await userEvent.keyboard('{ArrowDown}{ArrowDown}')
  expect(focused()).toBe('close issue 3')
  await userEvent.keyboard('{End}')
  expect(focused()).toBe('close issue 30')
  await userEvent.keyboard('{ArrowDown}{PageUp}')
  expect(focused()).toBe('close issue 20')
  await userEvent.tab()
  expect(focused()).toBe('after')
  // Back to the row that was left.
  await userEvent.tab({ shift: true })
  expect(focused()).toBe('close issue 20')
  await userEvent.keyboard('{Home}')
  expect(focused()).toBe('close issue 1')
})

it('goes on with what takes the place of a row that goes away', async () => {
  render(<Issues />)
  screen.getByRole('button', { name: 'close issue 5' }).focus()
  await userEvent.keyboard('{Enter}')
  await Promise.resolve()
  expect(focused()).toBe('issue 6')
  await userEvent.keyboard('{ArrowDown}')
  expect(focused()).toBe('issue 7')
})
