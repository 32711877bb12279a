import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { Route, Routes, useLocation } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'

import { answering, refusal, rendered } from '../test/rendered'
import { viewsOptions } from './heaterQueries'
import { Views } from './Views'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const KEPT = [
  { id: 1, place: 'register', name: 'Old tanks', query: 'which=guessed&kind=gas_tank', shared: false },
  { id: 2, place: 'register', name: 'Chalk', query: 'zone=7', shared: true },
]
const Where = () => <p>at {useLocation().pathname + useLocation().search}</p>

function views(known = KEPT) {
  rendered(
    <>
      <Views place="register" path="/register" query="q=quay&zone=7" />
      <Routes>
        <Route path="*" element={<Where />} />
      </Routes>
    </>,
    { at: '/register', known: [[viewsOptions('register').queryKey, known]] },
  )
}
const open = () => userEvent.click(screen.getByRole('button', { name: 'Views' }))

it('goes to a sentence that was kept, and says which are shared', async () => {
  answering()
  views()
  await open()
  expect(screen.getByRole('menuitem', { name: /^Chalk.*shared$/ })).toBeTruthy()
  await userEvent.click(screen.getByRole('menuitem', { name: 'Old tanks' }))
  expect(screen.getByText('at /register?which=guessed&kind=gas_tank')).toBeTruthy()
})

it('keeps the sentence as it stands under a name, and not without one', async () => {
  const sent = answering(refusal('There is a view of that name.'), { body: {} })
  views([])
  await open()
  expect(screen.getByText('No view is kept yet')).toBeTruthy()
  await userEvent.click(screen.getByRole('menuitem', { name: 'Keep this one …' }))
  expect(screen.getByRole('button', { name: 'Keep it' })).toHaveProperty('disabled', true)
  await userEvent.type(screen.getByLabelText('Name'), 'Quay')
  await userEvent.click(screen.getByLabelText('Everybody may use it'))
  await userEvent.click(screen.getByRole('button', { name: 'Keep it' }))
  expect(await screen.findByText('There is a view of that name.')).toBeTruthy()
  expect(screen.getByLabelText('Name')).toHaveProperty('value', 'Quay')
  expect(sent[0]).toMatchObject({
    path: '/api/views',
    body: { place: 'register', name: 'Quay', query: 'q=quay&zone=7', shared: true },
  })
})
