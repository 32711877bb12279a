import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import { rendered } from '../../test/rendered'
import { gapsOptions } from '../../records/heaterQueries'
import { openEndsOptions } from '../../records/openEndQueries'
import { GapsPage } from './GapsPage'

afterEach(cleanup)

const gap = (id: number, kind: string, days: number, phone = '') => ({
  id,
  heater_id: id,
  tag: `T-${id}`,
  site_id: 1,
  site: 'Mill',
  street: '1 Weir Street',
  location: 'cellar',
  phone,
  kind,
  days,
})

function shown(rows: object[]) {
  rendered(<GapsPage />, {
    known: [
      [openEndsOptions({}).queryKey, { total: 0, rows: [], by_severity: {} }],
      [gapsOptions(undefined).queryKey, { rows, by_kind: { age: 1, use: 1 } }],
    ],
  })
}

it('asks for what narrows a window most, with the number to ring', () => {
  shown([gap(1, 'use', 900, '555-0101'), gap(2, 'water', 100)])
  const [first, second] = within(screen.getByRole('list', { name: 'Gaps' })).getAllByRole('listitem')
  expect(first?.textContent).toContain('Ask how many people live there, or read the meter')
  expect(within(first!).getByRole('link', { name: '555-0101' }).getAttribute('href')).toBe('tel:555-0101')
  expect(second?.textContent).toContain('Test hardness and alkalinity')
  const width = (item: HTMLElement | undefined) => parseFloat(item!.querySelector<HTMLElement>('[style]')!.style.width)
  expect(width(first)).toBe(100)
  // By its root, so that a short bar can still be seen beside a long one.
  expect(width(second)).toBeCloseTo(100 / 3, 0)
})

it('says so where nothing worth a week is unknown', () => {
  shown([])
  expect(screen.getByText(/Nothing that would narrow a window by a week/)).toBeTruthy()
})
