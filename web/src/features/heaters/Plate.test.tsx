import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { equipmentOptions } from '../../records/heaterQueries'
import { answering, refusal, rendered } from '../../test/rendered'
import { Plate } from './Plate'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const EQUIPMENT = [
  {
    kind: 'gas_tank',
    details: [{ name: 'nearest_tap', ask: 'Nearest hot faucet', unit: '', low: 0, high: 0, words: [] }],
  },
]

function shown(more: Partial<Schema['HeaterOut']>, may?: Schema['Action'][]) {
  const heater = { id: 7, kind: 'gas_tank', ignition: '', vent: '', ...more } as Schema['HeaterOut']
  rendered(<Plate heater={heater} />, { known: [[equipmentOptions.queryKey, EQUIPMENT]], ...(may ? { may } : {}) })
}

it('tells the plate, the control and what else was seen; nothing where nothing is known', () => {
  shown({
    maker: 'Thornfell',
    serial: 'K1412',
    input_kw: 11.7,
    control_setting: 'dial at B',
    ignition: 'hot_surface',
    details: { nearest_tap: 'laundry tub' },
    unlike: ['Taller by 250 mm: pipes, vent and head room for the rod.'],
    made: { first: '2014-03-17', last: '2014-03-23', doubt: 'installed before it was made' },
  })
  const text = document.body.textContent
  for (const told of ['Thornfell', '11.7 kW', 'dial at B', 'hot surface', 'Nearest hot faucet laundry tub'])
    expect(text).toContain(told)
  expect(text).toContain('Made March 2014, by its serial')
  expect(text).toContain('Installed before it was made.')
  expect(text).toContain('Taller by 250 mm')
  cleanup()
  shown({})
  expect(document.body.textContent).toBe('')
})

it('is taught where a maker’s serials tell the date, and says what cannot be', async () => {
  const sent = answering(refusal('Not kept.', { year_at: '0 is not between 1 and 30' }), { body: {} })
  shown({ maker: 'Thornfell', serial: 'K1412 00371' })
  await userEvent.click(screen.getByRole('button', { name: 'Say where its serial tells the date' }))
  await userEvent.type(screen.getByLabelText('The year stands at'), '2')
  await userEvent.selectOptions(screen.getByLabelText('Besides it tells'), 'week')
  await userEvent.type(screen.getByLabelText('at'), '4')
  await userEvent.click(screen.getByRole('button', { name: 'Keep' }))
  expect(await screen.findByText('0 is not between 1 and 30')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Keep' }))
  await waitFor(() => expect(sent).toHaveLength(2))
  expect(sent[1]!.body).toEqual({
    maker: 'Thornfell',
    year_at: 2,
    year_digits: 2,
    week_at: 4,
    month_at: null,
    version: 0,
  })
  await waitFor(() => expect(screen.queryByRole('form')).toBeNull())
})

it('offers no teaching to who only reads', () => {
  shown({ maker: 'Thornfell', serial: 'K1412' }, ['read'])
  expect(screen.queryByRole('button')).toBeNull()
})
