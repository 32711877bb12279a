import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { Parts } from './Parts'
import { equipmentOptions } from '../../records/heaterQueries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const part = (one: Partial<Schema['PartOut']>): Schema['PartOut'] => ({
  id: 1,
  version: 1,
  kind: 'anode',
  alloy: '',
  diameter_mm: null,
  length_mm: null,
  count: 1,
  fitted_on: null,
  removed_on: null,
  set_pressure_kpa: null,
  set_temperature_c: null,
  probe_length_mm: null,
  rating_kw: null,
  volume_l: null,
  precharge_kpa: null,
  build: '',
  why_removed: '',
  ...one,
})

function shown(parts: Schema['PartOut'][], past: Schema['PartOut'][] = [], may?: Schema['Action'][]) {
  const heater = {
    id: 7,
    kind: 'gas_tank',
    parts,
    past_parts: past,
    ignition: 'hot_surface',
    assumed: { rod_length_mm: 920, relief_kpa: 1034 },
  } as unknown as Schema['HeaterOut']
  const equipment = [{ kind: 'gas_tank', parts: ['anode', 'relief_valve', 'expansion_tank'] }]
  rendered(<Parts heater={heater} />, { known: [[equipmentOptions.queryKey, equipment]], ...(may ? { may } : {}) })
}

it('tells what is in it since when, and what was there before and why it went', () => {
  shown(
    [
      part({ alloy: 'aluminium_zinc', diameter_mm: 20, length_mm: 928, count: 2, fitted_on: '2024-11-05' }),
      part({ id: 2, kind: 'relief_valve' }),
    ],
    [part({ id: 3, alloy: 'magnesium', fitted_on: '2022-09-08', removed_on: '2024-11-05', why_removed: 'bare wire' })],
  )
  const told = screen.getAllByRole('listitem').map((one) => one.textContent?.replace('Correct', ''))
  expect(told[0]).toBe('Anode rod2 of them · aluminium-zinc · 20 mm thick · 928 mm longfitted November 2024')
  expect(told[1]).toBe('Relief valvenothing more on recordwith the heater, as far as known')
  expect(told[2]).toBe('Anode, magnesium: September 2022 to 5 November 2024bare wire')
})

it('asks of a new part what matters to its kind, and why the old one went', async () => {
  const sent = answering({ status: 201, body: {} })
  shown([part({ alloy: 'magnesium' })])
  await userEvent.click(screen.getByRole('button', { name: 'A part was fitted' }))
  await userEvent.selectOptions(screen.getByLabelText('Part'), 'relief_valve')
  expect(screen.queryByLabelText('Alloy')).toBeNull()
  expect(screen.queryByLabelText(/^Why the old/)).toBeNull()
  expect(screen.getByLabelText<HTMLInputElement>(/^Opens at/).placeholder).toBe('1034')
  await userEvent.selectOptions(screen.getByLabelText('Part'), 'anode')
  await userEvent.selectOptions(screen.getByLabelText('Alloy'), 'powered')
  await userEvent.type(screen.getByLabelText(/^Thickness/), '21,5')
  await userEvent.type(screen.getByLabelText('Why the old anode went'), 'bare wire')
  await userEvent.click(screen.getByRole('button', { name: 'Replace it' }))
  expect(sent[0]?.path).toBe('/api/heaters/7/parts')
  expect(sent[0]?.body).toMatchObject({
    kind: 'anode',
    alloy: 'powered',
    diameter_mm: 21.5,
    why: 'bare wire',
    fitted_on: '2026-11-25',
  })
})

it('tells the field that cannot be so and keeps the rest', async () => {
  answering(refusal('The new one cannot be older.', { fitted_on: 'before 2024-11-05' }))
  shown([part({})])
  await userEvent.click(screen.getByRole('button', { name: 'A part was fitted' }))
  await userEvent.selectOptions(screen.getByLabelText('Part'), 'anode')
  await userEvent.type(screen.getByLabelText(/^Build/), 'zinc cap')
  await userEvent.click(screen.getByRole('button', { name: 'Replace it' }))
  expect(await screen.findByText('before 2024-11-05')).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>(/^Build/).value).toBe('zinc cap')
})

it('puts right what is known of a part in place, and takes away nothing that it does not ask for', async () => {
  const sent = answering({ body: {} })
  shown([part({ id: 9, version: 4, alloy: 'magnesium', count: 1, length_mm: 900 })])
  await userEvent.click(screen.getByRole('button', { name: 'Correct the anode' }))
  await userEvent.clear(screen.getByLabelText('How many'))
  await userEvent.type(screen.getByLabelText('How many'), '2')
  await userEvent.click(screen.getByRole('button', { name: 'Save' }))
  expect(sent[0]?.path).toBe('/api/parts/9')
  expect(sent[0]?.body).toEqual({ version: 4, count: 2 })
})

it('offers nothing to who only reads', () => {
  shown([part({})], [], ['read'])
  expect(screen.queryByRole('button', { name: /^(A part was fitted|Correct)/ })).toBeNull()
})
