import { cleanup, screen, within } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { peopleOptions, scenariosOptions, troublesOptions } from './queries'
import { ScenariosPage } from './ScenariosPage'
import { TroublesPage } from './TroublesPage'

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

const trouble: Schema['TroubleOut'] = {
  name: 'stone_cold',
  title: 'Stone cold',
  says: 'No hot water at all.',
  kind: 'electric_tank',
  within_min: 150,
  tries: 1,
  passed_free: '2026-11-21T10:00:00Z',
  passed_guided: null,
  best_share: 1,
  points: [],
  causes: [],
}

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

it('offers complaints to look into on a page of their own', () => {
  rendered(<TroublesPage />, { known: [[troublesOptions.queryKey, [trouble]]] })
  const faults = within(screen.getByRole('region', { name: 'Find what is wrong' }))
  expect(faults.getByRole('heading', { level: 2 }).textContent).toContain('1 of 1 passed without the guide')
  expect(faults.getByRole('link', { name: 'Stone cold, free, passed' }).getAttribute('href')).toBe(
    '/bench/find/stone_cold?way=free&heater=2',
  )
})

it('shows who keeps the accounts who passed what', () => {
  const person = {
    user_id: 4,
    name: 'Ife',
    role: 'apprentice',
    tries: 3,
    passed: ['electric_yearly', 'stone_cold'],
    harms: 2,
  }
  rendered(<ScenariosPage />, {
    known: [
      [scenariosOptions.queryKey, ALL],
      [troublesOptions.queryKey, [trouble]],
      [peopleOptions.queryKey, [{ ...person, last_at: null }]],
    ],
    may: ['read', 'keep_people'],
  })
  const row = within(screen.getByRole('region', { name: 'Who passed what' })).getByRole('row', { name: /^Ife/ })
  expect(
    within(row)
      .getAllByRole('cell')
      .map((one) => one.textContent),
  ).toEqual(['3', '2', '1 of 2', '1 of 1', 'A plain yearly service'])
})
