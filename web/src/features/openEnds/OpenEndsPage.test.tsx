import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { OpenEndsPage } from './OpenEndsPage'
import { buildsOptions, campaignsOptions, openEndsOptions } from '../../records/openEndQueries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const end = (part: object = {}) =>
  ({
    id: 5,
    site: 'Pell School',
    street: 'Hill 1',
    location: 'boiler room',
    site_id: 9,
    heater_id: null,
    kind: 'safety',
    severity: 'danger',
    state: 'open',
    what: 'Relief pipe is capped',
    detail: '',
    raised_on: '2026-11-01',
    promised_on: null,
    photographs: [],
    raised_by: 'Nadia',
    part: '',
    note: '',
    closed_on: null,
    ...part,
  }) as unknown as Schema['OpenEndOut']
const CAMPAIGN = {
  id: 2,
  name: 'Clouded mixing valves',
  part: 'mixing valve',
  maker: 'Tarn',
  model: 'M2',
  doubtful_look: 'a grey cap',
  sound_look: 'a white cap',
  closed: false,
  to_do: 7,
  heaters: 31,
}
const BUILDS = [
  { part: 'thermostat', maker: 'Tarn', model: 'A', failures: 12, expected: 4, heaters: 80 },
  { part: 'thermostat', maker: 'Fell', model: 'B', failures: 3, expected: 3, heaters: 70 },
]

function page({
  rows = [end()],
  may = ['read', 'edit_register', 'record_place'] as Schema['Action'][],
  campaigns = [CAMPAIGN],
  at = '/',
} = {}) {
  const filters = Object.fromEntries(new URL(at, 'http://localhost').searchParams)
  const known: [readonly unknown[], unknown][] = [
    [openEndsOptions({}).queryKey, { total: rows.length, rows, by_severity: {} }],
    [openEndsOptions(filters).queryKey, { total: rows.length, rows, by_severity: {} }],
    [campaignsOptions.queryKey, campaigns],
    [buildsOptions.queryKey, BUILDS],
  ]
  rendered(<OpenEndsPage />, { at, may, known })
}

it('leads to the heater, or to the site where no heater is meant', () => {
  page({ rows: [end(), end({ id: 6, site: 'Mill', heater_id: 31 })] })
  expect(screen.getByRole('link', { name: 'Pell School' }).getAttribute('href')).toBe('/sites/9')
  expect(screen.getByRole('link', { name: 'Mill' }).getAttribute('href')).toBe('/heaters/31')
})

it('shows what the sentence in the address asks for', () => {
  page({ rows: [], at: '/?severity=defect&state=arranged' })
  expect(screen.getByText(/Nothing fits this sentence/)).toBeTruthy()
  expect(screen.getByRole('combobox', { name: 'State' }).textContent).toBe('arranged')
})

it('shows which builds fail more than all together', () => {
  page()
  const lines = within(screen.getByRole('region', { name: 'Campaigns and failures' }))
  const drawn = (words: string) => lines.getByText(words).closest('li')!.querySelectorAll('rect')
  const [failing, usual] = [drawn('Tarn A'), drawn('Fell B')]
  expect([failing[0]!.getAttribute('width'), failing[1]!.getAttribute('x')]).toEqual(['100%', `${(100 * 4) / 12}%`])
  expect([failing[0]!.getAttribute('class'), usual[0]!.getAttribute('class')]).toEqual(['fill-copper', 'fill-ash'])
})

it('ends a campaign, and offers neither that nor a new one to whoever only reads', async () => {
  const sent = answering({ body: {} })
  page()
  expect(screen.getByText('7 of 31 heaters still to see')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'End it' }))
  expect(sent[0]).toMatchObject({ method: 'POST', path: '/api/campaigns/2/end' })
  cleanup()
  page({ may: ['read'] })
  expect(screen.queryByRole('button', { name: 'End it' })).toBeNull()
  expect(screen.queryByRole('button', { name: 'Start a campaign' })).toBeNull()
})

it('starts a campaign; what the server has against it stands at its field and nothing typed is lost', async () => {
  const sent = answering(refusal('Not accepted.', { doubtful_look: 'say how it looks' }), { body: {} })
  page()
  await userEvent.click(screen.getByRole('button', { name: 'Start a campaign' }))
  await userEvent.type(screen.getByLabelText('Name'), 'Soft dip tubes')
  await userEvent.type(screen.getByLabelText('Which part'), 'dip tube')
  await userEvent.type(screen.getByLabelText('Heaters of the maker'), 'Tarn')
  await userEvent.selectOptions(screen.getByLabelText('How bad'), 'danger')
  await userEvent.click(screen.getByRole('button', { name: 'Start it' }))
  expect(await screen.findByText('say how it looks')).toBeTruthy()
  expect(screen.getByLabelText('Name')).toHaveProperty('value', 'Soft dip tubes')
  await userEvent.type(screen.getByLabelText('How the doubtful build looks'), 'white crumbs at the taps')
  await userEvent.click(screen.getByRole('button', { name: 'Start it' }))
  await waitFor(() => expect(sent).toHaveLength(2))
  expect(sent[1]!.body).toMatchObject({
    name: 'Soft dip tubes',
    part: 'dip tube',
    maker: 'Tarn',
    model: '',
    installed_from: null,
    installed_until: null,
    severity: 'danger',
    doubtful_look: 'white crumbs at the taps',
  })
})
