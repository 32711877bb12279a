import { cleanup, screen } from '@testing-library/react'
import { Route, Routes, useLocation } from 'react-router'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { rendered } from '../../test/rendered'
import { taggedOptions } from '../../records/heaterQueries'
import { TagPage } from './TagPage'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const Where = () => <p>at {useLocation().pathname}</p>

function scanned(onPhone: boolean, may: Schema['Action'][]) {
  vi.stubGlobal('matchMedia', () => ({ matches: onPhone }))
  const routes = (
    <Routes>
      <Route path="/t/*" element={<TagPage />} />
      <Route path="*" element={<Where />} />
    </Routes>
  )
  rendered(routes, { at: '/t/CHK/0143', may, known: [[taggedOptions('CHK/0143').queryKey, { id: 31 }]] })
}

it.each([
  [true, ['record_visit'], '/visit/31'],
  [false, ['record_visit'], '/heaters/31'],
  [true, ['read'], '/heaters/31'],
] as const)('a label read on a phone (%s) by who may %j leads to %s', async (onPhone, may, path) => {
  scanned(onPhone, [...may])
  expect(await screen.findByText(`at ${path}`)).toBeTruthy()
})

it('says which tag nobody has', async () => {
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(JSON.stringify({ code: 'not_found', message: 'No heater has the tag CHK/9.', fields: {} }), {
        status: 404,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  )
  rendered(
    <Routes>
      <Route path="/t/*" element={<TagPage />} />
    </Routes>,
    { at: '/t/CHK/9' },
  )
  expect((await screen.findByRole('alert')).textContent).toContain('No heater has the tag CHK/9.')
})
