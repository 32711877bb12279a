import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { peopleOptions, scenariosOptions } from './queries'
import { ScenariosPage } from './ScenariosPage'

const scenario = (more: Partial<Schema['ScenarioOut']>): Schema['ScenarioOut'] => ({
  name: 'gas_yearly',
  title: 'A plain yearly service',
  says: 'Flush it.',
  kind: 'gas_tank',
  handles: [],
  asks: [],
  within_min: 100,
  tries: 0,
  passed_free: null,
  passed_guided: null,
  best_share: null,
  ...more,
})
const ALL = [
  scenario({ tries: 2, passed_guided: '2026-11-20T10:00:00Z', best_share: 0.92 }),
  scenario({ name: 'electric_yearly', title: 'Two elements', kind: 'electric_tank' }),
]

afterEach(cleanup)

it('offers each heater both ways, a new one each time, and says how one did', () => {
  rendered(<ScenariosPage />, { known: [[scenariosOptions.queryKey, ALL]] })
  expect(screen.getByRole('link', { name: 'A plain yearly service, guided, passed' }).getAttribute('href')).toBe(
    '/bench/practise/gas_yearly?way=guided&heater=3',
  )
  expect(screen.getByText('passed with the guide; 2 tries, 92 % at best')).toBeTruthy()
  expect(screen.getByText('not tried yet')).toBeTruthy()
  expect(screen.queryByRole('region', { name: 'Who passed what' })).toBeNull()
})

it('shows who keeps the accounts who passed what', () => {
  const person = { user_id: 4, name: 'Ife', role: 'apprentice', tries: 3, passed: ['electric_yearly'], harms: 2 }
  rendered(<ScenariosPage />, {
    known: [
      [scenariosOptions.queryKey, ALL],
      [peopleOptions.queryKey, [{ ...person, last_at: null }]],
    ],
    may: ['read', 'keep_people'],
  })
  const row = within(screen.getByRole('region', { name: 'Who passed what' })).getByRole('row', { name: /^Ife/ })
  expect(
    within(row)
      .getAllByRole('cell')
      .map((one) => one.textContent),
  ).toEqual(['3', '2', '–', ''])
  expect(within(row).getByLabelText('passed')).toBeTruthy()
})
