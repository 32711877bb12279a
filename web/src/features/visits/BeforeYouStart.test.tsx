import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { BeforeYouStart } from './BeforeYouStart'

afterEach(cleanup)

const valve = {
  id: 1,
  name: 'house shut-off',
  form: 'plastic',
  where: 'pit',
  condition_words: 'brittle, may snap',
  severity: 'danger',
  do_not_operate: true,
  use_instead: '',
}
const HAZARD = "Don't touch the house shut-off."

function heater(part: Record<string, unknown>): Schema['HeaterOut'] {
  return {
    shut_offs: [],
    open_ends: [],
    guessed: [],
    site: { hazards: [HAZARD] },
    ...part,
  } as unknown as Schema['HeaterOut']
}

it('is not there where nobody has written anything down', () => {
  const { container } = render(<BeforeYouStart heater={heater({})} />)
  expect(container.innerHTML).toBe('')
})

it('says of a valve not to touch what to use instead', () => {
  render(<BeforeYouStart heater={heater({ shut_offs: [valve] })} />)
  expect(screen.getByText('Don’t touch: brittle, may snap. Use the next valve up.')).toBeTruthy()
  expect(screen.getByText('1 shut-offs')).toBeTruthy()
})

it('says what is open, but not twice what stands above as a hazard', () => {
  const open = [
    { id: 1, words: HAZARD, severity: 'danger' },
    { id: 2, words: 'Clip missing: bring one.', severity: 'defect' },
  ]
  render(<BeforeYouStart heater={heater({ open_ends: open, guessed: ['age not known'] })} />)
  expect(screen.queryByText(HAZARD)).toBeNull()
  expect(screen.getByText('Clip missing: bring one.')).toBeTruthy()
  expect(screen.getByText('1 open')).toBeTruthy()
  expect(screen.getByText(/age not known/).textContent).toContain('rating plate')
})
