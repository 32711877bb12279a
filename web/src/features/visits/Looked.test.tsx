import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, expect, it } from 'vitest'

import { Looked } from './Looked'

afterEach(cleanup)

const question = {
  kind: 'seen' as const,
  field: 'flame.look',
  title: 'The flame',
  looks: [
    { value: 'steady', words: 'steady, quiet, blue', severity: null, advice: '' },
    { value: 'roars', words: 'roars', severity: 'defect' as const, advice: 'close the shutter a little' },
    { value: 'yellow', words: 'yellow tips', severity: 'danger' as const, advice: 'off until it is trimmed' },
  ],
}

function Asked({ first = null, told }: { first?: string | null; told: (string | null)[] }) {
  const [value, setValue] = useState(first)
  return (
    <Looked
      question={question}
      value={value}
      onChange={(chosen) => {
        told.push(chosen)
        setValue(chosen)
      }}
    />
  )
}

it('is one tap where it is as it should be, and that tap is taken back by another', async () => {
  const told: (string | null)[] = []
  render(<Asked told={told} />)
  expect(screen.queryByRole('radio')).toBeNull()
  const right = screen.getByRole('button', { name: 'The flame: steady, quiet, blue' })
  await userEvent.click(right)
  expect(right.getAttribute('aria-pressed')).toBe('true')
  await userEvent.click(right)
  expect(told).toEqual(['steady', null])
})

it('offers the other looks when it is not so, and says what to do about the one chosen', async () => {
  const told: (string | null)[] = []
  render(<Asked told={told} />)
  await userEvent.click(screen.getByRole('button', { name: 'The flame: not so' }))
  expect(screen.getAllByRole('radio').map((one) => one.textContent)).toEqual(['roars', 'yellow tips'])
  await userEvent.click(screen.getByRole('radio', { name: 'yellow tips' }))
  expect(screen.getByRole('status').textContent).toBe('Off until it is trimmed.')
  await userEvent.click(screen.getByRole('button', { name: 'The flame: steady, quiet, blue' }))
  expect(screen.queryByRole('status')).toBeNull()
  expect(told).toEqual(['yellow', 'steady'])
})

it('shows what was told before, opened', () => {
  render(<Asked first="roars" told={[]} />)
  expect(screen.getByRole('radio', { name: 'roars' }).getAttribute('aria-checked')).toBe('true')
})
