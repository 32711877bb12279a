import { cleanup, screen } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { SiteForm } from './SiteForm'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

it('shows the site’s own water while the list of waters comes, and after it came', async () => {
  const zones = [
    { id: 1, name: 'Scarrow upland' },
    { id: 2, name: 'Fenn blend' },
  ]
  vi.stubGlobal('fetch', (request: Request) => {
    const body = request.url.endsWith('/api/zones') ? zones : []
    return Promise.resolve(new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } }))
  })
  const site = { id: 3, name: 'Achdale', zone_id: 2, zone: 'Fenn blend', details: {} } as unknown as Schema['SiteOut']
  rendered(<SiteForm site={site} onDone={() => undefined} />)
  const water = screen.getByLabelText<HTMLSelectElement>('Water zone')
  expect(water.selectedOptions[0]?.textContent).toBe('Fenn blend')
  await screen.findByRole('option', { name: 'Scarrow upland' })
  expect(water.selectedOptions[0]?.textContent).toBe('Fenn blend')
})
