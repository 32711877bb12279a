import { cleanup, fireEvent, screen, within } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { ReviewPage } from './ReviewPage'
import { TanksPage } from './TanksPage'
import { heldOptions, replacementsOptions } from './queries'
import { timesWords } from './words'

beforeEach(() => sized(900, 500))
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
})

const check = (id: number, place: number, ratio: number, part: object = {}) => ({
  heater_id: id,
  tag: `T-${id}`,
  site: 'Mill',
  zone: 'Chalk',
  on: '2026-09-01',
  place,
  ratio,
  strayed: place > 0.9 ? 'faster' : place < 0.1 ? 'slower' : null,
  ...part,
})
const held = (component: string, part: Partial<Schema['AccuracyOut']> = {}) => ({
  component,
  measured: 40,
  inside: 0.8,
  usual_from: 0.7,
  usual_to: 0.9,
  verdict: 'holds',
  centre: 1.12,
  year_strays: 1.4,
  heater_scale: 1.2,
  eye_scale: 0.6,
  traits: [
    { name: 'hardness', ratio: 0.7 },
    { name: 'usage', ratio: 1.001 },
    { name: 'temperature', ratio: 1.2 },
  ],
  zone_scale: 1,
  pairs: 0,
  common_eye: 0.8,
  people: [],
  say_the_same: [],
  builds: [],
  checks: [],
  ...part,
})

function review(components: object[], at = '/review', valves = { tried: 344, stuck: 16 }) {
  return rendered(<ReviewPage />, { at, known: [[heldOptions.queryKey, { components, valves }]] })
}

it('says when a large base was reckoned, by the company’s clock, and nothing of one that is reckoned at once', () => {
  const known = (kept_at: string | null): [readonly unknown[], unknown][] => [
    [heldOptions.queryKey, { components: [held('anode')], valves: { tried: 0, stuck: 0 }, kept_at }],
  ]
  rendered(<ReviewPage />, { at: '/review', known: known('2026-11-24T03:50:00Z') })
  expect(screen.getByLabelText('Measurements').textContent).toMatch(/Reckoned 24 November at 3:50;/)
  cleanup()
  rendered(<ReviewPage />, { at: '/review', known: known(null) })
  expect(screen.getByLabelText('Measurements').textContent).not.toMatch(/Reckoned/)
})

it('draws each measurement where it fell, and points the way it strayed', () => {
  const { container } = review([
    held('sediment', { checks: [check(1, 0.5, 1), check(2, 0.97, 2.4), check(3, 0.02, 0.4)] as never }),
  ])
  const heights = [...container.querySelectorAll('circle[r="4.2"]')].map((mark) => Number(mark.getAttribute('cy')))
  const wedges = [...container.querySelectorAll('path[class*="ochre-deep"]')].map((mark) =>
    /^M[\d.]+ ([\d.]+)h10l-5 (-?\d+)z$/.exec(mark.getAttribute('d')!)!,
  )
  expect(heights).toHaveLength(1)
  expect(wedges.map(([, , way]) => Number(way))).toEqual([-8, 8])
  const [above, below] = wedges.map(([, y]) => Number(y))
  expect(above).toBeLessThan(heights[0]!)
  expect(below).toBeGreaterThan(heights[0]!)
  expect(screen.getByText('Mill, T-2, 1 September: 2.40 times what was told')).toBeTruthy()
})

it('says of each component how many lay within and whether that is usual', () => {
  review([
    held('sediment'),
    held('scale', { inside: 0.5, verdict: 'too_narrow' }),
    held('anode', { inside: 0.95, verdict: 'too_wide' }),
    held('expansion_tank', { inside: null, usual_from: null, usual_to: null, verdict: 'unmeasured', measured: 0 }),
  ])
  const said = ['Sediment', 'Scale', 'Anode rods', 'Expansion tanks'].map(
    (name) => screen.getByRole('button', { name: new RegExp(`^${name}`) }).textContent,
  )
  expect(said[0]).toContain('32 of 40 within')
  expect(said[0]).toContain('windows hold')
  expect(said[1]).toContain('too narrow')
  expect(said[2]).toContain('wider than need be')
  expect(said[3]).toContain('nothing measured yet')
})

it('opens what a component taught beside it, the furthest off first', () => {
  review([
    held('sediment'),
    held('scale', {
      pairs: 12,
      people: [{ name: 'Ife', ratio: 1.25 }],
      say_the_same: ['Callum Orme'],
      builds: [
        { name: 'Brackwell G151', ratio: 1.36 },
        { name: 'Ostrand T2', ratio: 1.01 },
      ],
      checks: [check(1, 0.55, 1.1), check(2, 0.03, 0.4), check(3, 0.8, 1.6)] as never,
    }),
  ])
  const aside = screen.getByRole('complementary', { name: 'What it taught' })
  expect(within(aside).getByRole('heading', { level: 2 }).textContent).toBe('Sediment')
  fireEvent.click(screen.getByRole('button', { name: /^Scale/ }))
  expect(within(aside).getByRole('heading', { level: 2 }).textContent).toBe('Scale')
  expect(within(aside).getByText(/All are taken to go 1.12 times/)).toBeTruthy()
  expect(
    within(within(aside).getByRole('list', { name: 'What each sees over what is there' })).getByText('1.25 times'),
  ).toBeTruthy()
  expect(within(aside).getByText(/Callum Orme nearly always gives the same grade/)).toBeTruthy()
  expect(
    within(within(aside).getByRole('list', { name: 'Pace of each build over others' })).getAllByRole('listitem'),
  ).toHaveLength(1)
  expect(
    within(aside)
      .getAllByRole('link')
      .map((one) => one.textContent),
  ).toEqual(['Mill, T-2', 'Mill, T-3', 'Mill, T-1'])
})

it('is opened at a component by its address', () => {
  review([held('sediment'), held('anode')], '/review?of=anode')
  expect(screen.getByRole('button', { name: /^Anode rods/ }).getAttribute('aria-pressed')).toBe('true')
})

it('counts valves, which nobody measures, in words', () => {
  review([held('sediment')])
  expect(screen.getByText(/Of 344 relief valves exercised in the last 12 months, 16 passed no water/)).toBeTruthy()
  cleanup()
  review([held('sediment')], '/review', { tried: 3, stuck: 0 })
  expect(screen.getByText(/Of 3 relief valves exercised in the last 12 months, all ran/)).toBeTruthy()
})

it('says when there is nothing calibrated, and when nobody measured', () => {
  review([])
  expect(screen.getByText(/Nothing is calibrated yet/)).toBeTruthy()
  cleanup()
  review([held('anode', { inside: null, usual_from: null, usual_to: null, verdict: 'unmeasured', measured: 0 })])
  expect(screen.getByText(/Nobody has measured diameters and bare wire yet/)).toBeTruthy()
})

it('says ratios with as many figures as they are worth', () => {
  expect([0.5701, 1.254, 12.34, 1].map(timesWords)).toEqual(['0.57 times', '1.25 times', '12 times', '1.00 times'])
})

const tank = (id: number, within_a_year: number, part: object = {}) => ({
  heater_id: id,
  tag: `T-${id}`,
  kind: 'gas_tank',
  site: 'Mill',
  location: 'cellar',
  street: '1 Weir Street',
  installed_on: '2006-11-25',
  install_certainty: 'known',
  depth_share: 0.5,
  anode_left: 0.1,
  within_a_year,
  between: [within_a_year / 2, Math.min(1, within_a_year * 1.5)],
  accepted: 0.2,
  reasons: [],
  ...part,
})
const base = (part: object = {}) => ({
  tanks: 280,
  taught: { failures: 0, of_all: { name: '', times: 1, between: [0.41, 2.45] }, makes: [] },
  years: [
    { ahead: 0, failing: 31.06, due: 57 },
    { ahead: 1, failing: 25.5, due: 11 },
  ],
  zones: [
    { zone_id: 3, name: 'Draymoor chalk', tanks: 76, due: 22 },
    { zone_id: 4, name: 'Upland', tanks: 9, due: 0 },
  ],
  likeliest: [
    tank(7, 0.91, { reasons: ['spent_anode', 'temperature'] }),
    tank(8, 0.3, { install_certainty: 'estimated', installed_on: null }),
  ],
  ...part,
})
const tanks = (part: object = {}) =>
  rendered(<TanksPage />, { at: '/review/tanks', known: [[replacementsOptions.queryKey, base(part)]] })

it('says how much of a tank’s end is what the company saw itself, and how sure that is', () => {
  const { unmount } = tanks()
  expect(screen.getByText(/No tank has leaked on our record yet/)).toBeTruthy()
  expect(screen.queryByRole('list', { name: 'Makes that differ' })).toBeNull()
  unmount()
  const makes = [{ name: 'Harrow 189', times: 2.1, between: [1.4, 3.2] }]
  tanks({ taught: { failures: 31, of_all: { name: '', times: 1.6, between: [1.2, 2.1] }, makes } })
  expect(screen.getByText(/31 tanks have leaked on our record/).textContent).toMatch(
    /they fail 1\.6 times as often as the handbook says, between 1\.2 and 2\.1/,
  )
  expect(screen.getByRole('list', { name: 'Makes that differ' }).textContent).toBe('Harrow 1892.1 times, 1.4 to 3.2')
})

it('tells how many tanks to expect, where they stand and which come first', () => {
  tanks()
  expect(screen.getByText(/Left alone, about/).textContent).toMatch(
    /about 31 of 280 tanks fail within 12 months\. 57 are past what is accepted/,
  )
  const [first, second] = within(screen.getByRole('list', { name: 'Tanks' })).getAllByRole('listitem')
  expect(within(first!).getByRole('link', { name: 'Mill, cellar' }).getAttribute('href')).toBe('/heaters/7')
  // Its reasons as they were told, the strongest first.
  expect(first?.textContent).toContain('years without an anode, hot setting')
  expect(first?.textContent).toContain('20 years old')
  expect(first?.textContent).toMatch(/91\s%\s*46\s%\sto\s100\s%/)
  expect(second?.textContent).toContain('age not known')
  expect(second?.textContent).toContain('by its age alone')
  expect(screen.getByRole('link', { name: 'Draymoor chalk' }).getAttribute('href')).toBe('/water/3')
  expect(screen.queryByRole('link', { name: 'Upland' })).toBeNull()
  expect(
    screen.getByRole('img', { name: /within 12 months 31 fail, 57 are due; in year 2 26 fail, 11 are due/ }),
  ).toBeTruthy()
})

it('draws a chance as long as it is, with the stroke at what is accepted', () => {
  const { container } = tanks()
  const [bar, range, stroke] = [
    ...container.querySelectorAll('li rect[class*="ochre-deep"], li rect[class*="fill-ink"]'),
  ]
  expect(bar?.getAttribute('width')).toBe('91%')
  expect(range?.getAttribute('x')).toBe('45.5%')
  expect(parseFloat(range?.getAttribute('width') ?? '')).toBeCloseTo(54.5)
  expect(stroke?.getAttribute('x')).toBe('20%')
})

it('says so where no tank is on record', () => {
  tanks({ tanks: 0, likeliest: [], zones: [] })
  expect(screen.getByText(/No tank is on record/)).toBeTruthy()
})
