import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered } from '../../test/rendered'
import { apartOptions, questionsOptions } from './queries'
import { QuestionsPage } from './QuestionsPage'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const question = (part: object = {}) =>
  ({
    client_id: 'a1',
    heater_id: 4,
    site: 'Marram Bakery',
    heater: 'T-4',
    by: 'Nadia',
    at: '2026-11-25T09:10:00Z',
    step: 'Open the drain',
    words: 'It only drips. Force it?',
    found: ['drain flow: trickle'],
    advice: '',
    go_on: null,
    ...part,
  }) as unknown as Schema['QuestionOut']
const page = (...questions: Schema['QuestionOut'][]) =>
  rendered(<QuestionsPage />, { known: [[questionsOptions.queryKey, questions]] })

it('shows what is asked with the step and what was found so far', () => {
  page(question())
  const asked = within(screen.getByRole('article'))
  expect(asked.getByRole('heading', { name: 'It only drips. Force it?' })).toBeTruthy()
  expect(asked.getByText('Open the drain')).toBeTruthy()
  expect(asked.getByText('Found so far: drain flow: trickle.')).toBeTruthy()
})

it('lets nobody go on without a word of why; to leave it needs none', async () => {
  const sent = answering({ body: null, status: 200 })
  page(question())
  expect(screen.getByRole('button', { name: 'Go on' })).toHaveProperty('disabled', true)
  await userEvent.type(screen.getByLabelText('What to do, and why'), '  Wire it once, then leave it. ')
  await userEvent.click(screen.getByRole('button', { name: 'Go on' }))
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/api/visits/questions/a1',
    body: { words: 'Wire it once, then leave it.', go_on: true },
  })
  cleanup()
  page(question())
  await userEvent.click(screen.getByRole('button', { name: 'Leave it' }))
  expect(sent[1]!.body).toEqual({ words: '', go_on: false })
})

it('says that somebody else answered meanwhile, and keeps what was typed', async () => {
  answering({ status: 409, body: { code: 'question.answered', message: 'Somebody answered it already.', fields: {} } })
  page(question())
  await userEvent.type(screen.getByLabelText('What to do, and why'), 'Go gently.')
  await userEvent.click(screen.getByRole('button', { name: 'Go on' }))
  expect((await screen.findByRole('alert')).textContent).toBe('Somebody answered it already.')
  expect(screen.getByLabelText('What to do, and why')).toHaveProperty('value', 'Go gently.')
})

it('asks nothing of what was answered, and says so where nobody asked', () => {
  page(question({ go_on: false, advice: 'We replace it on Friday.' }))
  expect(screen.getByText('Leave it.')).toBeTruthy()
  expect(screen.queryByRole('button')).toBeNull()
  cleanup()
  page()
  expect(screen.getByText(/Nobody has asked anything/)).toBeTruthy()
})

const apart = (part: Partial<Schema['ApartOut']> = {}): Schema['ApartOut'] => ({
  id: 7,
  heater_id: 4,
  site: 'Marram Bakery',
  heater: 'T-4',
  by: 'Nadia',
  at: '2026-11-25T09:10:00Z',
  step: 'Open the drain',
  told: '{"kind": "wished"}',
  fault: 'kind: none of those that are known',
  recorded: false,
  ...part,
})
const withApart = (...rows: Schema['ApartOut'][]) =>
  rendered(<QuestionsPage />, {
    known: [
      [questionsOptions.queryKey, []],
      [apartOptions.queryKey, rows],
    ],
  })

it('shows what nobody could read, and sets it aside with a reason alone', async () => {
  const sent = answering({ body: null, status: 200 })
  withApart(apart())
  const shown = within(screen.getByRole('region', { name: 'Told, but not understood' }))
  expect(shown.getByText('Why: kind: none of those that are known')).toBeTruthy()
  expect(shown.getByText('{"kind": "wished"}')).toBeTruthy()
  expect(shown.getByRole('button', { name: 'Set it aside' })).toHaveProperty('disabled', true)
  await userEvent.type(shown.getByLabelText('Why tap 7 is set aside'), ' a broken phone ')
  await userEvent.click(shown.getByRole('button', { name: 'Set it aside' }))
  expect(sent[0]).toEqual({ method: 'POST', path: '/api/visits/apart/7/aside', body: { why: 'a broken phone' } })
})

it('reads it again where its visit still runs, and says why that does not go', async () => {
  const sent = answering({ status: 409, body: { code: 'x', message: 'It still cannot be read.', fields: {} } })
  withApart(apart(), apart({ id: 8, recorded: true }))
  await userEvent.click(screen.getByRole('button', { name: 'Read it again' }))
  expect(sent[0]!.path).toBe('/api/visits/apart/7/read')
  expect((await screen.findByRole('alert')).textContent).toBe('It still cannot be read.')
  expect(screen.getByText(/recorded without it/)).toBeTruthy()
})
