import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import { tenYearsOptions } from '../../records/heaterQueries'
import { rendered } from '../../test/rendered'
import { TenYears } from './TenYears'

afterEach(cleanup)

const course = (name: string, services: number, heaters: number, failures: number) => ({
  name,
  services,
  repairs: 60,
  heaters,
  damage: 0,
  energy: 0,
  failures,
  total: services + 60 + heaters,
})

it('tells the three ways part by part, the cheapest marked, and what has no price', () => {
  const asked = { energy_kwh: null, energy_price: null, damage: 0 }
  const data = {
    currency: '¤',
    missing: ['call_out'],
    energy_kwh: 4100,
    service: 90,
    repair: 60,
    heater: 1200,
    courses: [course('as_it_is', 0, 1400, 1.2), course('yearly', 900, 400, 0.4), course('new', 900, 1300, 0.1)],
  }
  rendered(<TenYears heaterId={7} />, { known: [[tenYearsOptions(7, asked).queryKey, data]] })
  const together = within(screen.getByRole('row', { name: /^Together/ })).getAllByRole('cell')
  expect(together.map((one) => one.textContent)).toEqual(['1460', '1360', '2260'])
  expect(together.map((one) => one.className.includes('copper'))).toEqual([false, true, false])
  expect(screen.queryByRole('row', { name: /^Energy/ })).toBeNull()
  expect(document.body.textContent).toContain('less than left as it is, with 80 fewer leaks')
  expect(document.body.textContent).toContain('The least over ten years: serviced yearly.')
  expect(screen.getByText('The price book has no price for: call out.')).toBeTruthy()
})
