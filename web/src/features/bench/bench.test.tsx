import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { zoneMapOptions } from '../../records/waterQueries'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { exchangerCourses, tankCourses } from './livesCourses'
import { LivesPage } from './LivesPage'
import { exchangerLivesOptions, livesOptions, type Asked } from './queries'
import { eventsOf } from './words'

const years = Array.from({ length: 81 }, (_, at) => at / 4)

function life(more: Partial<Schema['LifeOut']>): Schema['LifeOut'] {
  return {
    depth_mm: years.map((year) => 2 * year),
    rod_left: years.map((year) => Math.max(0, 1 - year / 10)),
    hot_l: years.map(() => 130),
    energy_kwh: years.map((year) => 6000 + 10 * year),
    recover_min: years.map((year) => 40 + year),
    blocked_from_year: null,
    leak_within_year: years.map((year) => year / 100),
    valve_stuck: years.map((year) => year / 50),
    loud: years.map((year) => (year > 8 ? 2 : 0)),
    leaks_in_year: null,
    bare_from_year: null,
    rods_in_years: [],
    depth_fan_mm: [years, years.map((year) => 2 * year), years.map((year) => 3 * year)],
    leaked_share: years.map((year) => year / 20),
    visits_cost: years.map((year) => 100 * year),
    leaks_cost: years.map((year) => 10 * year),
    visits: 20,
    ...more,
  }
}

const ZONE = { id: 4, name: 'Harrow wells', hardness_mg_l: 300 } as Schema['ZoneOnMapOut']
const ASKED: Asked = {
  kind: 'gas_tank',
  capacity_l: 190,
  people: 4,
  zone_id: 4,
  care: ['yearly', 'never'],
  softened: [false, false],
  setpoint_c: [60, 60],
}

beforeEach(() => sized(500, 540))
afterEach(cleanup)

function page() {
  const sides = [life({ depth_mm: years.map(() => 5) }), life({ leaks_in_year: 10.5, bare_from_year: 10 })]
  rendered(<LivesPage />, {
    known: [
      [zoneMapOptions.queryKey, [{ ...ZONE, id: 3, name: 'Softbrook', hardness_mg_l: 40 }, ZONE]],
      [
        livesOptions(ASKED).queryKey,
        {
          water: 'Harrow wells',
          hardness_mg_l: 300,
          height_mm: 1190,
          is_fired: true,
          currency: '$',
          unpriced: ['New heater'],
          years,
          sides,
        },
      ],
    ],
  })
}

it('cuts both tanks open at a year, on the hardest water until another is chosen', async () => {
  page()
  expect(screen.getByRole('combobox', { name: 'Water' }).textContent).toBe('Harrow wells')
  const never = screen.getByRole('img', { name: /^Year 11.0: 22 mm of deposit, the rod is bare wire/ })
  expect(never.getAttribute('aria-label')).toContain('rumbles, it has leaked')
  expect(screen.getByRole('img', { name: /^Year 11.0: 5 mm of deposit/ }).getAttribute('aria-label')).not.toContain(
    'leaked',
  )
  const slider = screen.getByRole('slider', { name: 'Year' })
  slider.focus()
  await userEvent.keyboard('{Home}')
  expect(screen.getAllByRole('img', { name: /^Year 0.0/ })).toHaveLength(2)
  await userEvent.keyboard('{ArrowRight}')
  expect(slider.getAttribute('aria-valuetext')).toBe('year 0.25 of 20')
})

it('tells the same as a table, of one life or of two hundred', async () => {
  page()
  await userEvent.click(screen.getByRole('button', { name: 'As a table' }))
  const [, never] = within(screen.getByRole('region', { name: 'Figures by year' })).getAllByRole('table')
  const row = within(never!).getByRole('row', { name: /^10 / })
  expect(row.textContent).toBe('1020 mm0 %130 L6,100 kWh20 %10 %$1,100')
  await userEvent.click(screen.getByRole('button', { name: '200 lives' }))
  expect(within(never!).getByRole('columnheader', { name: 'Have leaked' })).toBeTruthy()
  expect(within(never!).getByRole('row', { name: /^10 / }).textContent).toContain('50 %')
})

it('marks on the time line what is worth it', () => {
  expect(eventsOf(life({ leaks_in_year: 10.5, bare_from_year: 10 }))).toEqual([
    { year: 10, words: 'rod bare' },
    { year: 10.5, words: 'leaks' },
  ])
  expect(eventsOf(life({}))).toEqual([])
})

const EXCHANGER: Schema['ExchangerLifeOut'] = {
  thickness_mm: years.map((year) => year / 20),
  flow_l_min: years.map((year) => 7.9 - year / 10),
  energy_kwh: years.map((year) => 5000 + 10 * year),
  cuts_out_in_year: 12,
  thickness_fan_mm: [years, years, years],
  cuts_out_share: years.map((year) => year / 20),
  visits_cost: years.map((year) => 150 * year),
}

it('cuts a passage across where the heater has no tank, and says what is left of its flow', () => {
  const asked = { ...ASKED, kind: 'gas_tankless' as const }
  const told: Schema['ExchangerLivesOut'] = {
    water: 'Harrow wells',
    hardness_mg_l: 300,
    limit_mm: 0.5,
    passage_mm: 2.5,
    years,
    currency: '$',
    unpriced: [],
    sides: [{ ...EXCHANGER, cuts_out_in_year: null, thickness_mm: years.map(() => 0.1) }, EXCHANGER],
  }
  rendered(<LivesPage />, {
    at: '/bench?kind=gas_tankless',
    known: [
      [zoneMapOptions.queryKey, [ZONE]],
      [exchangerLivesOptions(asked).queryKey, told],
    ],
  })
  const pictures = screen.getAllByRole('img').map((one) => one.getAttribute('aria-label'))
  expect(pictures).toEqual([
    'Year 11.0: 0.1 mm of scale, 6.8 L/min hot at full draw',
    'Year 11.0: 0.6 mm of scale, 6.8 L/min hot at full draw',
  ])
  const lives = screen.getAllByRole('figure').map((one) => one.querySelector('figcaption')!.textContent)
  expect(lives).toEqual(['descaled every yearholds at full draw', 'never touchedcuts out at full draw'])
  // A tankless heater has neither a size to choose nor a rod to look after.
  expect(screen.queryByLabelText('Size')).toBeNull()
  expect(screen.getByLabelText('First life: care').textContent).toBe('descaled every year')
})

it('tells what a life costs, with energy once its price is typed', () => {
  const money = (energyPrice: number | null) => ({ currency: '$', energyPrice })
  const of = (price: number | null) => tankCourses([life({})], years, {}, false, money(price)).at(-1)!
  expect(of(null).lines[0]!.at(-1)).toBe(20 * 110)
  // Quarters at their own pace: 6,000 kWh and ten more each year.
  const burnt = years.slice(0, -1).reduce((sum, year) => sum + (6000 + 10 * year) / 4, 0)
  expect(of(0.2).lines[0]!.at(-1)).toBeCloseTo(2200 + 0.2 * burnt)
  expect(of(0.2).unit).toBe('with energy, on average')
  const descaled = exchangerCourses([EXCHANGER], years, {}, false, money(null)).at(-1)!
  expect(descaled.lines[0]!.at(4)).toBe(150)
  expect(descaled.words(1234.5)).toBe('$1,235')
})

it('gives the customer a link that needs no account', async () => {
  const asked: string[] = []
  vi.stubGlobal('fetch', (request: Request) => {
    asked.push(request.url)
    return Promise.resolve(
      new Response(JSON.stringify({ address: 'https://water.invalid/cut-open/x' }), {
        headers: { 'Content-Type': 'application/json' },
      }),
    )
  })
  page()
  expect(screen.getByText('Without a price: New heater.')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Link for the customer' }))
  const link = await screen.findByRole('link', { name: 'See what the customer sees' })
  expect(link.getAttribute('href')).toBe('https://water.invalid/cut-open/x')
  expect(asked.some((url) => url.includes('/bench/lives/link') && url.includes('at_year=11'))).toBe(true)
  vi.unstubAllGlobals()
})
