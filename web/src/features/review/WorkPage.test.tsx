import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import { rendered } from '../../test/rendered'
import { workOptions } from './queries'
import { WorkPage } from './WorkPage'

afterEach(cleanup)

const year = (year: number, visits: number, so_far = false) => ({
  year,
  so_far,
  visits,
  heaters: visits,
  flushes: 0,
  descales: 0,
  rods: 1,
  relief_valves: 0,
  expansion_tanks: 0,
  other_parts: 0,
  emergencies: 3,
  open_issues: 2,
})

it('tells each kind of work year by year, and that this year is not over', () => {
  rendered(<WorkPage />, { known: [[workOptions.queryKey, [year(2025, 40), year(2026, 10, true)]]] })
  const columns = screen.getAllByRole('columnheader').map((one) => one.textContent)
  expect(columns).toEqual(['Kind', '2025', '2026 so far'])
  const visits = screen.getByRole('row', { name: /^Visits / })
  expect(
    within(visits)
      .getAllByRole('cell')
      .map((one) => one.textContent),
  ).toEqual(['40', '10'])
  const bars = [...visits.querySelectorAll<HTMLElement>('[style]')].map((one) => one.style.width)
  expect(bars).toEqual(['100%', '25%'])
})
