import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { rendered } from '../test/rendered'
import { Finder } from './Finder'

const heater = (id: number, tag: string) =>
  ({
    id,
    tag,
    site: 'Mill',
    street: '1 Weir Street',
    kind: 'gas_tank',
    zone: 'Chalk',
    depth_share: 0.4,
    anode_left: 0.5,
    next_component: 'anode',
    next_due_on: '2027-02-01',
    site_id: 5,
    next_visit: {
      id: 3,
      week: '2026-11-30',
      on: '2026-12-01',
      begins: 545,
      earliest: 510,
      latest: 600,
      standing: 'promised',
      reason: 'due',
      technician: 'Joss Teal',
    },
  }) as Schema['HeaterFoundOut']
let found: Schema['FoundOut'] = { exact: true, heaters: [], places: [] }

beforeEach(() => {
  vi.stubGlobal('fetch', () =>
    Promise.resolve(new Response(JSON.stringify(found), { headers: { 'Content-Type': 'application/json' } })),
  )
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

function shown() {
  rendered(
    <>
      <Finder />
      <input aria-label="elsewhere" />
      <Routes>
        <Route path="/" element={<p>at home</p>} />
        <Route path="/heaters/:id" element={<p>a heater</p>} />
        <Route path="/water/:id" element={<p>a water</p>} />
        <Route path="/sites/:id" element={<p>a site</p>} />
        <Route path="/sites/5/call" element={<p>a call</p>} />
      </Routes>
    </>,
  )
}

it('opens at a stroke of /, but not while somebody types elsewhere', async () => {
  shown()
  await userEvent.type(screen.getByLabelText('elsewhere'), '/')
  expect(screen.queryByRole('combobox')).toBeNull()
  screen.getByLabelText('elsewhere').blur()
  await userEvent.keyboard('/')
  expect(screen.getByRole('combobox')).toBeTruthy()
})

it('goes by the keys to what was found', async () => {
  found = {
    exact: true,
    heaters: [heater(1, 'T-1'), heater(2, 'T-2')],
    places: [{ kind: 'zone', id: 9, name: 'Chalk', detail: 'boreholes', next_visit: null }],
  }
  shown()
  await userEvent.keyboard('/')
  await userEvent.type(screen.getByRole('combobox'), 't')
  const options = await screen.findAllByRole('option')
  expect(options.map((one) => one.getAttribute('aria-selected'))).toEqual(['true', 'false', 'false'])
  expect(options[0]?.textContent).toContain('T-1 · gas tank · Chalk')
  expect(options[2]?.textContent).toBe('Chalkwater zone · boreholes')
  await userEvent.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}')
  expect(screen.getAllByRole('option')[2]?.getAttribute('aria-selected')).toBe('true')
  await userEvent.keyboard('{Enter}')
  expect(screen.getByText('a water')).toBeTruthy()
  expect(screen.queryByRole('combobox')).toBeNull()
})

it('says at once when somebody comes, and answers a call in two keys', async () => {
  found = {
    exact: true,
    heaters: [heater(1, 'T-1')],
    places: [{ kind: 'site', id: 8, name: 'Mill', detail: '1 Weir Street', next_visit: null }],
  }
  shown()
  await userEvent.keyboard('/')
  await userEvent.type(screen.getByRole('combobox'), 'mill')
  expect((await screen.findAllByRole('option')).map((one) => one.textContent)).toEqual([
    expect.stringContaining('comes Tue 1 Dec, 8:30 to 10:00, promised, Joss'),
    expect.stringContaining('no visit planned'),
  ])
  await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
  expect(screen.getByText('a call')).toBeTruthy()
})

it('says that nothing is written so, and what is close to it', async () => {
  found = { exact: false, heaters: [heater(1, 'T-1')], places: [] }
  shown()
  await userEvent.keyboard('/')
  await userEvent.type(screen.getByRole('combobox'), 'mlil')
  expect(await screen.findByText('Nothing is written like “mlil”. Close to it:')).toBeTruthy()
  await userEvent.click(screen.getByRole('option'))
  expect(screen.getByText('a heater')).toBeTruthy()
})

it('says so when nothing is even close', async () => {
  found = { exact: false, heaters: [], places: [] }
  shown()
  await userEvent.keyboard('/')
  await userEvent.type(screen.getByRole('combobox'), 'q')
  expect(await screen.findByText(/Try fewer letters, or the street/)).toBeTruthy()
  expect(screen.queryByRole('option')).toBeNull()
})
