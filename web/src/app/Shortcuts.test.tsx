import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import type { ReactNode } from 'react'
import { createMemoryRouter, RouterProvider } from 'react-router'
import { afterEach, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import { GLOSSARY } from '../lib/glossary'
import { companyOptions } from '../session/session'
import { UNITS } from '../test/rendered'
import { Term } from '../ui/Term'
import { GlossaryPage } from './GlossaryPage'
import { Shortcuts } from './Shortcuts'
import { Titled } from './Titled'

afterEach(cleanup)

function within(page: ReactNode) {
  const queries = new QueryClient()
  queries.setQueryData(companyOptions.queryKey, { units: UNITS } as Schema['CompanyOut'])
  return render(<QueryClientProvider client={queries}>{page}</QueryClientProvider>)
}

function opened() {
  const page = (name: string) => (
    <Titled as={name}>
      <Shortcuts />
      <input aria-label="words" />
    </Titled>
  )
  const router = createMemoryRouter([
    { path: '/', element: page('Outlook') },
    { path: '/register', element: page('Register') },
    {
      path: '/glossary',
      element: (
        <Titled as="Glossary">
          <GlossaryPage />
        </Titled>
      ),
    },
  ])
  within(<RouterProvider router={router} />)
  return router
}

it('tells its keys on ?, goes somewhere on g and a letter, and lets who types type', async () => {
  const router = opened()
  expect(document.title).toBe('Outlook · Aquifer')
  fireEvent.keyDown(screen.getByLabelText('words'), { key: '?' })
  expect(screen.queryByRole('dialog')).toBeNull()
  fireEvent.keyDown(document.body, { key: 'r' })
  expect(router.state.location.pathname).toBe('/')
  fireEvent.keyDown(document.body, { key: '?' })
  expect((await screen.findByRole('dialog')).textContent).toContain('Find a heater')
  fireEvent.click(screen.getByRole('link', { name: /Glossary/ }))
  expect(await screen.findByRole('heading', { name: 'Glossary' })).toBeTruthy()
  expect(document.title).toBe('Glossary · Aquifer')
  expect(screen.getAllByRole('term')).toHaveLength(Object.keys(GLOSSARY).length)
})

it('goes to a place by g and its letter, pressed one after the other', () => {
  const router = opened()
  fireEvent.keyDown(document.body, { key: 'g' })
  fireEvent.keyDown(document.body, { key: 'r' })
  expect(router.state.location.pathname).toBe('/register')
})

it('explains a term where it stands', () => {
  within(<Term name="precharge">air</Term>)
  expect(screen.queryByRole('dialog', { name: 'precharge' })).toBeNull()
  fireEvent.click(screen.getByRole('button', { name: 'air' }))
  expect(screen.getByRole('dialog', { name: 'precharge' }).textContent).toContain(GLOSSARY.precharge)
})

it('tells the figures of an explanation in the company’s units', () => {
  within(<Term name="bare wire" />)
  fireEvent.click(screen.getByRole('button', { name: 'bare wire' }))
  expect(screen.getByRole('dialog', { name: 'bare wire' }).textContent).toContain('From 100 mm on')
})
