import 'fake-indexeddb/auto'

import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import type { EventLog } from '../../device/eventLog'
import { device } from '../../device/store'
import { answering, rendered } from '../../test/rendered'
import { Recorded, RecordedElsewhere } from './Recorded'

beforeEach(() => Promise.all([device.visits.clear(), device.taps.clear()]))
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const moved = (part: object = {}) => ({
  component: 'sediment',
  before_on: '2027-01-10',
  after_on: '2027-06-20',
  days: 161,
  sentence: 'The flush took most of it out.',
  ...part,
})
const visit = (part: object = {}) =>
  ({
    id: 12,
    client_id: 'v',
    heater_id: 4,
    on: '2026-11-25',
    technician: 'Nadia',
    moved: [moved()],
    follow_ups: [],
    already_recorded: false,
    not_in_record: [],
    ...part,
  }) as unknown as Schema['VisitOut']
const FOUND = { 'flush.removed': 'heavy' }

it('tells what moved, how far and why, and leads on', () => {
  rendered(
    <Recorded
      visit={visit({
        moved: [
          moved(),
          moved({ component: 'anode', days: -40, sentence: 'Half of it is gone.' }),
          moved({ component: 'relief_valve', days: 0, before_on: null, sentence: 'It ran.' }),
        ],
      })}
      answers={FOUND}
    />,
  )
  expect(screen.getByText('5 months later than before (10 January 2027)')).toBeTruthy()
  expect(screen.getByText(/6 weeks sooner than before/)).toBeTruthy()
  expect(screen.getByRole('link', { name: 'Next heater' }).getAttribute('href')).toBe('/visit')
  expect(screen.getByRole('link', { name: /report for the customer/ }).getAttribute('href')).toBe(
    '/api/visits/12/report.pdf',
  )
  expect(screen.queryByText('What follows')).toBeNull()
})

it('says what follows and what of it is for a licensed person', () => {
  rendered(
    <Recorded
      visit={visit({
        follow_ups: [
          { what: 'new relief valve', why: ['passed no water'], licensed: true, warranty_until: '2027-03-01' },
          { what: 'new rod', why: ['bare wire', 'softened water'], licensed: false, warranty_until: null },
        ],
      })}
      answers={FOUND}
    />,
  )
  expect(screen.getByText('New relief valve').parentElement!.textContent).toBe(
    'New relief valve for a licensed personPassed no water.' +
      'No charge: we fitted it and stand for it until 1 March 2027.',
  )
  expect(screen.getByText('New rod').parentElement!.textContent).toBe('New rodBare wire; softened water.')
})

it('adds to the record what another device’s record lacks, and says why where it cannot', async () => {
  const sent = answering(
    { status: 503, body: { code: 'unexpected', message: 'The base is being moved.', fields: {} } },
    { status: 201, body: [] },
  )
  rendered(<Recorded visit={visit({ already_recorded: true, not_in_record: ['flush: heavy'] })} answers={FOUND} />)
  expect(screen.getByText('Nadia saved this visit first')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Add it to the record' }))
  expect((await screen.findByRole('alert')).textContent).toBe('The base is being moved.')
  await userEvent.click(screen.getByRole('button', { name: 'Add it to the record' }))
  expect((await screen.findByRole('status')).textContent).toMatch(/stands in the record as an amendment/)
  // Sent twice it is one: the same id both times.
  const ids = sent.map((one) => (one.body as { client_id: string }).client_id)
  expect(sent.map((one) => one.path)).toEqual(['/api/visits/12/amendments', '/api/visits/12/amendments'])
  expect(ids[0]).toBe(ids[1])
  expect(sent[1]!.body).toMatchObject({ answers: FOUND })
})

it('compares what was tapped here with what somebody saved on another device', async () => {
  await device.visits.add({
    clientId: 'v',
    heaterId: 4,
    by: 1,
    name: 'Marram Bakery',
    revision: 1,
    cursor: 0,
    waits: false,
    trouble: '',
    closing: false,
    aside: false,
    recorded: visit(),
  })
  const tapped = (field: string, value: string) => ({ kind: 'answered', field, value })
  const sent = answering({ body: visit({ already_recorded: true, not_in_record: ['flush: heavy'] }) })
  const eventLog = {
    visit: (await device.visits.get('v'))!,
    taps: [tapped('flush.removed', 'heavy')],
    refused: [],
    unsent: 0,
  } as unknown as EventLog
  const shown = rendered(<RecordedElsewhere eventLog={eventLog} recorded={visit()} />)
  await userEvent.click(screen.getByRole('button', { name: 'See what is recorded' }))
  expect(await screen.findByText('Nadia saved this visit first')).toBeTruthy()
  expect(sent[0]).toMatchObject({ path: '/api/visits', body: { client_id: 'v', heater_id: 4, findings: [] } })
  // Once it was seen the next one at this heater is another.
  shown.unmount()
  await waitFor(async () => expect(await device.visits.count()).toBe(0))
})
