import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../api/client'
import { zonesOptions } from '../session/session'
import { answering, refusal, rendered } from '../test/rendered'
import { sitesOptions } from './heaterQueries'
import { SitePicker } from './SitePicker'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const site = (id: number, name: string) =>
  ({ id, name, street: 'Quay 2', zone: 'Chalk' }) as unknown as Schema['SiteOut']
const known: [readonly unknown[], unknown][] = [
  [sitesOptions('').queryKey, [site(1, 'Marram Bakery'), site(2, 'Pell School')]],
  [zonesOptions.queryKey, [{ id: 7, name: 'Chalk', hardness_class: 'hard' }]],
]

function picker() {
  const told = vi.fn()
  function Held() {
    const [chosen, choose] = useState<Schema['SiteOut'] | null>(null)
    return (
      <SitePicker
        chosen={chosen}
        onChoose={(next) => {
          told(next)
          choose(next)
        }}
      />
    )
  }
  rendered(<Held />, { known })
  return told
}
const press = (name: string | RegExp) => userEvent.click(screen.getByRole('button', { name }))

it('takes a site that is on record, and another one instead', async () => {
  answering()
  const told = picker()
  await press(/^Marram Bakery/)
  expect(told).toHaveBeenCalledWith(site(1, 'Marram Bakery'))
  expect(screen.getByText(/water: Chalk/)).toBeTruthy()
  await press('Choose another site')
  expect(screen.getByRole('button', { name: /^Pell School/ })).toBeTruthy()
})

it('adds a new site with the letters that were typed, and only with its water', async () => {
  const sent = answering({ body: site(9, 'Weir Mill') })
  const told = picker()
  await userEvent.type(screen.getByLabelText('Site'), 'Weir Mill')
  await press('It is not here: add a new site')
  expect(screen.getByLabelText('Name')).toHaveProperty('value', 'Weir Mill')
  expect(screen.getByRole('button', { name: 'Add site' })).toHaveProperty('disabled', true)
  await userEvent.selectOptions(screen.getByLabelText('Water zone'), '7')
  await userEvent.type(screen.getByLabelText('People'), '3')
  await press('Add site')
  await waitFor(() => expect(sent).toHaveLength(1))
  expect(sent[0]!.body).toMatchObject({ name: 'Weir Mill', zone_id: 7, people: 3, softened: false })
  expect(told).not.toHaveBeenCalledWith(null)
})

it('keeps a new site as it was typed where the server has something against it', async () => {
  const sent = answering(refusal('Not accepted.', { people: 'This is not a number that fits here.' }))
  const told = picker()
  await press('It is not here: add a new site')
  await userEvent.type(screen.getByLabelText('Name'), 'Mill')
  await userEvent.type(screen.getByLabelText('People'), 'some')
  await userEvent.selectOptions(screen.getByLabelText('Water zone'), '7')
  await press('Add site')
  expect(await screen.findByText('This is not a number that fits here.')).toBeTruthy()
  expect(sent[0]!.body).toMatchObject({ people: 'no number' })
  expect(screen.getByLabelText('People')).toHaveProperty('value', 'some')
  expect(told).not.toHaveBeenCalled()
})
