import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, refusal, rendered } from '../../test/rendered'
import { VisitsOnRecord } from '../../records/VisitsOnRecord'
import { heaterOptions, logOptions } from '../../records/heaterQueries'
import { AmendPage } from './AmendPage'
import { guideOptions } from './queries'

const HEATER = {
  id: 4,
  tag: 'T-4',
  kind: 'gas_tank',
  is_tank: true,
  parts: [],
  site: { name: 'Marram Bakery', hazards: [] },
}
const ENTRY = {
  visit_id: 9,
  on: '2026-11-20',
  by: 'Nadia',
  lines: [{ task: 'flush' as const, words: 'Pulsed drain: heavy' }],
  marks: {},
  amended: false,
  looked_at: [] as string[],
  minutes: null,
  readings: [] as string[],
  notes: [] as string[],
}

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

function page(visit = 9) {
  rendered(
    <Routes>
      <Route path="/visit/:heaterId/amend/:visitId" element={<AmendPage />} />
    </Routes>,
    {
      at: `/visit/4/amend/${visit}`,
      known: [
        [heaterOptions(4).queryKey, HEATER],
        [logOptions(4).queryKey, { entries: [ENTRY], upkeep: [] }],
        [guideOptions(4).queryKey, { usual_readings: {} }],
      ],
    },
  )
}

it('puts beside a record what was wrong in it, with why, and shows what that moved', async () => {
  const sent = answering({ status: 201, body: [] })
  page()
  expect(screen.getByText('Pulsed drain: heavy')).toBeTruthy()
  const add = screen.getByRole<HTMLButtonElement>('button', { name: 'Add to the record' })
  expect(add.disabled).toBe(true)
  await userEvent.click(screen.getByText('Flush', { selector: 'summary strong' }))
  await userEvent.click(screen.getByRole('radio', { name: 'trace', hidden: true }))
  expect(add.disabled).toBe(true)
  await userEvent.click(screen.getByRole('button', { name: 'Seen only afterwards.' }))
  await userEvent.click(add)
  expect(await screen.findByText('It stands in the record as an amendment')).toBeTruthy()
  expect(sent[0]).toMatchObject({
    path: '/api/visits/9/amendments',
    body: { why: 'Seen only afterwards.', answers: { 'flush.removed': 'trace' } },
  })
})

it('says why the server would not have it, and keeps what was told', async () => {
  answering(refusal('It is before the heater was installed.'))
  page()
  await userEvent.click(screen.getByRole('radio', { name: /no water/, hidden: true }))
  await userEvent.click(screen.getByRole('button', { name: /Read or tapped wrong/ }))
  await userEvent.click(screen.getByRole('button', { name: 'Add to the record' }))
  expect((await screen.findByRole('alert')).textContent).toBe('It is before the heater was installed.')
  expect(screen.getByRole('radio', { name: /no water/, hidden: true }).getAttribute('aria-checked')).toBe('true')
})

it('knows no visit of another heater', () => {
  page(77)
  expect(screen.getByText('There is no such visit at this heater.')).toBeTruthy()
})

it('is reached from each visit on record, by whoever records visits', () => {
  rendered(
    <VisitsOnRecord
      heaterId={4}
      entries={[
        { ...ENTRY, lines: [] },
        { ...ENTRY, visit_id: 10, on: '2026-11-24', lines: [], amended: true, looked_at: [] },
      ]}
    />,
    { may: ['read', 'record_visit'] },
  )
  expect(screen.getAllByRole('link').map((one) => one.getAttribute('href'))).toEqual([
    '/api/visits/10/report.pdf',
    '/visit/4/amend/10',
    '/api/visits/9/report.pdf',
    '/visit/4/amend/9',
  ])
  expect(screen.getByText('Nadia, amended')).toBeTruthy()
  cleanup()
  rendered(<VisitsOnRecord heaterId={4} entries={[{ ...ENTRY, lines: [] }]} />, { may: ['read'] })
  expect(screen.queryByText('Amend')).toBeNull()
})

it('tells at each visit what was noted and read beside its findings', () => {
  const told = { notes: ['the strap is loose'], readings: ['Hottest water at a faucet 52 °C'] }
  rendered(<VisitsOnRecord heaterId={4} entries={[{ ...ENTRY, lines: [], ...told }]} />)
  expect(screen.getByText('“the strap is loose”')).toBeTruthy()
  expect(screen.getByText('Hottest water at a faucet 52 °C')).toBeTruthy()
})

it('puts right a reading that is no finding', async () => {
  const sent = answering({ body: [] })
  page()
  await userEvent.type(screen.getByLabelText(/^Hottest water at the faucet/), '52')
  await userEvent.click(screen.getByRole('button', { name: 'Read or tapped wrong at the visit.' }))
  await userEvent.click(screen.getByRole('button', { name: 'Add to the record' }))
  expect(sent.at(-1)).toMatchObject({ path: '/api/visits/9/amendments', body: { answers: { 'verify.tap_c': 52 } } })
})

it('tells on the visit what was done otherwise than the guide allows', async () => {
  rendered(
    <VisitsOnRecord
      heaterId={4}
      entries={[{ ...ENTRY, lines: [], looked_at: ['Open the drain. Done although it was not safe yet, by Joss.'] }]}
    />,
  )
  await userEvent.click(screen.getByText('1 to look at'))
  expect(screen.getByText(/not safe yet, by Joss/)).toBeTruthy()
  expect(screen.getByRole('link', { name: 'Report for the office' }).getAttribute('href')).toBe(
    '/api/visits/9/report.pdf?office=true',
  )
})
