import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import { rendered } from '../test/rendered'
import { VisitsOnRecord } from './VisitsOnRecord'

afterEach(cleanup)

it('tells in words what each visit found, which the drawn log shows to the eye alone', () => {
  const entry = (visit_id: number, on: string, ...words: string[]) =>
    ({
      visit_id,
      on,
      by: 'Nadia',
      lines: words.map((one) => ({ task: 'flush', words: one })),
      marks: {},
      amended: false,
      looked_at: [],
      minutes: visit_id === 1 ? 72 : null,
      readings: [],
      notes: [],
    }) as unknown as Schema['LogEntryOut']
  rendered(
    <VisitsOnRecord
      heaterId={7}
      entries={[
        entry(1, '2025-03-02', 'Flush: heavy'),
        entry(2, '2026-04-01', 'Rod: half', 'Valve: no water', 'a', 'b'),
      ]}
    />,
  )
  const found = screen.getAllByRole('list', { name: 'Found' })
  // The newest first, and all of its words however many.
  expect(
    within(found[0]!)
      .getAllByRole('listitem')
      .map((one) => one.textContent),
  ).toEqual(['Rod: half', 'Valve: no water', 'a', 'b'])
  expect(found[1]!.textContent).toBe('Flush: heavy')
  // How long it took, where that is known.
  const days = screen.getAllByText(/^Nadia/).map((one) => one.textContent)
  expect(days).toEqual(['Nadia', 'Nadia, 1 h 12'])
  // Links of several visits are told apart by their day.
  expect(screen.getAllByRole('link', { name: /^Report of .*2025/ })).toHaveLength(1)
})
