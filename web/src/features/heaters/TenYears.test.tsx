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
  worth_left: 0,
  failures,
  total: services + 60 + heaters,
  low: services + heaters - 100,
  high: services + heaters + 900,
  renewed_in: name === 'later' ? 4 : null,
})

it('says what a leak is reckoned with, by where its water would run', () => {
  const asked = { energy_kwh: null, energy_price: null, damage: null }
  const plain = {
    currency: '¤',
    missing: [],
    drift_a_year: 0.01,
    bills_compared: 0,
    courses: [course('yearly', 9, 4, 0.4)],
  }
  const known = (more: object) => ({ known: [[tenYearsOptions(7, asked).queryKey, { ...plain, ...more }]] as never })
  rendered(<TenYears heaterId={7} />, known({ damage: 8400, damage_from: 'place', leak_path: 'into rooms below' }))
  expect(screen.getByText(/A leak would run into rooms below, as is on record of the place\./)).toBeTruthy()
  expect(screen.getByLabelText(/^A leak/).getAttribute('placeholder')).toBe('8400')
  cleanup()
  rendered(<TenYears heaterId={7} />, known({ damage: 2520, damage_from: 'usual', leak_path: '' }))
  expect(screen.getByText(/Nobody has written down where a leak would run/)).toBeTruthy()
  cleanup()
  rendered(<TenYears heaterId={7} />, known({ damage: 0, damage_from: 'usual', leak_path: '' }))
  expect(screen.queryByText(/Nobody has written down/)).toBeNull()
})

it('tells the four ways part by part, the cheapest marked, and what has no price', () => {
  const asked = { energy_kwh: null, energy_price: null, damage: null }
  const data = {
    currency: '¤',
    missing: ['call_out'],
    energy_kwh: 4100,
    service: 90,
    repair: 60,
    heater: 1200,
    drift_a_year: 0.014,
    bills_compared: 1,
    courses: [
      course('as_it_is', 0, 1400, 1.2),
      course('yearly', 900, 400, 0.4),
      course('new', 900, 1300, 0.1),
      { ...course('later', 900, 1250, 0.2), worth_left: 300 },
    ],
  }
  rendered(<TenYears heaterId={7} />, { known: [[tenYearsOptions(7, asked).queryKey, data]] })
  const rows = screen.getAllByRole('row').slice(1)
  const totals = rows.map((one) => within(one).getAllByRole('cell')[0]!)
  expect(totals.map((one) => one.textContent)).toEqual(['1460', '1360', '2260', '2210'])
  expect(totals.map((one) => one.className.includes('copper'))).toEqual([false, true, false, false])
  expect(within(rows[3]!).getByRole('rowheader').textContent).toBe(
    'renewed in 4 yearsservices 900, repairs 60, new heaters 1250, less 300 still worth',
  )
  expect(rows[1]!.textContent).toContain('1200–2200')
  expect(document.body.textContent).toContain(
    'costs 1.4\u00a0% more energy a year, by the bills before and after a cleaning',
  )
  expect(document.body.textContent).toContain('less than left as it is, with 80 fewer leaks')
  expect(document.body.textContent).toContain('The least over ten years: serviced yearly.')
  const paper = screen.getByRole('link', { name: 'A page for the owner' })
  expect(paper.getAttribute('href')).toBe('/api/heaters/7/ten-years.pdf?')
  expect(screen.getByText('The price book has no price for: call out.')).toBeTruthy()
})
