import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import { UNITS } from '../test/rendered'
import { DetailFields, detailFacts, useDetails } from './Details'

afterEach(cleanup)

const SPECS: Schema['DetailOut'][] = [
  { name: 'bore_mm', ask: 'Bore', unit: 'length_mm', low: 3, high: 60, words: [] },
  { name: 'grip', ask: 'What turns it', unit: '', low: 0, high: 0, words: ['handle', 'slot'] },
  { name: 'jet', ask: 'Stamp on its jet', unit: '', low: 0, high: 0, words: [] },
  { name: 'watts', ask: 'Power', unit: 'W', low: 100, high: 20000, words: [] },
]

function Form({ known, said }: { known?: Record<string, string | number>; said: unknown[] }) {
  const details = useDetails(SPECS, known, UNITS)
  return (
    <>
      <DetailFields
        specs={SPECS}
        details={details}
        units={UNITS}
        faults={{ 'details.jet': 'longer than 120 letters' }}
      />
      <button onClick={() => said.push(details.told())}>Save</button>
    </>
  )
}

it('sends nothing where nobody touched it, and all that stands where somebody did', async () => {
  const said: unknown[] = []
  render(<Form known={{ bore_mm: 9.5, grip: 'slot' }} said={said} />)
  const save = () => userEvent.click(screen.getByRole('button', { name: 'Save' }))
  await save()
  await userEvent.selectOptions(screen.getByLabelText('What turns it'), 'handle')
  await userEvent.type(screen.getByLabelText(/Power/), '4500')
  await save()
  await userEvent.clear(screen.getByLabelText(/Bore/))
  await save()
  expect(said).toEqual([null, { bore_mm: 9.5, grip: 'handle', watts: 4500 }, { grip: 'handle', watts: 4500 }])
  expect(screen.getByText('longer than 120 letters')).toBeTruthy()
})

it('tells what is known in words', () => {
  const told = detailFacts(SPECS, { bore_mm: 9.5, grip: 'slot', watts: 4500 }, UNITS)
  expect(told[0]).toMatch(/^bore 9\.5 mm$|^bore 10 mm$/)
  expect(told.slice(1)).toEqual(['what turns it slot', 'power 4500 W'])
})
