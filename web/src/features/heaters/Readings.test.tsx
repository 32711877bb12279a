import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { TODAY, UNITS } from '../../test/rendered'
import { Readings } from './Readings'

afterEach(cleanup)

const point = (on: string, value: number) => ({ on, value, by: 'Joss' })
const shown = (readings: Schema['ReadingOut'][]) => render(<Readings readings={readings} until={TODAY} units={UNITS} />)

it('draws each kind of reading over the years with its days, the newest in words', () => {
  shown([
    {
      field: 'pressure.static_kpa',
      says: 'standing pressure',
      unit: 'pressure_kpa',
      points: [point('2024-11-02', 410), point('2025-11-04', 640), point('2026-10-30', 420)],
    },
    { field: 'look.ohms', says: 'across the element', unit: 'ohm', points: [point('2026-10-30', 12.84)] },
  ])
  const [pressure, ohms] = screen.getAllByRole('listitem')
  expect(pressure!.textContent).toContain('Standing pressure420 kPa')
  expect(pressure!.textContent).toContain('410 kPa to 640 kPa')
  expect(ohms!.textContent).toBe('Across the element12.8 ohm30 October')
  const drawn = screen.getByRole('img')
  expect(drawn.getAttribute('aria-label')).toMatch(/^410 kPa on 2 November 2024, 640 kPa on 4 November 2025/)
  const [x, y] = ['cx', 'cy'].map((name) =>
    [...drawn.querySelectorAll('circle')].map((one) => Number(one.getAttribute(name))),
  )
  expect(x![0]! < x![1]! && x![1]! < x![2]!).toBe(true)
  // Higher is further up.
  expect(y![1]! < y![2]! && y![2]! < y![0]!).toBe(true)
})

it('draws what never moved, and nothing where nothing was read', () => {
  shown([
    {
      field: 'power.volts',
      says: 'supply',
      unit: 'volts',
      points: [point('2025-01-01', 230), point('2026-01-01', 230)],
    },
  ])
  expect(screen.getByText('always the same')).toBeTruthy()
  cleanup()
  expect(shown([]).container.textContent).toBe('')
})
