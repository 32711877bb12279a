import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, describe, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import { HeaterSign } from '../drawing/HeaterSign'
import { told } from '../features/heaters/HeaterLog'
import { Reasons } from '../records/Reasons'
import { Grades } from '../features/visits/Grades'
import { Moved } from '../features/visits/Moved'

afterEach(cleanup)

describe('reasons', () => {
  const reasons: Schema['ReasonOut'][] = [
    { factor: 'usage', ratio: 0.9, days: 40 },
    { factor: 'hardness', ratio: 2, days: -400 },
    { factor: 'tank_size', ratio: 1.001, days: -1 },
  ]

  it('tell the weightiest first, as time sooner or later, and leave out what is nothing', () => {
    render(<Reasons reasons={reasons} />)
    expect(screen.getAllByRole('listitem').map((item) => item.textContent)).toEqual([
      'hard water, 13 months sooner',
      'little hot water, 6 weeks later',
    ])
  })

  it('say so where there are none', () => {
    render(<Reasons reasons={[]} />)
    expect(screen.getByText(/As a plain heater/)).toBeTruthy()
  })
})

describe('a visit in the log', () => {
  const line = (task: Schema['Task'], words: string) => ({ task, words })
  const entry = (lines: Schema['LineOut'][]): Schema['LogEntryOut'] => ({
    visit_id: 1,
    amended: false,
    looked_at: [],
    minutes: null,
    readings: [],
    notes: [],
    on: '2026-01-02',
    by: 'Joss',
    lines,
    marks: {},
  })

  it('tells new parts first, leaves out what a track draws, and says what does not fit', () => {
    const lines = [
      line('flush', 'Jetted: heavy'),
      line('relief_valve_exercise', 'Relief valve ran'),
      line('look_over', 'Looked over: quiet'),
      line('expansion_tank_check', 'Expansion tank full of water'),
      line('upkeep', 'Burner: fouled'),
      line('expansion_tank_replacement', 'New expansion tank'),
    ]
    expect(told(entry(lines), 30)).toEqual(['New expansion tank', 'Jetted: heavy', 'Looked over: quiet', 'and 2 more'])
    expect(told(entry(lines.slice(0, 2)), 8)).toEqual(['Jetted:…'])
  })
})

describe('what moved', () => {
  const one = {
    component: 'relief_valve' as const,
    before_on: '2026-11-30',
    after_on: '2027-11-24',
    days: 359,
    sentence: 'It ran.',
  }

  it('tells both dates and why', () => {
    render(<Moved moved={[one]} today="2026-11-24" />)
    expect(screen.getByRole('heading').textContent).toBe('Relief valve: week of 22 November 2027')
    expect(screen.getByText('12 months later than before (30 November)')).toBeTruthy()
    expect(screen.getByText('It ran.')).toBeTruthy()
  })

  it('says nothing of a distance where there is none', () => {
    render(<Moved moved={[{ ...one, before_on: null, days: null }]} today="2026-11-24" />)
    expect(screen.queryByText(/than before/)).toBeNull()
  })
})

function Choosing() {
  const [value, choose] = useState<'a' | 'b' | null>(null)
  return (
    <Grades
      label="Grade"
      columns={2}
      value={value}
      options={[
        { value: 'a', label: 'clear' },
        { value: 'b', label: 'murky' },
      ]}
      onChange={choose}
    />
  )
}

describe('grades', () => {
  it('are one choice, by touch or by keyboard', async () => {
    render(<Choosing />)
    await userEvent.click(screen.getByRole('radio', { name: 'clear' }))
    expect(screen.getByRole('radio', { name: 'clear' }).getAttribute('aria-checked')).toBe('true')
    await userEvent.click(screen.getByRole('radio', { name: 'murky' }))
    expect(screen.getByRole('radio', { name: 'clear' }).getAttribute('aria-checked')).toBe('false')
  })
})

describe('the sign of a heater', () => {
  const deposit = (depthShare: number | null) => {
    const { container } = render(<HeaterSign kind="gas_tank" depthShare={depthShare} anodeLeft={0.5} height={30} />)
    return Number(container.querySelector('.fill-ochre')?.getAttribute('y'))
  }

  it('shows more deposit higher, and never more than two fifths of the tank', () => {
    expect(deposit(1)).toBeLessThan(deposit(0.2))
    expect(deposit(50)).toBeGreaterThan(28.8 * 0.6 - 1)
    expect(deposit(null)).toBeCloseTo(28.8)
  })

  it('shows passages instead of a rod for a tankless', () => {
    const { container } = render(<HeaterSign kind="gas_tankless" depthShare={1} anodeLeft={null} height={30} />)
    expect(container.querySelectorAll('line')).toHaveLength(0)
    expect(container.querySelectorAll('path')).toHaveLength(3)
  })
})
