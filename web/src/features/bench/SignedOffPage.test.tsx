import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, rendered } from '../../test/rendered'
import { SignedOffPage } from './SignedOffPage'

afterEach(cleanup)

const WORK: Schema['Component'][] = ['sediment', 'scale', 'anode', 'relief_valve', 'expansion_tank', 'tank']
const work = (one: Schema['Component'], part: Partial<Schema['SignedOffWorkOut']> = {}) => ({
  work: one,
  sign_off_id: null,
  until: null,
  by: '',
  why: '',
  passes: 0,
  visits: 0,
  ...part,
})
const TOLD: Schema['SignedOffOut'] = {
  asked: WORK.map((one) => ({
    work: one,
    passes: one === 'scale' ? 0 : 2,
    visits: 3,
    can_practise: one !== 'scale',
    version: 5,
  })),
  people: [
    {
      user_id: 7,
      name: 'Mara Fenn',
      role: 'apprentice',
      is_new: false,
      supervised: true,
      work: WORK.map((one) =>
        one === 'sediment'
          ? work(one, { sign_off_id: 4, until: '2027-03-01', by: 'Lead', passes: 2, visits: 3 })
          : one === 'anode'
            ? work(one, { passes: 2, visits: 3 })
            : work(one, { passes: 1 }),
      ),
    },
  ],
}

const page = (may: Schema['Action'][]) => rendered(<SignedOffPage />, { may, known: [[['bench', 'signed-off'], TOLD]] })

it('says who does what alone until when, and how far the others are', () => {
  page(['read'])
  const row = screen.getByRole('row', { name: /Mara Fenn/ })
  const cells = within(row).getAllByRole('cell')
  expect(cells[0]!.textContent).toContain('alone until 1 March 2027')
  expect(cells[1]!.textContent).toContain('under supervision0 of 3 visits')
  expect(cells[2]!.textContent).toContain('ready2 of 2 practices, 3 of 3 visits')
  expect(cells[3]!.textContent).toContain('1 of 2 practices, 0 of 3 visits')
  // Who does not decide it has nothing to press.
  expect(within(row).queryAllByRole('button')).toEqual([])
})

it('lets the lead sign off, with a reason where less was done than is asked for', async () => {
  const sent = answering({ body: TOLD, status: 201 })
  page(['read', 'keep_people'])
  await userEvent.click(screen.getByRole('button', { name: /Mara Fenn, the anode rod: *ready/ }))
  expect(screen.queryByLabelText(/Why that is enough/)).toBeNull()
  await userEvent.keyboard('{Escape}')
  await userEvent.click(screen.getByRole('button', { name: /Mara Fenn, the relief valve: *under supervision/ }))
  await userEvent.clear(screen.getByLabelText(/Alone until/))
  await userEvent.type(screen.getByLabelText(/Why that is enough/), 'did it for years elsewhere')
  await userEvent.click(screen.getByRole('button', { name: 'Sign off' }))
  expect(sent.at(-1)!.body).toEqual({
    person_id: 7,
    work: 'relief_valve',
    until: null,
    why: 'did it for years elsewhere',
  })
})

it('takes a sign-off back, and changes what is asked for', async () => {
  const sent = answering({ body: TOLD })
  page(['read', 'keep_people'])
  await userEvent.click(screen.getByRole('button', { name: /Mara Fenn, flushing: *alone/ }))
  await userEvent.click(screen.getByRole('button', { name: 'Under supervision again' }))
  expect(sent.at(-1)!).toMatchObject({ method: 'DELETE', path: '/api/bench/signed-off/4' })
  await userEvent.click(screen.getByRole('button', { name: 'Change what is asked for: descaling' }))
  expect(screen.getByLabelText<HTMLInputElement>(/Practices passed/).disabled).toBe(true)
  await userEvent.clear(screen.getByLabelText(/Supervised visits/))
  await userEvent.type(screen.getByLabelText(/Supervised visits/), '5')
  await userEvent.click(screen.getByRole('button', { name: 'Save' }))
  expect(sent.at(-1)!.body).toEqual({ work: 'scale', passes: 0, visits: 5, version: 5 })
})
