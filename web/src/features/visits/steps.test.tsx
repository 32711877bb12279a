import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, describe, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { findings, type Draft } from './draft'
import { DescaleStep, FlushStep, LookStep, RodStep, UpkeepStep, ValveStep, VesselStep, type StepProps } from './steps'

afterEach(cleanup)

const EMPTY: Draft = { clientId: 'x', step: 0, flush: {}, descale: {}, rod: {}, vessel: {}, look: {}, upkeep: {}, valve: {}, pressure: {}, tapC: null, supervisedBy: null, guide: null, events: [] }
const METRIC: StepProps['units'] = {
  length_mm: { label: 'mm', factor: 1, offset: 0, decimals: 0 },
  pressure_kpa: { label: 'kPa', factor: 1, offset: 0, decimals: 0 },
}
const IMPERIAL: StepProps['units'] = {
  length_mm: { label: 'in', factor: 1 / 25.4, offset: 0, decimals: 2 },
  pressure_kpa: { label: 'psi', factor: 1 / 6.894757, offset: 0, decimals: 0 },
}

/** One step as the visit holds it; what it would send is read from the page. */
function held(Step: (props: StepProps) => React.ReactNode, given: Partial<StepProps> = {}) {
  let sent: ReturnType<typeof findings> = []
  function Held() {
    const [draft, setDraft] = useState(EMPTY)
    sent = findings(draft, 'drain_and_pulse')
    return (
      <Step
        draft={draft}
        change={(part) => setDraft((now) => ({ ...now, ...part }))}
        heater={{ kind: 'gas_tank' } as Schema['HeaterOut']}
        judgements={[]}
        upkeep={[]}
        usualMethod="drain_and_pulse"
        measure={false}
        units={METRIC}
        {...given}
      />
    )
  }
  render(<Held />)
  return () => sent
}

const tap = (name: string | RegExp) => userEvent.click(screen.getByRole('radio', { name }))
const press = (name: string | RegExp) => userEvent.click(screen.getByRole('button', { name }))

describe('the look at a heater', () => {
  it('sends what was heard and seen, and nothing that was not', async () => {
    const sent = held(LookStep)
    expect(sent()).toEqual([])
    await tap('kettles')
    await press('Hot water alone runs rusty')
    expect(sent()).toEqual([{ task: 'look_over', noise: 'kettling', rusty_hot_water: true }])
  })

  it('takes back a toggle that was tapped by mistake', async () => {
    const sent = held(LookStep)
    await press(/Relief outlet/)
    await press(/Relief outlet/)
    expect(sent()).toEqual([{ task: 'look_over', valve_drips: false }])
  })
})

describe('the flush', () => {
  it('warns of the energy that heats the tank', () => {
    held(FlushStep)
    expect(screen.getByText(/Burner off or at pilot/)).toBeTruthy()
    cleanup()
    held(FlushStep, { heater: { kind: 'heat_pump_tank' } as Schema['HeaterOut'] })
    expect(screen.getByText(/Breaker off and proven/)).toBeTruthy()
  })

  it('says why a tank is better left alone, and whom to ask', () => {
    const judgement = { rule: 'flush_or_leave', verdict: 'leave_alone', because: ['9 years old', 'no flush on record'], ask_lead: true, licensed: false }
    held(FlushStep, { judgements: [judgement] })
    expect(screen.getByText(/Better left alone: 9 years old; no flush on record\. Ask the lead first\./)).toBeTruthy()
  })

  it('asks for a depth first where the visit was drawn, and only once', () => {
    held(FlushStep, { measure: true })
    expect(screen.getByRole('heading', { name: /drawn for a measurement/ })).toBeTruthy()
    expect(screen.getAllByRole('textbox')).toHaveLength(1)
    expect(screen.queryByLabelText(/if you did/)).toBeNull()
  })

  it('stores a depth in millimetres whatever it was typed in', async () => {
    const sent = held(FlushStep, { units: IMPERIAL })
    await userEvent.type(screen.getByLabelText(/Depth measured before/), '1.5')
    const [flush] = sent()
    expect(flush).toMatchObject({ task: 'flush', method: 'drain_and_pulse' })
    expect((flush as { depth_before_mm: number }).depth_before_mm).toBeCloseTo(38.1)
  })

  it('is not sent where it was skipped, and is again when something is tapped after all', async () => {
    const sent = held(FlushStep)
    await tap('heavy')
    await press('Not flushed today')
    expect(sent()).toEqual([])
    await tap('trace')
    expect(sent()).toMatchObject([{ task: 'flush', removed: 'trace' }])
  })
})

describe('the descale', () => {
  it('takes grams of lime with a comma or a point', async () => {
    const sent = held(DescaleStep, { measure: true })
    await userEvent.type(screen.getByLabelText(/Lime dissolved/), '85,5')
    await tap('moderate')
    expect(sent()).toEqual([{ task: 'descale', dissolved_g: 85.5, removed: 'moderate' }])
  })

  it('keeps the last number that could be read', async () => {
    const sent = held(DescaleStep, { measure: true })
    await userEvent.type(screen.getByLabelText(/Lime dissolved/), '12x')
    expect(sent()).toEqual([{ task: 'descale', dissolved_g: 12 }])
  })
})

describe('the rod', () => {
  it('tells a port that would not open from a rod that was not looked at', async () => {
    const sent = held(RodStep)
    await press('The port could not be opened')
    expect(sent()).toEqual([{ task: 'anode_inspection', could_not_open: true }])
    await press('Rod not looked at today')
    expect(sent()).toEqual([])
  })

  it('sends the old rod before the new one', async () => {
    const sent = held(RodStep)
    await tap('wire only')
    await press('I fitted a new rod')
    expect(sent().map((one) => one.task)).toEqual(['anode_inspection', 'anode_replacement'])
  })
})

describe('the relief valve', () => {
  it('offers a new one only after a failure, as licensed work', async () => {
    const sent = held(ValveStep)
    await tap(/Ran freely/)
    expect(screen.queryByRole('button', { name: /new relief valve/ })).toBeNull()
    await tap(/no water/)
    expect(screen.getByText(/licensed work/)).toBeTruthy()
    await press(/new relief valve/)
    expect(sent()).toEqual([{ task: 'relief_valve_exercise', outcome: 'no_flow' }, { task: 'relief_valve_replacement' }])
  })
})

describe('the expansion tank', () => {
  it('stores a charge in kilopascals whatever it was typed in', async () => {
    const sent = held(VesselStep, { units: IMPERIAL })
    await tap('Air comes out')
    await userEvent.type(screen.getByLabelText(/Charge as you found it/), '50')
    const [check] = sent()
    expect(check).toMatchObject({ task: 'expansion_tank_check', at_valve: 'air' })
    expect((check as { precharge_kpa: number }).precharge_kpa).toBeCloseTo(344.7, 0)
  })
})

describe('the upkeep', () => {
  const due = (item: Schema['UpkeepItem']): Schema['UpkeepOut'] => ({ item, due_on: '2027-01-01', interval_months: 8.4, because: [] })

  it('asks for what this heater has, in its own words, with what to mind', async () => {
    const sent = held(UpkeepStep, { upkeep: [due('powered_anode'), due('burner')] })
    expect(screen.getByText(/Yellow flame, soot/)).toBeTruthy()
    expect(screen.getAllByText('Every 8 months here so far.')).toHaveLength(2)
    await tap('dark')
    await tap('choked')
    expect(sent()).toEqual([
      { task: 'upkeep', item: 'powered_anode', fouling: 'fault' },
      { task: 'upkeep', item: 'burner', fouling: 'fouled' },
    ])
  })
})
