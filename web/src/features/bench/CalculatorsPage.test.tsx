import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { CalculatorsPage, mainInput, spanOf } from './CalculatorsPage'
import { calculatorsOptions } from './queries'

const input = (name: string, unit: string, value: number, high: number) => ({
  name,
  label: `The ${name}`,
  unit,
  low: 1,
  high,
  value,
  field: '',
})
const REFILL: Schema['FigureOut'] = {
  name: 'refill_minutes',
  title: 'How long it fills',
  unit: 'min',
  tree: ['/', 'capacity', 'supply'],
  reads: 'V / q',
  source: 'volume over flow',
  writes: '',
  inputs: [input('capacity', 'volume_l', 200, 5000), input('supply', 'flow_l_min', 20, 200)],
}
const BURN: Schema['FigureOut'] = {
  ...REFILL,
  name: 'burn_seconds',
  title: 'How soon it burns',
  unit: 's',
  tree: ['-', 100, 'water'],
  inputs: [input('water', 'temperature_c', 60, 95)],
}

beforeEach(() => sized(500, 400))
afterEach(cleanup)

function page(at = '/', heater?: number) {
  rendered(<CalculatorsPage />, { known: [[calculatorsOptions(heater).queryKey, [REFILL, BURN]]], at })
}

it('reckons as one types, within what is allowed, and draws where one stands', async () => {
  page('/?of=refill_minutes')
  const form = screen.getByRole('region', { name: 'How long it fills' })
  expect(within(form).getByText('10 min')).toBeTruthy()
  expect(form.textContent).toContain('V / q')
  const supply = screen.getByLabelText(/^The supply/)
  await userEvent.clear(supply)
  await userEvent.type(supply, '40')
  expect(within(form).getByText('5 min')).toBeTruthy()
  expect(screen.getByRole('img', { name: 'How long it fills against The supply: 5 min at 40.0 L/min' })).toBeTruthy()
  await userEvent.type(supply, '0')
  expect(within(form).getByText('allowed: 1.0 L/min to 200.0 L/min')).toBeTruthy()
  expect(screen.queryByRole('img')).toBeNull()
})

it('opens one by its name, with the figures of a link', async () => {
  page('/?of=refill_minutes&capacity=100')
  expect(within(screen.getByRole('region')).getByText('5 min')).toBeTruthy()
  await userEvent.click(screen.getByRole('link', { name: 'How soon it burns' }))
  expect(screen.getByRole('heading', { level: 2 }).textContent).toBe('How soon it burns')
  expect(within(screen.getByRole('region')).getByText('40 s')).toBeTruthy()
})

it('is filled in with what is known of a heater, and stays with it', async () => {
  page('/?heater=41&tag=CHK-0041&of=refill_minutes', 41)
  expect(screen.getByRole('link', { name: 'CHK-0041' }).getAttribute('href')).toBe('/heaters/41')
  await userEvent.click(screen.getByRole('link', { name: 'How soon it burns' }))
  expect(screen.getByRole('link', { name: 'CHK-0041' })).toBeTruthy()
})

it('draws against what moves it most, about where one stands', () => {
  expect(mainInput(REFILL)).toBe('capacity')
  expect(spanOf(REFILL.inputs[1]!, 20)).toEqual([1, 40])
  expect(spanOf(REFILL.inputs[1]!, 190)).toEqual([1, 200])
})
