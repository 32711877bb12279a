import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { AccountPage } from './AccountPage'
import { CompanyPage } from './CompanyPage'
import { CrewPage } from './CrewPage'
import { describedOptions, InterfacePage } from './InterfacePage'
import { JobsPage } from './JobsPage'
import { MessagesPage } from './MessagesPage'
import { PeoplePage } from './PeoplePage'
import { PracticePage } from './PracticePage'
import { ProgramsPage } from './ProgramsPage'
import {
  accountOptions,
  crewOptions,
  hooksOptions,
  jobsOptions,
  peopleOptions,
  settingsOptions,
  tokensOptions,
} from './queries'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const OURS = {
  may_change: true,
  name: 'Marsh Heating',
  phone: '',
  public_address: '',
  server_address: 'http://127.0.0.1:8000',
  logo: '',
  units: 'metric',
  hardness_unit: 'mg_l',
  clock: '24',
  time_zone: 'UTC',
  time_zones: ['America/Denver', 'Europe/Zurich'],
  currency: '¤',
  hour_cost: '46.00',
  quotes_last_days: 60,
  yard: '',
  yard_latitude: null,
  yard_longitude: null,
  practice: 'condition',
  flush_method: 'drain_and_pulse',
  tolerance: 0.2,
  longest_flush_months: 36,
  relief_valve_target: 0.015,
  never_flushed_cutoff_years: 6,
  first_round_weeks: 8,
  worth_hours: 8,
  level_hours: 1.5,
  quiet_from: 1200,
  quiet_until: 480,
  remind_days: 2,
  second_step_roles: ['lead'],
  gateway: '',
  practice_questions: [
    {
      question: 'A drain that does not run?',
      chosen: 'clear_drain',
      options: [
        { option: 'clear_drain', says: 'Try wire.' },
        { option: 'leave_blocked', says: 'Leave it.' },
      ],
    },
  ],
} as unknown as Schema['SettingsOut']
const company = (part: object = {}) =>
  [[settingsOptions.queryKey, { ...OURS, ...part }]] as [readonly unknown[], unknown][]
const put = async (label: string, text: string) => {
  const box = screen.getByLabelText(label)
  await userEvent.clear(box)
  await userEvent.type(box, `${text}{Enter}`)
}

it('sets what was typed when its field is left, each by the version that the one before left', async () => {
  const sent = answering({ body: { ...OURS, version: 32 } }, { body: { ...OURS, version: 33 } }, { body: OURS })
  rendered(<CompanyPage />, { known: company({ version: 31 }) })
  await userEvent.click(screen.getByLabelText('Name'))
  await userEvent.tab()
  await put('Telephone', '555-0100')
  await put('On the map', '44.112, -112.871')
  await userEvent.selectOptions(screen.getByLabelText('Units'), 'us')
  await waitFor(() => expect(sent).toHaveLength(3))
  expect(sent.map((one) => one.body)).toEqual([
    { phone: '555-0100', version: 31 },
    { yard_latitude: 44.112, yard_longitude: -112.871, version: 32 },
    { units: 'us', version: 33 },
  ])
})

it('takes a figure back with Escape, and asks again for what is no number', async () => {
  const sent = answering({ body: OURS })
  rendered(<PracticePage />, { known: company() })
  const box = screen.getByLabelText<HTMLInputElement>('Accepted risk')
  await userEvent.type(box, '9{Escape}')
  expect(box.value).toBe('20')
  await put('Accepted risk', 'much')
  expect(box.value).toBe('much')
  expect(screen.getByText('This is not a number.')).toBeTruthy()
  await put('Accepted risk', '12,5')
  await waitFor(() => expect(sent.map((one) => one.body)).toMatchObject([{ tolerance: 0.125 }]))
})

it('takes a side', async () => {
  const sent = answering({ body: OURS })
  rendered(<PracticePage />, { known: company() })
  const asked = screen.getByRole('group', { name: 'A drain that does not run?' })
  await userEvent.click(within(asked).getByRole('radio', { name: /Leave it/ }))
  await waitFor(() => expect(sent[0]?.body).toMatchObject({ practice_options: ['leave_blocked'] }))
})

it('lets who may not change read it all', () => {
  rendered(<CompanyPage />, { known: company({ may_change: false }) })
  expect(screen.getByText('The lead changes these.')).toBeTruthy()
  for (const box of [...screen.getAllByRole('textbox'), ...screen.getAllByRole('combobox')])
    expect(box).toHaveProperty('disabled', true)
  expect(screen.queryByRole('button')).toBeNull()
})

it('says that messages are not sent, and sets quiet hours as they are written', async () => {
  const sent = answering(refusal('They begin and end at the same time.', { quiet_until: 'another time' }))
  rendered(<MessagesPage />, { known: company() })
  expect(screen.getByText(/Messages are not sent/)).toBeTruthy()
  await put('Quiet until', '8 pm')
  expect(await screen.findByText('another time')).toBeTruthy()
  expect(sent[0]!.body).toMatchObject({ quiet_until: 1200 })
})

it('keeps what was typed over somebody else’s change, and says at its field what is there now', async () => {
  const said = 'Tamsin changed this meanwhile: phone is now 555-0177. Yours is not kept yet.'
  const sent = answering(refusal(said, { version: '40', phone: 'is now 555-0177' }, 'changed_meanwhile'))
  rendered(<CompanyPage />, { known: company({ version: 31 }) })
  await put('Telephone', '555-0100')
  expect((await screen.findByRole('alert')).textContent).toBe(said)
  expect(screen.getByText('is now 555-0177')).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>('Telephone').value).toBe('555-0100')
  expect(sent[0]!.body).toEqual({ phone: '555-0100', version: 31 })
})

const MEMBER = {
  id: 2,
  version: 11,
  user_id: 7,
  name: 'Nadia',
  licences: ['gas'],
  weekdays: [0, 1, 2],
  begins: 450,
  ends: 990,
  lunch_minutes: 40,
  lunch_earliest: 690,
  lunch_latest: 800,
  equipment: [],
  helper: '',
  place: 'the yard',
  longitude: null,
  latitude: null,
  active: true,
}
const CREW = {
  may_change: true,
  members: [MEMBER],
  loans: [],
  absences: [{ id: 5, member_id: null, name: '', first_on: '2026-12-24', last_on: '2027-01-02', why: 'closed' }],
  equipment: ['jetter', 'descaling pump'],
  candidates: [{ id: 9, name: 'Wren' }],
} as Schema['CrewOut']

it('enters a sick day, a day of the week and what a truck carries', async () => {
  const later = { ...MEMBER, version: 12, weekdays: [0, 2] }
  const sent = answering({ body: later }, { body: { ...later, version: 13 } }, { body: {} })
  rendered(<CrewPage />, { known: [[crewOptions.queryKey, CREW]] })
  expect(screen.getByText('24 December to 2 January 2027')).toBeTruthy()
  await userEvent.click(
    within(screen.getByRole('group', { name: 'Days of Nadia' })).getByRole('button', { name: 'Tuesday' }),
  )
  await userEvent.click(screen.getByRole('checkbox', { name: 'jetter' }))
  await userEvent.selectOptions(screen.getByLabelText('Who'), 'Nadia')
  await userEvent.type(screen.getByLabelText('Why'), 'ill')
  await userEvent.click(screen.getByRole('button', { name: 'Enter it' }))
  await waitFor(() => expect(sent).toHaveLength(3))
  expect(sent.map((one) => one.body)).toEqual([
    { weekdays: [0, 2], version: 11 },
    { equipment: ['jetter'], version: 12 },
    { member_id: 2, first_on: '2026-11-25', last_on: '2026-11-25', why: 'ill' },
  ])
})

it('lends a tool to whoever needs it, and takes it back', async () => {
  const sent = answering({ body: {} }, { status: 204, body: null })
  const crew = {
    ...CREW,
    members: [
      { ...MEMBER, equipment: ['jetter'] },
      { ...MEMBER, id: 3, name: 'Tove' },
    ],
    loans: [
      { id: 8, tool: 'jetter', lender: 'Nadia', borrower: 'Tove', first_on: '2026-12-01', last_on: '2026-12-02' },
    ],
  } as Schema['CrewOut']
  rendered(<CrewPage />, { known: [[crewOptions.queryKey, crew]] })
  // Only what somebody carries can be lent, and only by whoever does.
  const options = (label: string) =>
    within(screen.getByLabelText(label))
      .getAllByRole('option')
      .map((one) => one.textContent)
  expect([options('Tool'), options('Of')]).toEqual([['jetter'], ['Choose …', 'Nadia']])
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Lend it' }).disabled).toBe(true)
  await userEvent.selectOptions(screen.getByLabelText('Of'), 'Nadia')
  expect(options('Goes with')).toEqual(['Choose …', 'Tove'])
  await userEvent.selectOptions(screen.getByLabelText('Goes with'), 'Tove')
  await userEvent.click(screen.getByRole('button', { name: 'Lend it' }))
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]!.body).toEqual({
    tool: 'jetter',
    lender_id: 2,
    borrower_id: 3,
    first_on: '2026-11-25',
    last_on: '2026-11-25',
  })
  await userEvent.click(screen.getByRole('button', { name: /^Not lent: jetter of Nadia to Tove/ }))
  await waitFor(() => expect(sent[1]!.path).toBe('/api/settings/loans/8'))
})

const PERSON = {
  id: 7,
  version: 3,
  username: 'nadia',
  first_name: 'Nadia',
  last_name: 'Thornley',
  email: '',
  role: 'technician',
  licences: [{ kind: 'gas', ends_on: '2026-11-01' }],
  is_active: true,
  has_password: false,
  goes_out: true,
  last_login: null,
  second_step: false,
  second_step_asked: true,
} as Schema['PersonOut']

it('strikes out a license that has ended, and hands on a password link', async () => {
  answering({ body: { link: 'http://here/set-password/a/b', hours: 24 } })
  rendered(<PeoplePage />, { known: [[peopleOptions.queryKey, [PERSON]]] })
  expect(screen.getByText('gas').className).toContain('line-through')
  expect(screen.getByText('has no password yet')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Password link for Nadia Thornley' }))
  const link = await screen.findByLabelText<HTMLInputElement>('Link for Nadia Thornley')
  expect(link.value).toBe('http://here/set-password/a/b')
})

it('makes an account with licenses that end or do not, and keeps what was typed when it is refused', async () => {
  const sent = answering(refusal('Somebody signs in as nadia already.', { username: 'taken' }, 'people.name_taken'))
  rendered(<PeoplePage />, { known: [[peopleOptions.queryKey, [PERSON]]] })
  await userEvent.click(screen.getByRole('button', { name: 'New account' }))
  await put('First name', 'Rika')
  await put('Signs in as', 'nadia')
  await userEvent.click(screen.getByRole('checkbox', { name: 'gas' }))
  await userEvent.click(screen.getByRole('checkbox', { name: 'plumbing' }))
  await userEvent.type(screen.getByLabelText('Last day of the gas license'), '2027-03-31')
  await userEvent.click(screen.getByRole('button', { name: 'Save' }))
  expect(await screen.findByText('Somebody has this name already.')).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>('First name').value).toBe('Rika')
  expect(sent.at(-1)!.body).toMatchObject({
    role: 'technician',
    licences: [
      { kind: 'gas', ends_on: '2027-03-31' },
      { kind: 'plumbing', ends_on: null },
    ],
  })
})

it('changes one’s own password and says what is wrong with it', async () => {
  answering(refusal('Too short.', { new: 'This password is too short.' }))
  rendered(<AccountPage />)
  await userEvent.type(screen.getByLabelText('Password you have now'), 'seven brass unions')
  await userEvent.type(screen.getByLabelText('New password'), 'short')
  await userEvent.click(screen.getByRole('button', { name: 'Change it' }))
  expect(await screen.findByText('This password is too short.')).toBeTruthy()
})

it('sets up a second step, shows the codes once, and drops it with the password', async () => {
  const known = {
    sessions: [],
    passkeys: [],
    passkeys_offered: true,
    second_step: false,
    second_step_asked: false,
    codes_left: 0,
  }
  answering(
    { body: { address: 'otpauth://totp/Aquifer:tamsin', picture: '<svg></svg>' } },
    refusal('That is not the code.', { code: 'That is not the code.' }),
    { body: { codes: ['abcd2345', 'efgh6723'] } },
  )
  rendered(<AccountPage />, { known: [[accountOptions.queryKey, known]] })
  await userEvent.click(screen.getByRole('button', { name: 'Set it up' }))
  await screen.findByRole('img', { name: 'To be scanned by the authenticator' })
  expect(screen.getByText('otpauth://totp/Aquifer:tamsin')).toBeTruthy()
  await userEvent.type(screen.getByLabelText('Six digits'), '123456')
  await userEvent.click(screen.getByRole('button', { name: 'Ask for it from now on' }))
  expect(await screen.findByText('That is not the code.')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Ask for it from now on' }))
  expect(await screen.findByText('abcd2345')).toBeTruthy()
})

it('asks for the password before a second step is dropped', async () => {
  const sent = answering(refusal('No.', { now: 'not the one you have now' }, 'password.wrong'))
  const known = {
    sessions: [],
    passkeys: [],
    passkeys_offered: true,
    second_step: true,
    second_step_asked: false,
    codes_left: 2,
  }
  rendered(<AccountPage />, { known: [[accountOptions.queryKey, known]] })
  expect(screen.getByText(/2 codes on paper left: write down new ones/)).toBeTruthy()
  await userEvent.type(screen.getByLabelText('Password'), 'a guess')
  await userEvent.click(screen.getByRole('button', { name: 'Drop it' }))
  expect(await screen.findByText('That is not your password.')).toBeTruthy()
  expect(sent[0]!.body).toEqual({ now: 'a guess' })
})

it('leaves no way to drop a second step that the company asks, and hands out new codes', async () => {
  const sent = answering({ body: { codes: ['abcd2345', 'efgh6723'] } })
  const known = { sessions: [], passkeys: [], passkeys_offered: true, second_step: true, second_step_asked: true }
  rendered(<AccountPage />, { known: [[accountOptions.queryKey, { ...known, codes_left: 9 }]] })
  expect(screen.queryByRole('button', { name: 'Drop it' })).toBeNull()
  await userEvent.type(screen.getByLabelText('Password'), 'a password')
  await userEvent.click(screen.getByRole('button', { name: 'New codes' }))
  expect(await screen.findByText('efgh6723')).toBeTruthy()
  expect(sent).toEqual([{ method: 'POST', path: '/api/me/second-step/codes', body: { now: 'a password' } }])
})

it('asks a second step of the roles that are ticked, and says who has none yet', async () => {
  const sent = answering({ body: { ...OURS, second_step_roles: ['lead', 'planner'] } })
  rendered(<PeoplePage />, { known: [[peopleOptions.queryKey, [PERSON]], ...company()] })
  expect(screen.getByText('no second step yet')).toBeTruthy()
  expect(screen.getByRole('checkbox', { name: 'Asked of: Lead', checked: true })).toBeTruthy()
  await userEvent.click(screen.getByRole('checkbox', { name: 'Asked of: Planner' }))
  await waitFor(() => expect(sent[0]?.body).toMatchObject({ second_step_roles: ['lead', 'planner'] }))
})

it('tells where one is signed in and ends a session elsewhere', async () => {
  const sent = answering()
  const one = { address: '203.0.113.9', began: '2026-11-20T08:00:00Z', seen: '2026-11-23T09:00:00Z' }
  const known = {
    passkeys: [],
    passkeys_offered: false,
    second_step: false,
    second_step_asked: false,
    codes_left: 0,
    sessions: [
      { ...one, key: 'a1', agent: 'Mozilla/5.0 (X11; Linux x86_64)', here: true },
      { ...one, key: 'b2', agent: 'Mozilla/5.0 (Android 14; Mobile)', here: false },
    ],
  }
  rendered(<AccountPage />, { known: [[accountOptions.queryKey, known]] })
  expect(screen.getByText('A computer').parentElement!.textContent).not.toContain('last used')
  expect(screen.getByText('A phone or tablet').parentElement!.textContent).toContain('last used 23 November, 9:00')
  await userEvent.click(screen.getByRole('button', { name: 'Sign out there' }))
  await waitFor(() => expect(sent[0]!.path).toBe('/api/me/sessions/b2'))
})

it('tells what is amiss, when the nights ran, and begins a failed job again', async () => {
  const sent = answering()
  const known = {
    troubles: { worker: 'there is none: nothing is planned, sent or forecast' },
    workers: 0,
    waiting: 3,
    oldest: '2026-11-24T06:00:00Z',
    at_work: [],
    failed: [{ id: 41, says: 'Backup', at: '2026-11-24T04:30:00Z', tries: 1 }],
    nights: [
      { says: 'Quotes that lapsed', last: null, problem: '' },
      { says: 'Backup', last: '2026-11-24T02:11:00Z', problem: 'no folder is named for it' },
      { says: 'Forecasts of the whole base', last: '2026-11-24T02:11:00Z', problem: '' },
    ],
  }
  rendered(<JobsPage />, { known: [[jobsOptions.queryKey, known]] })
  expect(screen.getByText(/there is none: nothing is planned/)).toBeTruthy()
  expect(screen.getByText('not lately')).toBeTruthy()
  expect(screen.getByText('no folder is named for it')).toBeTruthy()
  expect(screen.getByText('went well 24 November, 2:11')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Try it again' }))
  await waitFor(() => expect(sent[0]!.path).toBe('/api/settings/jobs/41/again'))
})

it('says in one line that all is well', () => {
  const known = { troubles: {}, workers: 1, waiting: 0, oldest: null, at_work: [], failed: [], nights: [] }
  rendered(<JobsPage />, { known: [[jobsOptions.queryKey, known]] })
  expect(screen.getByText(/All is done as it comes up: 1 worker, 0 waiting/)).toBeTruthy()
})

it('lists every route of the interface, and those that are asked for', async () => {
  const paths = {
    '/api/sites/{site_id}': { get: { description: 'Everything of a site.' }, patch: { description: 'Change it.' } },
    '/api/me': { get: { summary: 'Me' } },
  }
  rendered(<InterfacePage />, { known: [[describedOptions.queryKey, { info: { description: 'Units.' }, paths }]] })
  expect(screen.getAllByRole('row')).toHaveLength(4)
  await userEvent.type(screen.getByLabelText('Find a route'), 'site change')
  expect(screen.getAllByRole('row')).toHaveLength(2)
  expect(screen.getByText('PATCH')).toBeTruthy()
})

it('shows a token once, and says which address did not take what', async () => {
  const sent = answering({ body: { id: 2, name: 'The books', words: 'aqf_words' } })
  const event = { id: 9, kind: 'tried', state: 'waiting', tries: 1, trouble: 'it answered 503' }
  rendered(<ProgramsPage />, {
    known: [
      [tokensOptions.queryKey, []],
      [peopleOptions.queryKey, [PERSON]],
      [
        hooksOptions.queryKey,
        [
          {
            id: 4,
            address: 'https://books.example/in',
            kinds: ['visit.recorded'],
            active: true,
            deliveries: [{ ...event, happened_at: '2026-11-25T08:00:00Z' }],
          },
        ],
      ],
    ],
  })
  expect(screen.getByText(/tried by hand: waits, it answered 503/)).toBeTruthy()
  await userEvent.type(screen.getByLabelText('Which program'), 'The books')
  await userEvent.selectOptions(screen.getByLabelText('Asks as'), '7')
  await userEvent.click(screen.getByRole('button', { name: 'Make a token' }))
  expect((await screen.findByLabelText<HTMLInputElement>('Token of The books')).value).toBe('aqf_words')
  expect(sent[0]!.body).toEqual({ name: 'The books', owner_id: 7, may_write: false, expires_on: '2027-05-24' })
})
