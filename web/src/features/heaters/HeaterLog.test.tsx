import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { HeaterLog } from './HeaterLog'

afterEach(cleanup)

const TODAY = '2026-11-24'

function entry(on: string, valve: string | null, words: string): Schema['LogEntryOut'] {
  return {
    visit_id: 1,
    amended: false,
    looked_at: [],
    minutes: null,
    readings: [],
    notes: [],
    on,
    by: 'Joss Averill',
    lines: [{ task: 'flush', words }],
    marks: valve ? { relief_valve_exercise: valve } : {},
  }
}

function drawn(part: Partial<Schema['LogOut']>, height = 700) {
  const log: Schema['LogOut'] = {
    measure: false,
    installed_on: '2018-05-01',
    today: TODAY,
    until: '2029-05-24',
    entries: [],
    readings: [],
    courses: [],
    forecasts: [],
    upkeep: [],
    judgements: [],
    ...part,
  }
  return render(
    <HeaterLog
      log={log}
      units={{ length_mm: { label: 'mm', factor: 1, offset: 0, decimals: 0 } }}
      width={620}
      height={height}
    />,
  )
}

const at = (text: RegExp | string) => Number(screen.getByText(text).closest('text')?.getAttribute('y'))

describe('the log of a heater', () => {
  it('runs down in time: older above, today between what was and what comes', () => {
    drawn({
      entries: [
        entry('2024-03-01', 'flows_and_reseats', 'Jetted: heavy'),
        entry('2026-02-01', 'no_flow', 'Pulsed drain: trace'),
      ],
    })
    expect(at('1 Mar 2024')).toBeLessThan(at('1 Feb'))
    expect(at('1 Feb')).toBeLessThan(at('today'))
    expect(at('today')).toBeLessThan(at('2028'))
    expect(screen.getByText('ran')).toBeTruthy()
    expect(screen.getByText('no flow').getAttribute('class')).toContain('oxide')
  })

  it('keeps the words of visits close in time apart', () => {
    const entries = ['01', '02', '03', '04'].map((month) => entry(`2026-${month}-01`, null, `Visit ${month}`))
    drawn({ entries })
    const places = ['1 Jan', '1 Feb', '1 Mar', '1 Apr'].map((day) => at(day))
    for (let n = 1; n < places.length; n++) expect(places[n]! - places[n - 1]!).toBeGreaterThanOrEqual(25)
  })

  it('names what comes next, a relief valve by its last day', () => {
    const next = (component: Schema['Component'], due_on: string | null) =>
      ({ component, due_on }) as Schema['ForecastOut']
    drawn({
      forecasts: [next('sediment', '2026-10-01'), next('relief_valve', '2027-03-05'), next('tank', '2027-01-01')],
    })
    expect(screen.getByText('Flush:').parentElement?.textContent).toContain('overdue since 1 October')
    expect(screen.getByText(/^by 5 Mar/)).toBeTruthy()
    expect(screen.queryByText('New heater:')).toBeNull()
  })

  it('draws a deposit against its limit, past solid and future dashed', () => {
    const course: Schema['CourseOut'] = {
      component: 'sediment',
      on: ['2025-01-01', TODAY, '2028-01-01'],
      p10: [1, 3, 6],
      p50: [2, 5, 14],
      p90: [4, 8, 25],
      present: 1,
    }
    const { container } = drawn({
      courses: [course],
      forecasts: [{ component: 'sediment', limit_value: 12, due_on: null } as Schema['ForecastOut']],
    })
    expect(screen.getByText('limit 12')).toBeTruthy()
    const middle = [...container.querySelectorAll('path.stroke-ochre-deep')]
    expect(middle.map((path) => path.getAttribute('stroke-dasharray'))).toEqual([null, '5 4'])
  })

  it('draws where wire shows as the forecast has it, and not without one', () => {
    const course: Schema['CourseOut'] = {
      component: 'anode',
      on: ['2025-01-01', TODAY],
      p10: [1, 0.4],
      p50: [1, 0.5],
      p90: [1, 0.6],
      present: 1,
    }
    drawn({ courses: [course] })
    expect(screen.queryByText('bare wire')).toBeNull()
    cleanup()
    const limited = (limit_value: number) => [
      { component: 'anode', limit_value, due_on: null } as Schema['ForecastOut'],
    ]
    const place = (limit: number) => {
      drawn({ courses: [course], forecasts: limited(limit) })
      const x = Number(screen.getByText('bare wire').getAttribute('x'))
      cleanup()
      return x
    }
    expect(place(0.5)).toBeGreaterThan(place(0.2))
  })
})
