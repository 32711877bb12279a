import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { HeaterForm } from './HeaterForm'
import { equipmentOptions, heaterOptions } from '../../records/heaterQueries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const SITE = { id: 3, name: 'Marram Bakery', street: 'Quay 2', zone: 'Chalk', zone_id: 1 }
const EQUIPMENT = [
  {
    kind: 'gas_tank',
    fields: ['capacity_l', 'setpoint_c', 'input_kw', 'drain_port_height_mm', 'dip_tube'],
    assumed: { capacity_l: 189, setpoint_c: 60 },
  },
  { kind: 'gas_tankless', fields: ['input_kw', 'exchanger_area_m2'], assumed: { exchanger_area_m2: 0.15 } },
]
const heater = (part: object = {}) =>
  ({
    id: 4,
    tag: 'T-4',
    kind: 'gas_tank',
    version: 6,
    site: SITE,
    location: 'cellar',
    maker: '',
    model: '',
    serial: '',
    installed_on: '2019-04-02',
    install_certainty: 'known',
    install_margin_years: null,
    flush_history: 'recorded',
    last_flush_year: null,
    bank: '',
    practice: null,
    recirculated: false,
    capacity_l: 189,
    setpoint_c: 60,
    input_kw: 12,
    height_mm: null,
    diameter_mm: null,
    drain_port_height_mm: 80,
    probe_height_mm: null,
    lower_element_height_mm: null,
    exchanger_area_m2: null,
    burner_hours_per_day: null,
    supply_volts: null,
    boiler: '',
    ignition: '',
    vent: '',
    control_setting: '',
    dip_tube: '',
    anode_port: '',
    assumed: {},
    parts: [
      { kind: 'anode', alloy: 'aluminium', fitted_on: '2023-01-05' },
      { kind: 'relief_valve', fitted_on: null },
    ],
    ...part,
  }) as unknown as Schema['HeaterOut']

function form(given?: Schema['HeaterOut'], known: [readonly unknown[], unknown][] = []) {
  const done = vi.fn()
  rendered(<HeaterForm {...(given ? { heater: given } : {})} onDone={done} onCancel={vi.fn()} />, {
    known: [[equipmentOptions.queryKey, EQUIPMENT], ...known],
  })
  return done
}

/** A field by how its label begins: its unit stands behind. */
const at = (label: string) => screen.getByLabelText(new RegExp(`^${label}`))
const retyped = async (label: string, text: string) => {
  await userEvent.clear(at(label))
  await userEvent.type(at(label), text)
}
const press = (name: string) => userEvent.click(screen.getByRole('button', { name }))

it('sends what was typed with the version it was read in, parts and all', async () => {
  const sent = answering({ body: heater({ version: 7 }) })
  const done = form(heater())
  await retyped('Capacity', '227,5')
  await userEvent.selectOptions(screen.getByLabelText('Anode'), 'powered')
  await press('Save heater')
  await waitFor(() => expect(done).toHaveBeenCalled())
  expect(sent[0]).toMatchObject({ method: 'PATCH', path: '/api/heaters/4' })
  expect(sent[0]!.body).toMatchObject({
    version: 6,
    site_id: 3,
    capacity_l: 227.5,
    installed_on: '2019-04-02',
    anode: { alloy: 'powered', fitted_on: '2023-01-05' },
    relief_valve: { fitted_on: null },
  })
  // How many rods it has is not asked here, and stays as it is.
  expect((sent[0]!.body as { anode: object }).anode).not.toHaveProperty('count')
})

it('does not drop in silence what is no number: it stays, with the server’s words at it', async () => {
  const sent = answering(refusal('Not accepted.', { input_kw: 'This is not a number that fits here.' }))
  const done = form(heater())
  await retyped('Heat input', 'twelve')
  await press('Save heater')
  expect(await screen.findByText('This is not a number that fits here.')).toBeTruthy()
  expect((sent[0]!.body as { input_kw: unknown }).input_kw).toBe('no number')
  expect(at('Heat input')).toHaveProperty('value', 'twelve')
  expect(done).not.toHaveBeenCalled()
})

it('asks for what a kind has, and sends nothing of what it has not', async () => {
  const sent = answering({ body: heater({ kind: 'gas_tankless' }) })
  form(heater())
  expect(screen.queryByLabelText(/^Exchanger or coil/)).toBeNull()
  await userEvent.selectOptions(screen.getByLabelText('Kind'), 'gas_tankless')
  expect(screen.queryByLabelText(/^Capacity/)).toBeNull()
  expect(screen.queryByLabelText('Anode')).toBeNull()
  expect(at('Exchanger or coil')).toHaveProperty('placeholder', '0.15')
  await press('Save heater')
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]!.body).toMatchObject({ kind: 'gas_tankless', anode: null, drain_port_height_mm: null })
})

it('asks by how much an estimated age may be off, and for the year of a flush that is only remembered', async () => {
  const sent = answering({ body: heater() })
  form(heater())
  expect(screen.queryByLabelText(/^It may be off by/)).toBeNull()
  await userEvent.selectOptions(screen.getByLabelText('How sure is that'), 'estimated')
  await userEvent.type(at('It may be off by'), '3')
  await userEvent.selectOptions(screen.getByLabelText('Flushes before our record'), 'about')
  await userEvent.type(screen.getByLabelText('… in the year'), '2021')
  await userEvent.selectOptions(screen.getByLabelText('How sure is that'), 'known')
  await press('Save heater')
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]!.body).toMatchObject({ install_margin_years: null, flush_history: 'about', last_flush_year: 2021 })
})

it('needs a site and a tag before anything is sent', async () => {
  const sent = answering({ body: heater() })
  form()
  expect(screen.getByRole('button', { name: 'Add heater' })).toHaveProperty('disabled', true)
  expect(screen.getByText(/Choose its site first/)).toBeTruthy()
  cleanup()
  form(heater({ tag: '' }))
  await press('Save heater')
  expect(await screen.findByText('Every heater needs a tag')).toBeTruthy()
  expect(sent).toEqual([])
})

it('shows what somebody else changed meanwhile before it puts its own in place', async () => {
  const sent = answering(
    { status: 409, body: { code: 'heater.changed_meanwhile', message: 'Somebody changed it meanwhile.', fields: {} } },
    { body: heater() },
  )
  form(heater(), [[heaterOptions(4).queryKey, heater({ version: 9, location: 'garage', setpoint_c: 50 })]])
  vi.stubGlobal(
    'fetch',
    ((plain) => (request: Request) =>
      request.method === 'GET'
        ? Promise.resolve(
            new Response(JSON.stringify(heater({ version: 9, location: 'garage', setpoint_c: 50 })), {
              headers: { 'Content-Type': 'application/json' },
            }),
          )
        : plain(request))(globalThis.fetch),
  )
  await retyped('Where it stands', 'attic')
  await press('Save heater')
  await press('Show what is on record now')
  const theirs = await screen.findByRole('status')
  expect(within(theirs).getByText('where it stands: garage')).toBeTruthy()
  expect(within(theirs).getByText('set temperature: 50')).toBeTruthy()
  expect(screen.getByLabelText('Where it stands')).toHaveProperty('value', 'attic')
  await press('Save heater')
  await waitFor(() => expect(sent).toHaveLength(2))
  expect(sent[1]!.body).toMatchObject({ version: 9, location: 'attic' })
})
