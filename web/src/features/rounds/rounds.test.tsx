import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered, TODAY } from '../../test/rendered'
import { sized } from '../../test/sized'
import { sitesOptions } from '../../records/heaterQueries'
import { Basins, firstWorkingDay } from './Basins'
import { Emergency } from './Emergency'
import { Planning } from './Planning'
import {
  ofWeeksOptions,
  placesOptions,
  positionsOptions,
  seasonOptions,
  stockOptions,
  weeksOptions,
} from '../../records/roundQueries'
import { CarryWords } from './CarryWords'
import { useCarry } from './useCarry'
import { Ropes } from './Ropes'
import { SeasonPage } from './SeasonPage'
import { StockPage } from './StockPage'
import { Unplaced } from './Unplaced'
import { WeekVisits } from './WeekVisits'
import { VisitPanel } from './VisitPanel'
import { duration, needWords, serviceWords } from '../../records/roundWords'
import { clock, minutesOf } from '../../lib/clock'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const MAY: Schema['Action'][] = ['read', 'plan']
const service = (part: object = {}) =>
  ({
    heater_id: 1,
    tag: 'T-1',
    kind: 'gas_tank',
    component: 'sediment',
    method: 'drain_and_pulse',
    hours: 1,
    ...part,
  }) as Schema['PlannedServiceOut']
const visit = (part: object = {}) =>
  ({
    id: 7,
    site_id: 3,
    site: 'Marram Bakery',
    street: '1 Weir Street',
    customer: 'Marram',
    phone: '555-0101',
    zone: 'Chalk',
    week: '2026-11-30',
    on: '2026-12-01',
    member_id: 2,
    begins: 540,
    minutes: 78,
    standing: 'planned',
    earliest: null,
    latest: null,
    needs: ['gas'],
    people: 1,
    worth: 1,
    latest_on: null,
    version: 4,
    note: '',
    reason: 'due',
    said: '',
    decides: '',
    technician: 'Nadia Teal',
    hazard: '',
    services: [service()],
    longitude: 0,
    latitude: 0,
    ...part,
  }) as Schema['AppointmentOut']
const place = (part: object = {}) =>
  ({
    on: '2026-12-02',
    member_id: 5,
    name: 'Ife Marlowe',
    begins: 620,
    driving: 11,
    ends: 960,
    faults: [],
    lateness: [],
    refused: false,
    position: 2,
    ...part,
  }) as Schema['PossibleOut']
const load = (on: string, hours: number, capacity: number) => ({
  on,
  hours,
  capacity,
  visits: hours ? 3 : 0,
  promised: 0,
  why_closed: '',
})
const WEEK = {
  week: '2026-11-30',
  hours: 12,
  capacity: 30,
  visits: 3,
  firm: 1,
  past_cap: 2,
  days: [load('2026-11-30', 0, 0), load('2026-12-01', 12, 15), load('2026-12-02', 0, 15)],
}
const FIGURES = {
  cost: 100,
  bound: 97,
  gap: 0.031,
  parts: { visits: 20, services: 50, over_limit: 25, past_cap: 5 },
  services: 90,
  visits: 40,
  left_out: 1,
  hours: [12],
  capacity: [30],
  one_more: -8,
  one_fewer: 31,
}
const RUN = {
  id: 1,
  kind: 'season',
  state: 'ready',
  stage: '',
  share: 1,
  message: '',
  first_week: '2026-11-30',
  weeks: 1,
  asked_at: '2026-11-25T06:10:00Z',
  finished_at: null,
  asked_by: 'Ines',
}
const SEASON = {
  run: RUN,
  figures: FIGURES,
  left_out: [],
  under_way: null,
  last: RUN,
} as unknown as Schema['PlannedSeasonOut']

it('tells times, spans and what a visit is for as an office says them', () => {
  expect([clock(545), duration(40), duration(80), duration(120)]).toEqual(['9:05', '40 min', '1 h 20', '2 h'])
  expect([minutesOf('9:05'), minutesOf('14'), minutesOf(' 7.30 '), minutesOf('25:00'), minutesOf('soon')]).toEqual([
    545,
    840,
    450,
    null,
    null,
  ])
  expect(serviceWords([service(), service({ heater_id: 2, component: 'anode' }), service({ method: 'jetting' })])).toBe(
    '2 heaters: flush, rod, jet',
  )
  expect(serviceWords([])).toBe('to be seen')
  expect(needWords({ needs: ['gas', 'jetter'], people: 2 })).toBe('gas, jetter, two people')
})

it('shows each working day as a basin and opens on the first that has visits', async () => {
  const chosen = vi.fn()
  rendered(<Basins weeks={[WEEK]} chosen="2026-12-02" today={TODAY} onChoose={chosen} />)
  const days = screen.getAllByRole('button')
  expect(days.map((one) => one.getAttribute('aria-label'))).toEqual([
    'Tue 1 Dec 12 of 15 h, 3 visits',
    'Wed 2 Dec 0 of 15 h, 0 visits',
  ])
  expect(days[1]!.getAttribute('aria-pressed')).toBe('true')
  await userEvent.click(days[0]!)
  expect(chosen).toHaveBeenCalledWith('2026-12-01')
  expect(firstWorkingDay([WEEK], TODAY)).toBe('2026-12-01')
  expect(firstWorkingDay([{ ...WEEK, days: [load('2026-12-02', 0, 15)] }], TODAY)).toBe('2026-12-02')
})

it('draws a round as a rope whose knots can be chosen', async () => {
  const chosen = vi.fn()
  const round = {
    member_id: 2,
    user_id: 9,
    name: 'Nadia Thornley',
    helper: '',
    able: ['gas'],
    place: 'the yard',
    begins: 450,
    ends: 990,
    back: 700,
    driving: 40,
    lunch: null,
    lunch_minutes: 40,
    way: [],
    faults: [],
    calls: [
      {
        appointment: visit({ standing: 'promised', earliest: 520, latest: 600, hazard: 'Hatch drops' }),
        arrives: 535,
        begins: 540,
        ends: 618,
      },
    ],
  }
  const rounds = [round, { ...round, member_id: 3, name: 'Ife Marlowe', calls: [] }]
  const Board = () => {
    const carry = useCarry({ on: '2026-12-01', rounds, first: TODAY, may: true, onMoved: vi.fn() })
    return (
      <>
        <Ropes rounds={rounds} width={700} height={400} chosen={7} onChoose={chosen} carry={carry} />
        <CarryWords carry={carry} rounds={rounds} on="2026-12-01" today={TODAY} />
      </>
    )
  }
  const there = { driving: 0, ends: 700, faults: [], lateness: [], refused: false }
  rendered(<Board />, {
    known: [
      [
        positionsOptions(7, 4, '2026-12-01').queryKey,
        [
          { ...there, member_id: 2, position: 0, begins: 540 },
          {
            ...there,
            member_id: 3,
            position: 0,
            begins: 470,
            driving: 12,
            faults: ['the promise is missed by 50 min'],
          },
        ],
      ],
      [placesOptions(7, 4, TODAY).queryKey, []],
    ],
  })
  const knot = screen.getByRole('button', {
    name: 'Marram Bakery flush, A1, 9:00 to 10:18, promised, hazard: Hatch drops, by Nadia Thornley',
  })
  expect(knot.getAttribute('aria-pressed')).toBe('true')
  knot.focus()
  await userEvent.keyboard('{Enter}')
  expect(chosen).toHaveBeenCalledWith(7)
  expect(screen.getByText('free all day')).toBeTruthy()
  // Lifted by a key, carried to the other round, and put down there.
  const sent = answering({ body: visit() })
  await userEvent.keyboard('m')
  expect(screen.getByRole('status').textContent).toBe('Nadia, about 9:00: where it is')
  await userEvent.keyboard('{Escape}{ArrowRight}{Enter}')
  expect(sent).toEqual([])
  knot.focus()
  await userEvent.keyboard('m{ArrowRight}')
  expect(screen.getByRole('status').textContent).toBe(
    'Ife, about 7:50: +12 min driving, back 11:40; the promise is missed by 50 min. They are told in five minutes',
  )
  await userEvent.keyboard('{Enter}')
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]).toMatchObject({ path: '/api/rounds/appointments/7/move', body: { member_id: 3, position: 0 } })
  expect(screen.getByRole('status').textContent).toBe('')
})

it('lists what has no day with its worth and until when', async () => {
  const chosen = vi.fn()
  const rows = [
    visit({ id: 1, on: null, latest_on: '2026-12-03', worth: 1.1 }),
    visit({ id: 2, site: 'Pell School', on: null, week: '2026-12-07' }),
    visit({ id: 3, site: 'Quarry', latest_on: '2026-11-01' }),
    visit({
      id: 4,
      site: 'Mill',
      latest_on: null,
      on: '2026-11-23',
      said: 'lukewarm',
      reason: 'complaint',
      services: [],
      note: 'no one home',
    }),
    visit({ id: 5, site: 'Weir', latest_on: null, on: null, week: '2026-11-09', said: 'drips', note: '' }),
  ]
  const Waiting = () => {
    const carry = useCarry({ on: TODAY, rounds: [], first: TODAY, may: true, onMoved: vi.fn() })
    return <Unplaced data={{ total: 1, rows }} week="2026-11-30" today={TODAY} onChoose={chosen} carry={carry} />
  }
  rendered(<Waiting />)
  expect(screen.getByText('until 3 Dec')).toBeTruthy()
  expect(screen.getByText('week of 7 Dec')).toBeTruthy()
  expect(screen.getByText('past its latest, 1 Nov')).toBeTruthy()
  expect(screen.getByText('not done on 23 Nov')).toBeTruthy()
  expect(screen.getByText('lukewarm · no one home')).toBeTruthy()
  expect(screen.getByText('complaint')).toBeTruthy()
  expect(screen.getByText('not done in the week of 9 Nov')).toBeTruthy()
  expect(screen.getByText(/^drips · .*flush/)).toBeTruthy()
  expect(screen.getByRole('img', { name: 'worth 1.1 hours' })).toBeTruthy()
  const row = screen.getByRole('button', { name: /Pell School/ })
  await userEvent.click(row)
  expect(chosen).toHaveBeenCalledWith(2)
  // A drag is no choice; a key after it is one.
  chosen.mockClear()
  answering({ body: [] })
  document.elementsFromPoint = () => []
  fireEvent.pointerDown(row, { button: 0, clientX: 5, clientY: 5 })
  fireEvent.pointerMove(window, { clientX: 60, clientY: 60 })
  fireEvent.pointerUp(window)
  fireEvent.click(row, { detail: 1 })
  expect(chosen).not.toHaveBeenCalled()
  row.focus()
  await userEvent.keyboard('{Enter}')
  expect(chosen).toHaveBeenCalledWith(2)
})

function panel(one: Schema['AppointmentOut'], places: Schema['PossibleOut'][], onMoved = vi.fn()) {
  rendered(<VisitPanel one={one} first={TODAY} today={TODAY} may onClose={vi.fn()} onMoved={onMoved} />, {
    known: [[placesOptions(one.id, one.version, TODAY).queryKey, places]],
    may: MAY,
  })
  return onMoved
}

it('says what each place would cost, and moves a visit there', async () => {
  const moved = visit({ on: '2026-12-02', member_id: 5, standing: 'kept' })
  const sent = answering({ body: moved })
  const onMoved = panel(visit(), [
    place({ on: '2026-12-01', member_id: 2, driving: 0 }),
    place(),
    place({ on: '2026-12-03', driving: -4, faults: ['the promise to Pell is missed by 12 min'] }),
  ])
  expect(screen.getByText('it is here')).toBeTruthy()
  expect(screen.getByText('+11 min driving')).toBeTruthy()
  expect(screen.getByText('−4 min driving')).toBeTruthy()
  await userEvent.click(screen.getAllByRole('button', { name: /^Move here/ })[0]!)
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/api/rounds/appointments/7/move',
    body: {
      version: 4,
      week: '2026-12-02',
      on: '2026-12-02',
      member_id: 5,
      position: 2,
      override: false,
      agreed: false,
      why: '',
    },
  })
  await waitFor(() => expect(onMoved).toHaveBeenCalledWith('2026-12-02'))
})

it('moves in agreement with who was promised a time, or says why', async () => {
  const sent = answering({ body: visit({ on: '2026-12-02' }) })
  const promised = visit({ standing: 'promised', earliest: 510, latest: 600, on: '2026-12-01' })
  rendered(
    <VisitPanel one={promised} first={TODAY} today={TODAY} may onClose={() => undefined} onMoved={() => undefined} />,
    {
      known: [
        [placesOptions(promised.id, 4, TODAY).queryKey, [place({ faults: ['the promise to Mill is of 1 December'] })]],
        [placesOptions(promised.id, 4, TODAY, true).queryKey, [place()]],
      ],
    },
  )
  expect(screen.getByText('the promise to Mill is of 1 December')).toBeTruthy()
  await userEvent.type(screen.getByLabelText('Why it moves, for the customer'), 'flood')
  await userEvent.click(screen.getByRole('checkbox', { name: 'agreed with them' }))
  expect(screen.getByText('It is promised at once, and nobody is written to.')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: /^Move here/ }))
  expect(sent[0]!.body).toMatchObject({ agreed: true, override: false, why: 'flood' })
})

it('asks again where a move would break something', async () => {
  const sent = answering(
    { status: 409, body: { code: 'rounds.breaks', message: 'It would break: the promise to Pell', fields: {} } },
    { body: visit() },
  )
  panel(visit(), [place()])
  await userEvent.click(screen.getByRole('button', { name: /^Move here/ }))
  await userEvent.click(await screen.findByRole('button', { name: 'Move it all the same' }))
  expect((sent[1]!.body as { override: boolean }).override).toBe(true)
})

it('promises a time that is one, and lets it go', async () => {
  const sent = answering({ body: visit() }, { body: visit() })
  panel(visit(), [])
  const from = screen.getByLabelText('Not before')
  expect(from).toHaveProperty('value', '8:30')
  await userEvent.clear(from)
  await userEvent.type(from, 'early')
  expect(screen.getByRole('button', { name: 'Confirm time window' })).toHaveProperty('disabled', true)
  await userEvent.clear(from)
  await userEvent.type(from, '8:45')
  await userEvent.click(screen.getByRole('button', { name: 'Confirm time window' }))
  expect(sent[0]!.body).toEqual({ version: 4, standing: 'promised', earliest: 525, latest: 600 })
  cleanup()
  panel(visit({ standing: 'promised', earliest: 525, latest: 600 }), [])
  await userEvent.click(screen.getByRole('button', { name: 'Release' }))
  expect(sent[1]!.body).toEqual({ version: 4, standing: 'planned' })
})

it('shows a planning under way, stops it, and says that the old plan stays where it failed', async () => {
  const busy = { ...RUN, state: 'working', stage: 'prices', share: 0.4 }
  const sent = answering({ body: busy })
  rendered(
    <Planning season={{ ...SEASON, under_way: busy } as unknown as Schema['PlannedSeasonOut']} today={TODAY} />,
    { may: MAY },
  )
  expect(screen.getByRole('progressbar', { name: 'Progress of the planning' })).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Stop' }))
  expect(sent[0]!.path).toBe('/api/rounds/runs/1/stop')
  cleanup()
  rendered(
    <Planning
      season={{ ...SEASON, last: { ...RUN, state: 'failed' } } as unknown as Schema['PlannedSeasonOut']}
      today={TODAY}
    />,
    { may: MAY },
  )
  expect(screen.getByText(/the plan before stays/)).toBeTruthy()
})

it('says of a plan that stands what was promised beyond it', () => {
  sized()
  const message =
    'More was promised or kept than can be done: in the week of 7 December there are not the hours for Pell.'
  rendered(<SeasonPage />, {
    known: [
      [seasonOptions.queryKey, { ...SEASON, run: { ...SEASON.run, message } }],
      [weeksOptions('2026-11-30', 1).queryKey, [WEEK]],
    ],
    may: MAY,
  })
  expect(screen.getByText(message)).toBeTruthy()
})

it('says what a season came to and what one more or fewer would change', () => {
  sized()
  const left = [
    {
      heater_id: 1,
      tag: 'T-1',
      site: 'Quarry',
      component: 'scale',
      latest_on: null,
      why: 'no hours left while it would be worth a visit (gas)',
      worth: 2.4,
    },
  ]
  rendered(<SeasonPage />, {
    known: [
      [seasonOptions.queryKey, { ...SEASON, left_out: left }],
      [weeksOptions('2026-11-30', 1).queryKey, [WEEK]],
    ],
    may: MAY,
  })
  expect(screen.getByText(/40 visits for 90 services. No plan can be more than 3.1/)).toBeTruthy()
  expect(screen.getByText(/One technician more would save about 8 h/)).toBeTruthy()
  expect(screen.getByText('no hours left while it would be worth a visit (gas)')).toBeTruthy()
  const week = screen.getByRole('button', {
    name: 'Week of 30 Nov: 12 of 30 h, 3 visits, 1 kept or promised, 2 past their latest day',
  })
  expect(week.getAttribute('aria-pressed')).toBe('false')
  fireEvent.keyDown(week, { key: ' ' })
  expect(week.getAttribute('aria-pressed')).toBe('true')
})

it('puts visits of a week into another once it was seen what that costs', async () => {
  const told = {
    moved: 1,
    stay: [],
    past_latest: ['Quarry'],
    closed: ['A', 'B', 'C', 'D', 'E'],
    over_days: 9,
    hours: 31,
    capacity: 30,
  }
  const sent = answering({ body: told }, { body: told })
  const visits = [
    visit({ id: 1, site: 'Quarry', version: 3 }),
    visit({ id: 2, site: 'Mill', standing: 'promised' }),
    visit({ id: 3, site: 'Pell', version: 5 }),
  ]
  rendered(
    <WeekVisits
      brush={{ first: '2026-11-30', last: '2026-11-30' }}
      weeks={[WEEK, { ...WEEK, week: '2026-12-07' }]}
      today={TODAY}
      may
      onBrush={vi.fn()}
      onClose={vi.fn()}
    />,
    { known: [[ofWeeksOptions('2026-11-30', '2026-11-30').queryKey, visits]], may: MAY },
  )
  expect(screen.getByLabelText('Move Mill')).toHaveProperty('disabled', true)
  await userEvent.click(screen.getByLabelText('Move Pell'))
  await userEvent.selectOptions(screen.getByLabelText(/Put 1 into the week of/), '2026-12-07')
  expect((await screen.findByRole('status')).textContent).toMatch(
    new RegExp(
      '31 of 30 h, more than there are. 9 days more over a limit are to be expected; ' +
        'closed all that week: A, B, C, D and 1 more; past their latest day: Quarry',
    ),
  )
  await userEvent.click(screen.getByRole('button', { name: 'Move 1' }))
  expect(sent.map((one) => one.body)).toEqual(
    [true, false].map((dry) => ({ visits: [{ id: 1, version: 3 }], week: '2026-12-07', dry })),
  )
})

it('chooses several weeks by drawing over them or with Shift, and tells their load together', async () => {
  sized()
  const weeks = ['2026-11-30', '2026-12-07', '2026-12-14'].map((week, at) => ({ ...WEEK, week, hours: 12 + 30 * at }))
  const known: [readonly unknown[], unknown][] = [
    [seasonOptions.queryKey, SEASON],
    [weeksOptions('2026-11-30', 1).queryKey, weeks],
    [ofWeeksOptions('2026-11-30', '2026-12-07').queryKey, [visit()]],
    [
      ofWeeksOptions('2026-11-30', '2026-12-14').queryKey,
      [visit(), visit({ id: 8, site: 'Quarry', on: null, week: '2026-12-14' })],
    ],
    ...weeks.map(({ week }): [readonly unknown[], unknown] => [ofWeeksOptions(week, week).queryKey, []]),
  ]
  rendered(<SeasonPage />, { may: MAY, known })
  const each = within(screen.getByRole('group', { name: /Hours planned/ })).getAllByRole('button')
  fireEvent.pointerDown(each[1]!, { buttons: 1 })
  fireEvent.pointerEnter(each[0]!, { buttons: 1 })
  expect(screen.getByRole('heading', { name: '2 weeks from 30 Nov: 1 visits' })).toBeTruthy()
  expect(screen.getByText('54 of 60 h')).toBeTruthy()
  fireEvent.pointerEnter(each[2]!, { buttons: 0 })
  fireEvent.pointerDown(each[0]!, { buttons: 1 })
  each[2]!.focus()
  await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
  expect(screen.getByRole('heading', { name: '3 weeks from 30 Nov: 2 visits' })).toBeTruthy()
  expect(screen.getByText('126 of 90 h').className).toContain('oxide')
  expect(each.map((one) => one.getAttribute('aria-pressed'))).toEqual(['true', 'true', 'true'])
})

it('tells what to load, and keeps what was counted', async () => {
  const line = { part: 'hose washer', expected: 3, quantity: 3, held: 1, to_add: 2 }
  const stock = {
    service_level: 0.95,
    trucks: [{ member_id: 2, name: 'Nadia', lines: [line] }],
    to_buy: [{ ...line, part: 'descaler, litres', to_add: 9 }],
    crew: [],
    moved: [],
  }
  const sent = answering({ body: {} })
  rendered(<StockPage />, {
    known: [
      [stockOptions('2026-12-01').queryKey, stock],
      [weeksOptions(TODAY, 2).queryKey, [WEEK]],
    ],
    may: MAY,
  })
  const box = screen.getByLabelText('hose washer on the truck')
  await userEvent.clear(box)
  await userEvent.type(box, '12{Enter}')
  expect(sent).toEqual([
    { method: 'PUT', path: '/api/stock', body: { part: 'hose washer', member_id: 2, quantity: 12 } },
  ])
  expect(within(screen.getByRole('region', { name: 'To buy' })).getByText('9')).toBeTruthy()
})

it('plans an emergency in and says what that changes', async () => {
  const site = { id: 3, name: 'Marram Bakery', street: '1 Weir Street', zone: 'Chalk' }
  const sent = answering({
    body: { changes: ['Nadia goes to Marram Bakery at 14:40.', 'Oast House begins 50 min later.'] },
  })
  rendered(<Emergency today={TODAY} />, { may: MAY, known: [[sitesOptions('').queryKey, [site]]] })
  await userEvent.click(screen.getByRole('button', { name: 'Emergency' }))
  expect(screen.getByText(/Gas smell or CO alarm: everyone out, no switch/)).toBeTruthy()
  expect(screen.getByText(/leave the cold water ON/)).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: /Marram Bakery/ }))
  await userEvent.click(screen.getByRole('checkbox', { name: 'gas license' }))
  const from = screen.getByRole('textbox', { name: 'From' })
  await userEvent.clear(from)
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Add emergency call' }).disabled).toBe(true)
  await userEvent.type(from, '14:30')
  await userEvent.type(screen.getByLabelText('What they say'), 'No hot water')
  await userEvent.type(screen.getByLabelText('Who may approve more work'), 'the owner')
  await userEvent.click(screen.getByRole('button', { name: 'Add emergency call' }))
  expect(sent).toEqual([
    {
      method: 'POST',
      path: `/api/rounds/days/${TODAY}/disturbance`,
      body: {
        kind: 'emergency',
        at: 870,
        site_id: 3,
        minutes: 90,
        needs: ['gas'],
        words: 'No hot water',
        decides: 'the owner',
      },
    },
  ])
  expect(within(await screen.findByRole('list', { name: 'What changed' })).getAllByRole('listitem')).toHaveLength(2)
})
