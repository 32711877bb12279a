import { QueryClient, QueryClientProvider, type QueryKey } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter } from 'react-router'
import { vi } from 'vitest'

import type { Schema } from '../api/client'
import { companyOptions, meOptions } from '../session/session'

export const TODAY = '2026-11-25'
const unit = (label: string, factor = 1, decimals = 0) => ({ label, factor, offset: 0, decimals })
export const UNITS = {
  volume_l: unit('L'),
  length_mm: unit('mm'),
  temperature_c: unit('°C'),
  pressure_kpa: unit('kPa'),
  hardness_mg_l: unit('mg/L'),
  mass_kg: unit('kg', 1, 1),
  power_kw: unit('kW', 1, 1),
  flow_l_min: unit('L/min', 1, 1),
  temperature_k: unit('°C'),
  mass_g: unit('g'),
  small_volume_l: unit('L', 1, 1),
  gas_pressure_kpa: unit('kPa', 1, 1),
} as Schema['CompanyOut']['units']

const EVERYTHING: Schema['Action'][] = [
  'read',
  'keep_view',
  'edit_register',
  'record_place',
  'import',
  'take_out',
  'keep_own_account',
  'record_visit',
]

interface Setting {
  /** What the server has answered already, by query. */
  known?: [QueryKey, unknown][]
  may?: Schema['Action'][]
  at?: string
}

/** Draw something as it stands below the shell: somebody signed in, units known, the given answers at hand. */
export function rendered(children: ReactNode, { known = [], may = EVERYTHING, at = '/' }: Setting = {}) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } })
  queries.setQueryData(meOptions.queryKey, { id: 1, may, role: 'lead', name: 'Tamsin' } as unknown as Schema['MeOut'])
  queries.setQueryData(companyOptions.queryKey, {
    version: 7,
    today: TODAY,
    units: UNITS,
    practice: 'condition',
    timezone: 'UTC',
    week_start: 'monday' as const,
    flush_method: 'drain_and_pulse',
    tolerance: 0.2,
  } as unknown as Schema['CompanyOut'])
  for (const [key, data] of known) queries.setQueryData(key, data)
  return render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[at]}>{children}</MemoryRouter>
    </QueryClientProvider>,
  )
}

export interface Sent {
  method: string
  path: string
  body: unknown
}

/**
 * A server that answers what it is told to, in turn, and keeps what it was asked. What is only read again after a
 * change is never answered: what is shown stays what was given.
 */
export function answering(...answers: { status?: number; body: unknown }[]): Sent[] {
  const sent: Sent[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    if (request.method === 'GET') return new Promise<Response>(() => undefined)
    const type = request.headers.get('Content-Type') ?? ''
    const body: unknown = type.includes('json')
      ? await request.json()
      : type.includes('form')
        ? await request.formData()
        : null
    sent.push({ method: request.method, path: new URL(request.url).pathname, body })
    const answer = answers.length > 1 ? answers.shift()! : (answers[0] ?? { body: {} })
    return new Response(JSON.stringify(answer.body), {
      status: answer.status ?? 200,
      headers: { 'Content-Type': 'application/json' },
    })
  })
  return sent
}

export const refusal = (message: string, fields: Record<string, string> = {}, code = 'invalid') => ({
  status: 422,
  body: { code, message, fields },
})
