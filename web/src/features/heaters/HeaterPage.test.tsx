import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import type { ReactNode } from 'react'
import { afterEach, describe, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { companyOptions, meOptions } from '../../session/session'
import { changesOptions } from '../../records/outlookQueries'
import { Due } from '../../records/WhyPanel'
import { AlsoDue, Judgements } from './HeaterPage'

afterEach(cleanup)

const TODAY = '2026-11-24'

function shown(children: ReactNode, changes: Schema['ChangeOut'][] = []) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } })
  const company = { today: TODAY, units: { temperature_c: { label: '°C', factor: 1, offset: 0, decimals: 0 } } }
  queries.setQueryData(companyOptions.queryKey, company as unknown as Schema['CompanyOut'])
  queries.setQueryData(meOptions.queryKey, { may: ['read'] } as unknown as Schema['MeOut'])
  queries.setQueryData(changesOptions(7).queryKey, changes)
  return render(<QueryClientProvider client={queries}>{children}</QueryClientProvider>)
}

const spread = { p10: 1, p50: 2, p90: 3 }

function forecast(part: Partial<Schema['ForecastOut']>): Schema['ForecastOut'] {
  return {
    component: 'sediment',
    as_of: TODAY,
    reached_days: [30, 60, 90, 120, 200, 300, 500],
    due_on: '2027-02-01',
    latest_on: null,
    decided_by: 'tolerance',
    method: 'drain_and_pulse',
    benefit: 0.2,
    probability_today: 0.1,
    model_version: '1',
    rate_unit: 'kg/year',
    rate: spread,
    state: { depth_mm: spread },
    limit_value: 12,
    over_after_service: 0,
    reasons: [{ factor: 'hardness', ratio: 2, days: -200 }],
    log_theta: 0.4,
    log_theta_sd: 0.2,
    learned: 'This tank builds 1.5 times what its water and use suggest; two visits say so.',
    ...part,
  }
}

describe('what is due', () => {
  it('tells a date, its window and what was learned of this heater', () => {
    shown(<Due heaterId={7} forecasts={[forecast({})]} />)
    const button = screen.getByRole('button', { name: /^Flush: week of 1 February 2027/ })
    expect(button.textContent).toContain(
      'over its limit likely between 23 January 2027 and 20 September 2027; set by the risk we accept',
    )
    expect(screen.getByText(/two visits say so/)).toBeTruthy()
    expect(screen.getByText('hard water, 7 months sooner')).toBeTruthy()
  })

  it('says of what is past, and of what never comes, what can be said', () => {
    shown(
      <Due
        heaterId={7}
        forecasts={[
          forecast({ reached_days: [0, 0, 0, 0, 0, 0, 0] }),
          forecast({ component: 'anode', reached_days: [null, null, null, null, null, null, null] }),
        ]}
      />,
    )
    expect(screen.getByText(/almost surely over its limit already/)).toBeTruthy()
    expect(screen.getByText(/not bare wire within 30 years/)).toBeTruthy()
  })

  it('calls a relief valve’s date a cap, and a new heater advice', () => {
    shown(
      <Due
        heaterId={7}
        forecasts={[
          forecast({ component: 'relief_valve', latest_on: '2027-03-01', decided_by: 'cap' }),
          forecast({ component: 'tank', due_on: '2026-11-01', probability_today: 0.23, limit_value: 0.2 }),
        ]}
      />,
    )
    expect(screen.getByText(/by 1 March 2027 at the latest; set by the longest interval we allow/)).toBeTruthy()
    expect(screen.getByText('advised now')).toBeTruthy()
    expect(screen.getByText(/23 % likely to fail within 12 months/)).toBeTruthy()
  })

  it('explains the one that was picked, and lets a finding that decides stand alone', async () => {
    shown(
      <Due
        heaterId={7}
        forecasts={[forecast({}), forecast({ component: 'relief_valve', decided_by: 'finding', learned: '' })]}
      />,
    )
    await userEvent.click(screen.getByRole('button', { name: /^Relief valve/ }))
    expect(screen.getByText(/stuck or wept/)).toBeTruthy()
    expect(screen.queryByText(/hard water/)).toBeNull()
  })

  it('shows what a change would do, and leaves out what changes nothing', () => {
    const result = (years: number) => [
      {
        component: 'sediment' as const,
        years_between: years,
        over_after_service: 0,
        over_at_next: 0,
        over_in_12_months: 0,
      },
    ]
    shown(<Due heaterId={7} forecasts={[forecast({})]} />, [
      { change: 'as_it_is', setpoint_c: null, results: result(1) },
      { change: 'softener', setpoint_c: null, results: result(6) },
      { change: 'cooler', setpoint_c: 49, results: result(2) },
      { change: 'jetting', setpoint_c: null, results: result(1.02) },
    ])
    const lines = screen.getAllByText(/With a softener|Set to|Jet/).map((one) => one.textContent)
    expect(lines).toHaveLength(2)
    expect(lines[0]).toContain('With a softener: 6.0 years')
    expect(lines[1]).toContain('Set to 49 °C: 2.0 years')
  })
})

describe('judgements', () => {
  const one = (verdict: string, part: Partial<Schema['JudgementOut']> = {}): Schema['JudgementOut'] => ({
    rule: verdict,
    verdict,
    because: ['it drips', 'a drip only grows'],
    ask_lead: false,
    licensed: false,
    ...part,
  })

  it('tell what asks for something, with its reasons and whose work it is', () => {
    shown(
      <Judgements
        judgements={[
          one('keep_water'),
          one('replace_valve', { licensed: true }),
          one('leave_alone', { ask_lead: true }),
        ]}
      />,
    )
    expect(screen.getAllByRole('listitem').map((item) => item.textContent)).toEqual([
      'Replace the relief valve. It drips; a drip only grows. Licensed work.',
      'Leave it alone. It drips; a drip only grows. Ask the lead.',
    ])
  })

  it('are silent where all is well', () => {
    const { container } = shown(<Judgements judgements={[one('keep_valve'), one('flush')]} />)
    expect(container.textContent).toBe('')
  })
})

describe('what else is due', () => {
  it('tells each thing with what its interval rests on', () => {
    shown(
      <AlsoDue
        upkeep={[
          {
            item: 'air_filter',
            due_on: '2026-11-01',
            interval_months: 2.4,
            because: ['usually every 6 months', 'it stands in dust'],
          },
        ]}
      />,
    )
    expect(screen.getByRole('listitem').textContent).toBe(
      'Air filter: overdue since 1 Novemberusually every 6 months; it stands in dust: every 2 months',
    )
  })

  it('is left out where a heater has nothing of the kind', () => {
    const { container } = shown(<AlsoDue upkeep={[]} />)
    expect(container.textContent).toBe('')
  })
})
