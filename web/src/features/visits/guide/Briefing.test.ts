import { expect, it } from 'vitest'

import type { Schema } from '../../../api/client'
import { carriedInCase } from './Briefing'
import type { Step } from './interlock'

const step = (tool: string, ...leads: string[]) =>
  ({ id: 'one', tool, deviations: leads.length > 0 ? [{ says: 'otherwise', then: leads }] : [] }) as unknown as Step
const procedures = {
  blocked: { steps: [step('wire, pump')] },
  drips: { steps: [step('pump'), step('cap')] },
  leaks: { steps: [step('paper')] },
} as unknown as Schema['GuideOut']['procedures']

it('carries what the likeliest turn wants first, and counts what two of them want once', () => {
  const told = carriedInCase({ procedures, chances: { blocked: 0.2, drips: 0.5, leaks: 0.001 } }, [
    step('hose', 'blocked', 'drips'),
    step('', 'leaks'),
  ])
  expect(told.map((one) => one.tool)).toEqual(['pump', 'cap', 'wire', 'paper'])
  // Wanted by either: 1 - 0.8 × 0.5.
  expect(told.map((one) => one.chance!.toFixed(3))).toEqual(['0.600', '0.500', '0.200', '0.001'])
})

it('tells the tools without a chance where a kept guide knows none', () => {
  const told = carriedInCase({ procedures }, [step('hose', 'blocked', 'drips')])
  expect(told.map((one) => one.chance)).toEqual([null, null, null])
  expect(told.map((one) => one.tool).sort()).toEqual(['cap', 'pump', 'wire'])
})
