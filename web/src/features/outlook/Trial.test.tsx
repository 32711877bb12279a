import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

import type { Schema } from '../../api/client'
import { answering, refusal, rendered } from '../../test/rendered'
import { trialOptions } from '../../records/outlookQueries'
import { PracticeWords, riskWords, TrialStrip } from './Trial'

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const TRIED = { practice: 'condition', tolerance: 0.1 } as const
const figures = (services: number, hours: number, over_days: number) => ({ services, hours, over_days, weeks: [] })
const TRIAL: Schema['TrialOut'] = {
  heaters: 9000,
  asked_of: 4000,
  now: figures(1200, 800, 400),
  tried: figures(1350, 800, 210),
}

it('tells what a trial would bring against what is set', () => {
  rendered(<TrialStrip tried={TRIED} onBack={vi.fn()} />, { known: [[trialOptions(TRIED).queryKey, TRIAL]] })
  const said = screen.getByRole('status').textContent
  expect(said).toContain('1,350 services in twelve months, 150 more')
  expect(said).toContain('800 hours at heaters, as now')
  expect(said).toContain('210 days over a limit, 190 fewer')
  expect(said).toContain('from 4000 of them')
  expect(screen.queryByRole('button', { name: 'Follow this from now on' })).toBeNull()
})

it('lets the lead follow it from now on, and keeps the trial where that fails', async () => {
  const sent = answering(refusal('Not now.'), { body: TRIED })
  const back = vi.fn()
  rendered(<TrialStrip tried={TRIED} onBack={back} />, {
    known: [[trialOptions(TRIED).queryKey, TRIAL]],
    may: ['read', 'set_practice'],
  })
  await userEvent.click(screen.getByRole('button', { name: 'Follow this from now on' }))
  expect((await screen.findByRole('alert')).textContent).toBe('Not now.')
  expect(back).not.toHaveBeenCalled()
  await userEvent.click(screen.getByRole('button', { name: 'Follow this from now on' }))
  expect(sent.map((one) => [one.path, one.body])).toEqual([
    ['/api/outlook/practice', { ...TRIED, version: 7 }],
    ['/api/outlook/practice', { ...TRIED, version: 7 }],
  ])
  await waitFor(() => expect(back).toHaveBeenCalled())
})

it('says the practice as a sentence, with the risk only where dates go by risk', () => {
  rendered(
    <p>
      <PracticeWords tried={{ practice: 'condition', tolerance: 0.2 }} onTry={vi.fn()} />
    </p>,
  )
  expect(screen.getByRole('paragraph').textContent).toMatch(/Here\s*a date is set by risk\s*of\s*1 in 5/)
  cleanup()
  rendered(
    <p>
      <PracticeWords tried={{ practice: 'annual', tolerance: 0.2 }} onTry={vi.fn()} />
    </p>,
  )
  expect(screen.queryByRole('combobox', { name: 'Accepted risk' })).toBeNull()
  expect([0.05, 0.33].map(riskWords)).toEqual(['1 in 20', '1 in 3'])
})
