import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import { rendered, UNITS } from '../../test/rendered'
import { FromInstrument } from './FromInstrument'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const COURSE = { instrument: 'simulated pressure gauge', seconds: [0, 300, 600, 900], values: [400, 410, 421, 431] }

function drawn(field: string, isDemo = true, usual?: number[]) {
  const taken: [number, string][] = []
  vi.stubGlobal('fetch', () => Promise.resolve(Response.json(COURSE)))
  rendered(
    <FromInstrument
      field={field}
      unit="pressure_kpa"
      units={UNITS}
      heaterId={41}
      isDemo={isDemo}
      usual={usual}
      onTake={(value, course) => taken.push([value, course])}
    />,
  )
  return taken
}

it('watches the gauge and takes how far it crept, with its course', async () => {
  const taken = drawn('pressure.creep_kpa')
  await userEvent.click(screen.getByRole('button', { name: 'Take it from the instrument' }))
  expect(await screen.findByText(/from 400 kPa to 431 kPa in 15 min/, {}, { timeout: 3000 })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Take it' }))
  expect(taken).toEqual([[421 - 410, 'simulated pressure gauge; 0 400, 300 410, 600 421, 900 431']])
  expect(screen.getByRole('button', { name: 'Take it from the instrument' })).toBeTruthy()
})

it('takes the last of a reading that stands, and leaves it when told to', async () => {
  const taken = drawn('pressure.static_kpa')
  await userEvent.click(screen.getByRole('button', { name: 'Take it from the instrument' }))
  expect(await screen.findByText('431 kPa', {}, { timeout: 3000 })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Leave it' }))
  expect(taken).toEqual([])
})

it('is offered nowhere that nothing can be read', () => {
  drawn('pressure.static_kpa', false)
  expect(screen.queryByRole('button')).toBeNull()
  cleanup()
  drawn('valve.new_rating_kw')
  expect(screen.queryByRole('button')).toBeNull()
})

it('says what a wire that cannot be opened says', async () => {
  vi.stubGlobal('navigator', {
    ...navigator,
    serial: { requestPort: () => Promise.reject(new Error('No port was chosen.')) },
  })
  drawn('pressure.static_kpa', false)
  await userEvent.click(screen.getByRole('button', { name: 'Take it from the instrument' }))
  expect(await screen.findByText('No port was chosen.')).toBeTruthy()
})

it('asks about a reading that is unusual before it is taken', async () => {
  const taken = drawn('pressure.static_kpa', true, [200, 420])
  await userEvent.click(screen.getByRole('button', { name: 'Take it from the instrument' }))
  expect(await screen.findByText(/431 kPa is unusual: 200 kPa to 420 kPa is/, {}, { timeout: 3000 })).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Take it' })).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'It is so: take it' }))
  expect(taken.map(([value]) => value)).toEqual([431])
  cleanup()
  drawn('pressure.static_kpa', true, [200, 500])
  await userEvent.click(screen.getByRole('button', { name: 'Take it from the instrument' }))
  expect(await screen.findByText('431 kPa', {}, { timeout: 3000 })).toBeTruthy()
  expect(screen.getByRole('button', { name: 'Take it' })).toBeTruthy()
})
