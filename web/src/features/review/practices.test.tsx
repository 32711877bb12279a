import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { PracticesPage } from './PracticesPage'
import { practicesOptions } from './queries'

beforeEach(() => sized(700, 480))
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
})

const FIGURES: [Schema['Practice'], number, number, number][] = [
  ['condition', 0.47, 0.5, 42],
  ['annual', 1.04, 1.1, 69],
  ['hard_water_half_yearly', 1.52, 1.6, 48],
  ['long_service', 0.05, 0.1, 119],
]
const row = (zone_id: number | null, name: string, part: object = {}) => ({
  zone_id,
  name,
  heaters: 100,
  followed: 'condition',
  practices: FIGURES.map(([practice, cleanings, hours, over_days]) => ({ practice, cleanings, hours, over_days })),
  ...part,
})
function shown(rows: object[], part: object = {}, may: Schema['Action'][] = ['set_practice']) {
  return rendered(<PracticesPage />, {
    may,
    known: [[practicesOptions.queryKey, { heaters: 402, asked_of: 402, rows, ...part }]],
  })
}
/** Where a practice stands in a plot. */
function at(plot: HTMLElement, practice: Schema['Practice']) {
  const places = [...plot.querySelectorAll('g[transform]')]
  const place = places[FIGURES.findIndex(([one]) => one === practice)]!.getAttribute('transform')!
  const [, x, y] = /translate\(([\d.]+) ([\d.]+)\)/.exec(place)!
  return { x: Number(x), y: Number(y) }
}

it('says in a sentence what the practice makes and leaves against the other', () => {
  shown([row(null, '')])
  expect(screen.getByText(/Cleaning by risk makes/).textContent).toBe(
    'Cleaning by risk makes 0.5 cleanings a heater and leaves 42 days over its limit. Cleaning ' +
      'yearly makes 1.0 and leaves 69.',
  )
  cleanup()
  shown([row(null, '', { followed: 'annual' })])
  expect(screen.getByText(/Cleaning yearly makes/).textContent).toContain('Cleaning by risk makes 0.5 and leaves 42.')
})

it('puts more work to the right, more days over higher, and a ring about what is followed', () => {
  shown([row(null, ''), row(3, 'Draymoor chalk', { followed: 'annual' })])
  const plot = within(screen.getByRole('region', { name: 'The whole base' })).getByRole('img')
  expect(plot.getAttribute('aria-label')).toContain('yearly: 1.0 cleanings and 69 days over a heater')
  expect(at(plot, 'annual').x).toBeGreaterThan(at(plot, 'condition').x)
  expect(at(plot, 'long_service').y).toBeLessThan(at(plot, 'annual').y)
  const water = within(screen.getByRole('complementary', { name: 'Water by water' })).getByRole('img')
  const ringed = [plot, water].map((one) =>
    [...one.querySelectorAll('g[transform]')].findIndex((sign) => sign.querySelector('circle')),
  )
  expect(ringed).toEqual([0, 1])
})

it('draws waters to one scale, so that hard water stands out', () => {
  const soft = {
    practices: FIGURES.map(([practice, cleanings, hours]) => ({ practice, cleanings, hours, over_days: 2 })),
  }
  shown([row(null, ''), row(3, 'Draymoor chalk'), row(4, 'Upland', soft)])
  const [hard, upland] = within(screen.getByRole('complementary', { name: 'Water by water' })).getAllByRole('img')
  expect(at(hard!, 'annual').x).toBe(at(upland!, 'annual').x)
  expect(at(hard!, 'annual').y).toBeLessThan(at(upland!, 'annual').y)
  expect(screen.getByRole('link', { name: 'Upland' }).getAttribute('href')).toBe('/water/4')
})

it('tells the lead alone where a practice is set, and how many answered for the base', () => {
  shown([row(null, '')], { asked_of: 201 })
  expect(
    screen.getByText(/all 402 heaters followed one practice for twelve months, answered for by 201 of them/),
  ).toBeTruthy()
  expect(screen.getByRole('link', { name: 'Outlook' })).toBeTruthy()
  cleanup()
  shown([row(null, '')], {}, ['read'])
  expect(screen.queryByRole('link', { name: 'Outlook' })).toBeNull()
})

it('says what to do where there is no heater', () => {
  shown([])
  expect(screen.getByText(/No heater is on record yet/)).toBeTruthy()
})
