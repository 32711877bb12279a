import { cleanup, screen } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import { rendered, TODAY } from '../../test/rendered'
import { dayOptions } from '../../records/roundQueries'
import { MyRound } from './MyRound'

afterEach(cleanup)

const service = (heater_id: number, component: string) => ({
  heater_id,
  tag: `T-${heater_id}`,
  kind: 'gas_tank',
  component,
  method: 'exercise',
  hours: 0.5,
})
const appointment = {
  id: 1,
  site: 'Quarry',
  street: '1 Mill Rise',
  phone: '555-0101',
  standing: 'promised',
  earliest: 510,
  latest: 600,
  hazard: 'Hatch drops',
  services: [service(1, 'sediment'), service(1, 'anode'), service(2, 'relief_valve')],
}
const round = (user_id: number | undefined) => ({
  user_id,
  member_id: 5,
  back: 900,
  calls: [{ appointment, arrives: 530, begins: 540, ends: 640 }],
})

it('leads to each heater once, with the promise and the hazard', () => {
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, { on: TODAY, rounds: [round(1)], without_time: [] }]] })
  expect(screen.getByText('9:00 to 10:40')).toBeTruthy()
  expect(screen.getByText('promised between 8:30 and 10:00')).toBeTruthy()
  expect(screen.getByText('Hatch drops')).toBeTruthy()
  expect(screen.getAllByRole('link').map((one) => one.getAttribute('href'))).toEqual([
    'tel:555-0101',
    '/visit/1',
    '/visit/2',
  ])
})

it('shows nobody the round of somebody else', () => {
  rendered(<MyRound />, { known: [[dayOptions(TODAY).queryKey, { on: TODAY, rounds: [round(77)], without_time: [] }]] })
  expect(screen.queryByText('Quarry')).toBeNull()
})
