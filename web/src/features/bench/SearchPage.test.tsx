import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { troublesOptions } from './queries'
import { SearchPage } from './SearchPage'

const TROUBLE: Schema['TroubleOut'] = {
  name: 'stone_cold',
  title: 'Stone cold',
  says: 'No hot water at all.',
  kind: 'electric_tank',
  within_min: 150,
  tries: 0,
  passed_free: null,
  passed_guided: null,
  best_share: null,
  points: [
    { name: 'house', title: 'The house', line: 'house', deeds: ['say what goes off'] },
    { name: 'breaker', title: 'Breaker', line: 'electric', deeds: ['look', 'volts'] },
    { name: 'clock', title: 'Wait', line: 'house', deeds: ['5 minutes'] },
  ],
  causes: [
    { name: 'upper_open', says: 'the upper element is open' },
    { name: 'wire_burnt', says: "a wire's end has burnt" },
  ],
}
const FRESH: Schema['SearchOut'] = {
  at_s: 0,
  acts: 0,
  is_over: false,
  shown: [],
  harms: [],
  refusals: [],
  cause: '',
  guide: null,
}
const READ = { title: 'Prove it dead', do: 'Test meter.', why: '', caution: 'One hand.' }

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

/** A server that has a reading for the breaker, and hurts whoever measures volts. */
const served = (body: Schema['SearchIn']): Schema['SearchOut'] => ({
  ...FRESH,
  at_s: 30 * body.acts!.length,
  acts: body.acts!.length,
  shown: body.acts!.flatMap((one, act) =>
    one.handle === 'breaker' && one.to === 'look'
      ? [{ act, at_s: 30, point: 'breaker', deed: 'look', says: 'On.' }]
      : [],
  ),
  harms: body.acts!.flatMap((one, act) =>
    one.to === 'volts' ? [{ name: 'shock', says: 'You touched what is live.', at_s: 60, act, read: READ }] : [],
  ),
  cause: body.acts!.filter((one) => one.handle === 'cause').at(-1)?.to ?? '',
})

function opened() {
  const asked: Schema['SearchIn'][] = []
  const marks = [{ name: 'cause', good: true, must: true, says: 'It.', read: null }]
  vi.stubGlobal('fetch', async (request: Request) => {
    const body = (await request.json()) as Schema['SearchIn']
    asked.push(body)
    if (request.url.endsWith('/searched'))
      return Response.json({ search: served(body), grade: { passed: true, share: 1, marks } }, { status: 201 })
    return Response.json(served(body))
  })
  rendered(
    <Routes>
      <Route path="/bench/find/:name" element={<SearchPage />} />
    </Routes>,
    { at: '/bench/find/stone_cold?way=free&heater=3', known: [[troublesOptions.queryKey, [TROUBLE]]] },
  )
  return asked
}

it('does what is chosen at a place, and writes what it showed under its knot', async () => {
  const asked = opened()
  await userEvent.click(await screen.findByRole('button', { name: /^Breaker/ }))
  // Deep in a room one is still in it, and in no other.
  const rooms = within(screen.getByRole('navigation', { name: 'Bench' })).getAllByRole('link')
  const here = rooms.filter((one) => one.getAttribute('aria-current') === 'page')
  expect(here.map((one) => one.textContent)).toEqual(['Find what is wrong'])
  await userEvent.click(screen.getByRole('button', { name: 'Look' }))
  await waitFor(() => expect(screen.getByRole('button', { name: /^Breaker/ }).textContent).toContain('On.'))
  expect(within(screen.getByRole('region', { name: 'Breaker' })).getByRole('status').textContent).toBe('look: On.')
  expect(asked.at(-1)).toMatchObject({ trouble: 'stone_cold', seed: 3, guided: false })
  expect(asked.at(-1)!.acts).toEqual([{ at_s: 0, handle: 'breaker', to: 'look' }])
  // What a deed takes has gone by when the next begins.
  await userEvent.click(screen.getByRole('button', { name: '5 minutes' }))
  await waitFor(() => expect(asked.at(-1)!.acts).toHaveLength(2))
  expect(asked.at(-1)!.acts![1]).toEqual({ at_s: 30, handle: 'clock', to: '5 minutes' })
})

it('stops at what hurts, names the deed that led there, and goes back to before it', async () => {
  opened()
  await userEvent.click(await screen.findByRole('button', { name: /^Breaker/ }))
  await userEvent.click(screen.getByRole('button', { name: 'Volts' }))
  const alert = await screen.findByRole('alert', { name: 'Something went wrong' })
  expect(alert.textContent).toContain('You touched what is live.')
  expect(alert.textContent).toContain('Breaker: volts')
  expect(screen.getByRole('button', { name: 'I am done here' })).toHaveProperty('disabled', true)
  await userEvent.click(within(alert).getByRole('button', { name: 'Back to before that act' }))
  await waitFor(() => expect(screen.queryByRole('alert', { name: 'Something went wrong' })).toBeNull())
})

it('is graded with the cause that was noted', async () => {
  const asked = opened()
  await userEvent.selectOptions(await screen.findByLabelText('What was wrong'), 'wire_burnt')
  await waitFor(() => expect(screen.getByLabelText('What was wrong')).toHaveProperty('value', 'wire_burnt'))
  await userEvent.click(screen.getByRole('button', { name: 'I am done here' }))
  expect((await screen.findByText(/^Passed/)).textContent).toContain('100 % of what counts at “Stone cold”')
  expect(asked.at(-1)!.acts!.at(-1)).toMatchObject({ handle: 'cause', to: 'wire_burnt' })
  expect(screen.getByRole('link', { name: 'Another house with it' }).getAttribute('href')).toBe(
    '/bench/find/stone_cold?way=free&heater=4',
  )
})

it('says that there is no such complaint', async () => {
  rendered(
    <Routes>
      <Route path="/bench/find/:name" element={<SearchPage />} />
    </Routes>,
    { at: '/bench/find/ghosts', known: [[troublesOptions.queryKey, [TROUBLE]]] },
  )
  expect(await screen.findByText(/no such complaint/)).toBeTruthy()
})
