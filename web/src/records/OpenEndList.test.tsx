import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { answering, refusal, rendered } from '../test/rendered'
import { OpenEndList } from './OpenEndList'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const open = (part: Partial<Schema['OpenEndOut']> = {}): Schema['OpenEndOut'] => ({
  id: 5,
  kind: 'temporary_fix',
  severity: 'defect',
  words: 'Drip taped.',
  state: 'open',
  site_id: 1,
  site: 'Mill',
  street: '1 Weir Street',
  heater_id: 7,
  heater: 'T-7',
  location: 'cellar',
  campaign: null,
  raised_on: '2026-10-02',
  raised_by: 'Joss',
  promised_on: null,
  photographs: [],
  closed_on: null,
  how_closed: '',
  ...part,
})

it('tells what is open, since when, and at which heater where several stand', () => {
  rendered(
    <OpenEndList
      openEnds={[open(), open({ id: 6, state: 'closed', closed_on: '2026-11-01', how_closed: 'new nipple' })]}
      at={{ site_id: 1 }}
    />,
  )
  const [first, second] = screen.getAllByRole('listitem')
  expect(first?.textContent).toContain('temporary fix · cellar · since 2 October')
  expect(second?.textContent).toContain('closed 1 November: new nipple')
  expect(within(second!).getByRole('button', { name: /^Open again/ })).toBeTruthy()
})

it('says so where nothing is open, and offers nothing to who only reads', () => {
  rendered(<OpenEndList openEnds={[]} at={{ heater_id: 7 }} />, { may: ['read'] })
  expect(screen.getByText('Nothing is open here.')).toBeTruthy()
  expect(screen.queryByRole('button')).toBeNull()
})

it('arranges at a tap and closes with a word of how', async () => {
  const sent = answering({ body: open() })
  rendered(<OpenEndList openEnds={[open()]} at={{ heater_id: 7 }} />)
  await userEvent.click(screen.getByRole('button', { name: /^Arranged/ }))
  await userEvent.click(screen.getByRole('button', { name: /^Close …/ }))
  await userEvent.type(screen.getByLabelText('How was it put right?'), 'new nipple')
  await userEvent.click(screen.getByRole('button', { name: 'Close' }))
  expect(sent.map(({ path, body }) => [path, body])).toEqual([
    ['/api/open-ends/5/state', { state: 'arranged', how: '' }],
    ['/api/open-ends/5/state', { state: 'closed', how: 'new nipple' }],
  ])
})

it('keeps what was typed when a danger may not be closed without a word', async () => {
  answering(refusal('Say how the danger was put right.', { how: 'needed' }))
  rendered(<OpenEndList openEnds={[open({ severity: 'danger' })]} at={{ heater_id: 7 }} />)
  await userEvent.click(screen.getByRole('button', { name: /^Close …/ }))
  await userEvent.type(screen.getByLabelText('How was it put right?'), 'ok')
  await userEvent.click(screen.getByRole('button', { name: 'Close' }))
  expect(await screen.findByText('Say how the danger was put right.')).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>('How was it put right?').value).toBe('ok')
})

it('notes a new one at the heater, of a kind and as bad as it is', async () => {
  const sent = answering({ status: 201, body: open() })
  rendered(<OpenEndList openEnds={[]} at={{ heater_id: 7 }} />)
  await userEvent.click(screen.getByRole('button', { name: 'Add an open issue' }))
  const note = screen.getByRole<HTMLButtonElement>('button', { name: 'Note it' })
  expect(note.disabled).toBe(true)
  await userEvent.type(screen.getByLabelText('What is not in order'), 'Vent strap loose')
  await userEvent.selectOptions(screen.getByLabelText('How bad'), 'danger')
  await userEvent.click(note)
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/api/open-ends',
    body: { heater_id: 7, words: 'Vent strap loose', kind: 'defect', severity: 'danger' },
  })
})

it('shows what was promised and the photographs of how it was left', () => {
  rendered(<OpenEndList openEnds={[open({ promised_on: '2026-11-30', photographs: [8, 9] })]} />)
  expect(screen.getByText(/promised by 30 November/)).toBeTruthy()
  expect(screen.getAllByRole('link').map((one) => one.getAttribute('href'))).toEqual([
    '/api/attachments/8/file',
    '/api/attachments/9/file',
  ])
})
