import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { HeaterMap } from './HeaterMap'

const square = (part: Partial<Schema['MapSquareOut']>): Schema['MapSquareOut'] => ({
  longitude: 8.1,
  latitude: 50.1,
  heaters: 1,
  overdue: 0,
  soon: 0,
  year: 0,
  site_id: null,
  name: '',
  box: [8.09, 50.09, 8.11, 50.11],
  ...part,
})
const mill = square({ site_id: 7, name: 'Mill House', heaters: 2, overdue: 1, year: 1 })
const crowd = square({ longitude: 8.3, latitude: 50.2, heaters: 24, soon: 3, box: [8.28, 50.18, 8.32, 50.22] })
const far = square({ longitude: 8.5, latitude: 50.1, site_id: 9, name: 'Far End' })

let asked: string[]
beforeEach(() => {
  asked = []
  vi.stubGlobal('fetch', (request: Request) => {
    asked.push(new URL(request.url).search)
    const body = { box: [8.1, 50.1, 8.5, 50.2], squares: [mill, crowd, far], heaters: 27, without_place: 4 }
    return Promise.resolve(new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } }))
  })
})
afterEach(cleanup)

const zone = {
  id: 3, name: 'Upper', hardness_class: 'hard', outline: [[8.05, 50.05], [8.55, 50.05], [8.55, 50.25], [8.05, 50.25]],
} as unknown as Schema['ZoneOnMapOut'] // prettier-ignore

async function shown(component?: Schema['Component']) {
  const onSite = vi.fn()
  const onZone = vi.fn()
  rendered(<HeaterMap zones={[zone]} component={component} width={600} height={400} onZone={onZone} onSite={onSite} />)
  await screen.findByRole('group', { name: 'Map of the heaters' })
  return { onSite, onZone }
}

it('counts who is due when, and opens a site that stands alone', async () => {
  const { onSite } = await shown()
  expect(screen.getByRole('status').textContent).toBe(
    '27 heaters:  1 overdue,  3 due within four weeks,  1 more within a year,  the others later · 4 have no place',
  )
  fireEvent.click(screen.getByRole('button', { name: 'Mill House: 2 heaters, 1 overdue, 1 within a year' }))
  expect(onSite).toHaveBeenCalledWith(7)
})

it('goes nearer where many stand, asks for that piece, and goes back to all of it', async () => {
  const { onSite } = await shown('scale')
  expect(asked).toEqual(['?component=scale'])
  fireEvent.click(screen.getByRole('button', { name: '24 heaters, 3 due within four weeks' }))
  await waitFor(() => expect(asked).toHaveLength(2))
  const query = new URLSearchParams(asked[1])
  const [west, east] = [Number(query.get('west')), Number(query.get('east'))]
  expect(west).toBeGreaterThan(8.1)
  expect(east).toBeLessThan(8.5)
  expect((west + east) / 2).toBeCloseTo(8.3, 2)
  expect(query.get('component')).toBe('scale')
  expect(onSite).not.toHaveBeenCalled()
  // What lies outside is not counted.
  await waitFor(() => expect(screen.getByRole('status').textContent).toContain('24 heaters:  0 overdue'))
  fireEvent.click(screen.getByRole('button', { name: 'All of it' }))
  await waitFor(() => expect(screen.getByRole('status').textContent).toContain('27 heaters'))
})

it('is walked by arrows, one stop of the tab key for all marks', async () => {
  const { onSite } = await shown()
  const marks = document.querySelectorAll('[data-mark]')
  expect([...marks].map((mark) => mark.getAttribute('tabindex'))).toEqual(['0', '-1', '-1'])
  ;(marks[0] as SVGGElement).focus()
  await userEvent.keyboard('{ArrowRight}')
  expect(document.activeElement).toBe(marks[2])
  await userEvent.keyboard('{ArrowUp}')
  expect(document.activeElement).toBe(marks[1])
  // Nothing lies above: it stays.
  await userEvent.keyboard('{ArrowUp}')
  expect(document.activeElement).toBe(marks[1])
  await userEvent.keyboard('{ArrowLeft}{Enter}')
  expect(onSite).toHaveBeenCalledTimes(1)
})

it('tells the parts of a ring by how many are due when', async () => {
  await shown()
  const ring = screen.getByRole('button', { name: /^24 heaters/ })
  expect(ring.querySelectorAll('path')).toHaveLength(1)
  expect(ring.querySelector('path')!.getAttribute('class')).toContain('fill-copper-deep')
  expect(ring.textContent).toContain('24')
})

it('opens the water that is clicked', async () => {
  const { onZone } = await shown()
  expect(screen.getByText('Upper')).toBeTruthy()
  fireEvent.click(document.querySelector('[data-zone="3"]')!)
  expect(onZone).toHaveBeenCalledWith(3)
})
