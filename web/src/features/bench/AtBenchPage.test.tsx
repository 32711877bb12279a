import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { AtBenchPage } from './AtBenchPage'
import { drainName } from '../../drawing/DrainEnd'
import { seenWords } from './practiceWords'
import { scenariosOptions } from './queries'
import { UNITS } from '../../test/rendered'

type Body = Schema['AtBenchIn']

const QUIET: Schema['SeenOut'] = {
  cold_open: true,
  main_open: true,
  tap_open: false,
  drain: 'shut',
  hose: false,
  hose_in: 'floor drain',
  gauge: false,
  cap: false,
  lever_up: false,
  relief_bucket: false,
  dial: 'on',
  mark_c: 60,
  gas_open: true,
  pilot_lit: true,
  breaker: '',
  burns: false,
  outlet: '',
  drain_runs: 'dry',
  drain_c: null,
  drain_l_min: 0,
  murk_g_l: 0,
  clarity: 'clear',
  tap_runs: 'dry',
  tap_c: null,
  tap_l_min: 0,
  relief_runs: 'dry',
  gauge_kpa: null,
  bucket_l: 0,
  bucket_g: 0,
  relief_bucket_l: 0,
  floor_l: 0,
  sounds: [],
  rod: 'in',
  rod_head: '',
  rod_bare_mm: null,
  rod_thick_mm: null,
  rod_left: null,
  hot_pipe: true,
  probe: '',
  at_drain: '',
  tank_drain: '',
  boiler_kpa: null,
  leaks: false,
  removed_l: 0,
}
const READ = { title: 'Drain-valve trial', do: 'Lay its end in a drain.', why: '', caution: 'Scalding water hurts.' }
const SCENARIO = {
  name: 'gas_yearly',
  title: 'A plain yearly service',
  says: 'Flush it.',
  kind: 'gas_tank',
  handles: [{ name: 'dial', to: ['on', 'pilot', 'off'] }],
  asks: ['tap_c', 'removed'],
  within_min: 100,
  tries: 0,
  passed_free: null,
  passed_guided: null,
  best_share: null,
} satisfies Schema['ScenarioOut']

/** A stand-in that scalds whoever opens the drain without a hose, and asks for nothing else. */
function atBench(body: Body): Schema['AtBenchOut'] {
  const acts = body.acts ?? []
  const last = (handle: string) => acts.findLast((one) => one.handle === handle)?.to
  const opened = acts.findIndex((one) => one.handle === 'drain' && one.to === 'open')
  const scalds = opened >= 0 && last('hose') !== 'on'
  const told = acts.filter((one) => one.handle === 'done').length
  return {
    at_s: scalds && (body.harms ?? 0) === 0 ? acts[opened]!.at_s + 1 : (body.at_s ?? 0),
    acts: acts.length,
    is_over: false,
    seen: {
      ...QUIET,
      drain: last('drain') === 'open' ? 'open' : 'shut',
      hose: last('hose') === 'on',
      cold_open: last('cold') !== 'shut',
    },
    inside: null,
    harms: scalds
      ? [
          {
            name: 'scalded',
            says: 'Hot water ran over your hand.',
            at_s: acts[opened]!.at_s + 1,
            act: opened,
            read: READ,
          },
        ]
      : [],
    refusals: acts.flatMap((one, act) =>
      one.handle === 'wire' ? [{ act, says: 'A wire goes in by the open drain.' }] : [],
    ),
    drew: [],
    guide: body.guided
      ? {
          step: ['arrival.air', 'arrival.greet'][told] ?? '',
          title: 'Look first',
          do: ['Sniff low and high.', 'Say what goes off.'][told] ?? '',
          why: '',
          caution: '',
          expect: '',
          part: '',
          deviations: told === 0 ? [{ choice: 0, says: 'It smells of gas' }] : [],
          held: [],
          left: 2 - told,
          done: told,
        }
      : null,
  }
}

let sent: { path: string; body: Body }[] = []

beforeEach(() => {
  sent = []
  vi.stubGlobal('fetch', async (request: Request) => {
    if (request.method === 'GET') return new Promise<Response>(() => undefined)
    const body = (await request.clone().json()) as Body
    const path = new URL(request.url).pathname
    sent.push({ path, body })
    const practice = atBench(body)
    const grade = {
      passed: false,
      share: 0.5,
      marks: [
        { name: 'told', good: true, must: false, says: 'The house knew.', read: null },
        { name: 'left_fit', good: false, must: true, says: 'It was left with the hose on.', read: READ },
      ],
    }
    const ends = path.endsWith('practised')
    return new Response(JSON.stringify(ends ? { practice, grade } : practice), {
      status: ends ? 201 : 200,
      headers: { 'Content-Type': 'application/json' },
    })
  })
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

async function page(way: string) {
  rendered(
    <Routes>
      <Route path="/bench/practise/:name" element={<AtBenchPage />} />
    </Routes>,
    { at: `/bench/practise/gas_yearly?way=${way}&heater=3`, known: [[scenariosOptions.queryKey, [SCENARIO]]] },
  )
  await userEvent.click(await screen.findByRole('button', { name: 'stop' }))
}

const lastActs = () => sent.at(-1)!.body.acts!.map((one) => `${one.handle} ${one.to}`)

it('is turned by hand, by a key as well, and says what cannot be', async () => {
  await page('free')
  const drain = screen.getByRole('button', { name: /^cold: open/ })
  drain.focus()
  await userEvent.keyboard('{Enter}')
  expect(await screen.findByRole('button', { name: /^cold: shut/ })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Wire through the drain' }))
  expect(await screen.findByText('A wire goes in by the open drain.')).toBeTruthy()
  expect(lastActs()).toEqual(['cold shut', 'wire through the drain'])
  expect(sent.at(-1)!.body).toMatchObject({ scenario: 'gas_yearly', seed: 3, guided: false, cut: false })
  const list = screen.getByRole('list', { name: 'What you did last' })
  expect(within(list).getAllByRole('listitem')).toHaveLength(2)
})

it('stops where something goes wrong, and goes back to before the act', async () => {
  await page('free')
  await userEvent.click(screen.getByRole('button', { name: 'Tell the house' }))
  await userEvent.click(screen.getByRole('button', { name: /^drain: shut/ }))
  const wrong = await screen.findByRole('alert', { name: 'Something went wrong' })
  expect(wrong.textContent).toContain('drain opened, 00:01 before, your act 2.')
  expect(wrong.textContent).toContain('Lay its end in a drain.')
  // Nothing is done meanwhile.
  await userEvent.click(screen.getByRole('button', { name: 'Hose on' }))
  expect(lastActs()).toEqual(['tell what goes off', 'drain open'])
  await userEvent.click(within(wrong).getByRole('button', { name: 'Back to before that act' }))
  await waitFor(() => expect(screen.queryByText(/drain opened/)).toBeNull())
  expect(screen.getByText(/house told/)).toBeTruthy()
  expect(screen.queryByRole('alert')).toBeNull()
})

it('lets it happen and goes on', async () => {
  await page('free')
  await userEvent.click(screen.getByRole('button', { name: /^drain: shut/ }))
  await userEvent.click(await screen.findByRole('button', { name: 'Let it happen' }))
  await userEvent.click(screen.getByRole('button', { name: 'Hose on' }))
  await waitFor(() => expect(lastActs()).toEqual(['drain open', 'hose on']))
  expect(sent.at(-1)!.body.harms).toBe(1)
})

it('leads by the steps of the trade, which are told apart from what is done', async () => {
  await page('guided')
  const guide = screen.getByRole('region', { name: 'Guide' })
  expect(guide.textContent).toContain('Sniff low and high.')
  await userEvent.click(within(guide).getByRole('button', { name: 'Done, as it says' }))
  expect(await within(guide).findByText('Say what goes off.')).toBeTruthy()
  expect(lastActs()).toEqual(['done arrival.air'])
  expect(screen.getByText(/^Nothing done yet/)).toBeTruthy()
})

it('notes what was read, ends, and shows what to read again', async () => {
  await page('free')
  await userEvent.type(screen.getByLabelText(/^First hot water/), '58,5{Enter}')
  await userEvent.click(screen.getByRole('radio', { name: 'moderate' }))
  await userEvent.click(screen.getByRole('button', { name: 'Cut it open' }))
  await userEvent.click(screen.getByRole('button', { name: 'I am done here' }))
  expect(await screen.findByText('Not passed: 50 % of what counts at “A plain yearly service”.')).toBeTruthy()
  const ended = sent.find((one) => one.path.endsWith('practised'))!.body
  expect(ended.acts!.map((one) => `${one.handle} ${one.to}`)).toEqual(['tap_c 58.5', 'removed moderate'])
  expect(ended.cut).toBe(true)
  const better = screen.getByRole('region', { name: 'To read again' })
  expect(better.textContent).toContain('It was left with the hose on. Without it nothing is passed.')
  expect(screen.getByRole('link', { name: 'Another heater like it' }).getAttribute('href')).toContain('heater=4')
})

it('says what is seen and heard, the worst first', () => {
  const seen = {
    ...QUIET,
    drain: 'open' as const,
    hose: true,
    drain_runs: 'runs' as const,
    drain_l_min: 28,
    drain_c: 20,
  }
  expect(seenWords({ ...seen, clarity: 'dark', floor_l: 2.4, removed_l: 1.1, sounds: ['rush'] }, UNITS)).toEqual([
    'Water is on the floor: 2.4 L.',
    'The hose runs, 28.0 L/min, dark with grains, 20 °C.',
    'In the cloth lie 1.1 L of deposit.',
    'Water rushes in the pipes.',
  ])
  expect(seenWords({ ...QUIET, drain: 'open', tap_open: true, pilot_lit: false }, UNITS)).toEqual([
    'Nothing comes out of the drain.',
    'The faucet is open, and nothing runs.',
    'The pilot is out.',
  ])
})

it('tells two drains apart once somebody followed them, and what a rod looks like that is out', () => {
  const drains: Parameters<typeof seenWords>[0] = { ...QUIET, at_drain: 'left', boiler_kpa: 120 }
  expect(drainName(drains, 'left')).toBe('left drain')
  expect(drainName({ ...drains, tank_drain: 'right' }, 'left')).toBe("boiler's drain")
  expect(drainName({ ...drains, tank_drain: 'right' }, 'right')).toBe("tank's drain")
  expect(drainName(QUIET, '')).toBe('drain')
  const rod: Parameters<typeof seenWords>[0] = { ...QUIET, rod: 'out', rod_thick_mm: 8.2, rod_bare_mm: 410 }
  expect(seenWords(rod, UNITS)).toEqual(['The rod is out: 8 mm thick, wire bare on 410 mm.'])
  expect(seenWords({ ...rod, rod_bare_mm: 0, rod_thick_mm: 16 }, UNITS)).toEqual([
    'The rod is out: 16 mm thick, no wire shows.',
  ])
  expect(seenWords({ ...QUIET, rod_head: 'none', probe: 'short', hot_pipe: false, leaks: true }, UNITS)).toEqual([
    'Something leaks that nobody opened.',
    'The rod has no head: it hangs on the hot outlet.',
    "The relief valve's probe ends in its neck, short of the water.",
    'The hot pipe is off.',
  ])
})
