import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { placesOptions, slotsOptions } from '../../records/roundQueries'
import { answering, refusal, rendered, TODAY } from '../../test/rendered'
import { FreeTimes } from './FreeTimes'
import { VisitToCome } from './VisitToCome'

const MAY: Schema['Action'][] = ['read', 'plan']
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const place = (on: string, driving: number, part: object = {}) => ({
  on,
  member_id: 5,
  name: 'Ife Marlowe',
  begins: 620,
  driving,
  ends: 960,
  faults: [] as string[],
  lateness: [] as string[],
  refused: false,
  position: 2,
  ...part,
})
const visit = {
  id: 7,
  version: 4,
  week: '2026-11-30',
  on: '2026-12-01',
  member_id: 5,
  begins: 560,
  earliest: 510,
  latest: 600,
  standing: 'promised',
  reason: 'due',
  minutes: 78,
  services: [],
  said: '',
  decides: '',
  note: '',
  technician: 'Nadia Teal',
  prepare: [],
} as unknown as Schema['SiteVisitOut']
const nothing = () => undefined

function free(one: Schema['SiteVisitOut'] | undefined, known: [readonly unknown[], unknown][]) {
  rendered(
    <FreeTimes
      siteId={3}
      one={one}
      call={undefined}
      approves="Ida Brandt"
      onNew={nothing}
      onBooked={nothing}
      onPrepare={nothing}
    />,
    { known, may: MAY },
  )
}

it('shows of each day the time that costs least, three days, and none that breaks something', async () => {
  const places = [
    place('2026-12-03', 2),
    place('2026-12-02', 4, { faults: ['Nadia is back late'] }),
    place('2026-12-03', 6, { member_id: 6 }),
    place('2026-12-02', 9),
    place('2026-12-04', 12),
    place('2026-12-07', 30),
  ]
  const sent = answering(refusal('Somebody moved this visit meanwhile.'))
  free(visit, [[placesOptions(7, 4, TODAY, true).queryKey, places]])
  const rows = screen.getAllByRole('listitem').map((one) => one.textContent)
  expect(rows).toEqual([
    expect.stringContaining('Thu 3 Dec'),
    expect.stringContaining('Wed 2 Dec'),
    expect.stringContaining('Fri 4 Dec'),
  ])
  expect(rows[1]).toContain('9 min more driving')
  await userEvent.click(screen.getByRole('button', { name: 'All of the fortnight' }))
  expect(screen.getAllByRole('listitem')).toHaveLength(5)
  await userEvent.click(screen.getByRole('button', { name: /^Promise it: Wed 2 Dec/ }))
  expect(sent[0]!.body).toMatchObject({ on: '2026-12-02', member_id: 5, version: 4, agreed: true, override: false })
  expect((await screen.findByRole('alert')).textContent).toContain('meanwhile')
})

it('books what they ask for with their words, and asks for no new times while these are typed', async () => {
  const asked = {
    site_id: 3,
    reason: 'wish' as const,
    said: '',
    decides: '',
    minutes: 60,
    needs: [],
    people: 1,
    ride_along: true,
    first: TODAY,
    days: 14,
  }
  const slots = {
    places: [place('2026-12-03', 2)],
    rides_along: [{ heater_id: 1, component: 'sediment', due_on: null }],
    minutes: 120,
    prepare: [],
  }
  const sent = answering({ body: { ...visit, ...slots } })
  free(undefined, [[slotsOptions(asked).queryKey, slots]])
  expect(screen.getByText('with what is due: flush')).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>('Who decides about more work').value).toBe('Ida Brandt')
  await userEvent.type(screen.getByLabelText('What they say'), 'it hisses')
  expect(sent).toEqual([])
  await userEvent.click(screen.getByRole('button', { name: /^Book it: Thu 3 Dec/ }))
  expect(sent[0]!.path).toBe('/api/rounds/appointments')
  expect(sent[0]!.body).toMatchObject({ said: 'it hisses', decides: 'Ida Brandt', on: '2026-12-03', agreed: true })
})

it('calls a visit off in their own words, and tells nobody who said so themselves', async () => {
  const sent = answering({ body: visit })
  rendered(<VisitToCome one={visit} isChosen may onChoose={nothing} />, { may: MAY })
  const shown = within(document.body)
  expect(shown.getByText('Tue 1 Dec, 8:30 to 10:00')).toBeTruthy()
  expect(shown.queryByRole('button', { name: 'Confirm this time' })).toBeNull()
  await userEvent.click(shown.getByRole('button', { name: 'Call it off' }))
  await userEvent.type(shown.getByLabelText('Why they call it off'), 'it went away')
  await userEvent.click(shown.getByRole('button', { name: 'Call it off' }))
  expect(sent[0]!.body).toEqual({ version: 4, standing: 'called_off', why: 'it went away', agreed: true })
})

it('keeps what the caller sent under one name, and books the visit with it', async () => {
  const sent = answering({ body: { ...visit, places: [], rides_along: [], minutes: 60, prepare: [] } })
  const asked = { site_id: 3, reason: 'wish' as const, said: '', decides: '', minutes: 60, needs: [], people: 1 }
  const slots = { places: [place('2026-12-03', 2)], rides_along: [], minutes: 60, prepare: [] }
  free(undefined, [[slotsOptions({ ...asked, ride_along: true, first: TODAY, days: 14 }).queryKey, slots]])
  await userEvent.type(screen.getByLabelText('What they say'), 'rust')
  const picture = new File(['x'], 'seam.jpg', { type: 'image/jpeg' })
  await userEvent.upload(screen.getByLabelText('Photograph that they sent'), picture)
  expect(await screen.findByText('1 kept for whoever comes')).toBeTruthy()
  const form = sent[0]!.body as FormData
  expect([sent[0]!.path, form.get('site_id'), form.get('caption')]).toEqual(['/api/attachments', '3', 'rust'])
  await userEvent.click(screen.getByRole('button', { name: /^Book it: Thu 3 Dec/ }))
  expect(sent[1]!.body).toMatchObject({ photos: [form.get('visit_client_id')] })
})
