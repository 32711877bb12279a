import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { sized } from '../../test/sized'
import { WhatIf } from './WhatIf'

const asked: URLSearchParams[] = []
let cautions: string[] = []

beforeEach(() => {
  asked.length = 0
  cautions = []
  sized()
  vi.stubGlobal('fetch', (request: Request) => {
    const query = new URL(request.url).searchParams
    asked.push(query)
    const softened = query.get('softened') === 'true'
    const results = [
      {
        component: 'sediment',
        years_between: softened ? 6 : 1.5,
        over_after_service: 0,
        over_at_next: softened ? 0.1 : 0.2,
        over_in_12_months: 0,
      },
    ]
    return Promise.resolve(
      new Response(JSON.stringify({ results, cautions }), { headers: { 'Content-Type': 'application/json' } }),
    )
  })
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const heater = (part: object = {}) =>
  ({
    id: 7,
    is_tank: true,
    setpoint_c: 60,
    assumed: {},
    site: { softened: false },
    ...part,
  }) as unknown as Schema['HeaterOut']

it('asks the server for each change and tells it beside what is', async () => {
  rendered(<WhatIf heater={heater()} />)
  const row = await screen.findByRole('row', { name: /^Flush/ })
  expect(within(row).getByText('1.5 years')).toBeTruthy()
  expect(within(row).getByText('20 %')).toBeTruthy()
  await userEvent.click(screen.getByLabelText('Water softened'))
  await waitFor(() => expect(screen.getByRole('row', { name: /^Flush/ }).textContent).toContain('now 1.5 years'))
  expect(asked.at(-1)?.get('softened')).toBe('true')
})

it('sends the slider as it stands, in the units of the record', async () => {
  rendered(<WhatIf heater={heater()} />)
  await screen.findByRole('row', { name: /^Flush/ })
  screen.getByRole('slider', { name: 'Set temperature' }).focus()
  await userEvent.keyboard('{ArrowLeft}{ArrowLeft}')
  await waitFor(() => expect(asked.at(-1)?.get('setpoint_c')).toBe('58'))
  expect(screen.getByText('58 °C')).toBeTruthy()
})

it('says what the server asks people to mind, and that an unread dial is assumed', async () => {
  cautions = ['Stored this cool, legionella may grow: local rules decide.']
  rendered(<WhatIf heater={heater({ setpoint_c: null, assumed: { setpoint_c: 55 } })} />)
  expect(await screen.findByText(cautions[0]!)).toBeTruthy()
  expect(screen.getByText(/assumed now: 55 °C/)).toBeTruthy()
})

it('goes on to the bench with this tank, its water and its household', async () => {
  const site = { softened: true, zone_id: 3, people: 5 }
  rendered(<WhatIf heater={heater({ kind: 'gas_tank', capacity_l: 151, site })} />)
  const link = await screen.findByRole('link', { name: /Twenty years/ })
  const said = new URLSearchParams(link.getAttribute('href')!.split('?')[1])
  expect(Object.fromEntries(said)).toEqual({
    kind: 'gas_tank',
    size: '151',
    zone: '3',
    people: '5',
    a_set: '60',
    b_set: '60',
    a_water: 'soft',
    b_water: 'soft',
  })
})

it('offers no flush where there is no tank', async () => {
  rendered(<WhatIf heater={heater({ is_tank: false })} />)
  await screen.findByRole('row', { name: /^Flush/ })
  expect(screen.queryByLabelText('Flush')).toBeNull()
  await userEvent.selectOptions(screen.getByLabelText('Practice'), 'annual')
  await waitFor(() => expect(asked.at(-1)?.get('practice')).toBe('annual'))
})
