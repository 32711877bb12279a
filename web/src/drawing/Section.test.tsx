import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it } from 'vitest'

import type { Schema } from '../api/client'
import type { Units } from '../lib/units'
import { Section } from './Section'

afterEach(cleanup)

const UNITS: Units = { length_mm: { label: 'mm', factor: 1, offset: 0, decimals: 0 } }
const TANK = {
  kind: 'electric_tank',
  height_mm: 1200,
  diameter_mm: 500,
  drain_port_height_mm: 60,
  lower_element_height_mm: 250,
} as Schema['HeaterOut']

function forecast(component: Schema['Component'], state: Schema['ForecastOut']['state']): Schema['ForecastOut'] {
  return { component, state, limit_value: 12 } as Schema['ForecastOut']
}

const spread = (p50: number, off = 0) => ({ p10: p50 - off, p50, p90: p50 + off })

function drawn(depth: number, left: number, stuck: number, heater = TANK) {
  return render(
    <Section
      heater={heater}
      units={UNITS}
      height={440}
      forecasts={[
        forecast('sediment', { depth_mm: spread(depth, 4) }),
        forecast('anode', { fraction_left: spread(left) }),
        forecast('relief_valve', { probability_stuck: spread(stuck) }),
      ]}
    />,
  )
}

const bed = (container: HTMLElement) => Number(container.querySelector('rect[fill^="url"]')?.getAttribute('height'))

describe('the section of a tank', () => {
  it('says in words what it draws', () => {
    drawn(12, 0.41, 0.034)
    expect(screen.getByRole('img').getAttribute('aria-label')).toBe(
      'Section of the tank. Deposit 8 to 16 mm deep. 41 % of the anode left. Relief valve: 1 in 29 stuck.',
    )
    expect(screen.getByText('60 mm up')).toBeTruthy()
    expect(screen.getByText('element')).toBeTruthy()
  })

  it('draws the bed in proportion, and never over the whole tank', () => {
    const shallow = bed(drawn(10, 0.5, 0.1).container)
    const deep = bed(drawn(20, 0.5, 0.1).container)
    expect(deep).toBeCloseTo(2 * shallow)
    const absurd = bed(drawn(5000, 0.5, 0.1).container)
    expect(absurd).toBeLessThan(440 * 0.7)
  })

  it.each([
    [0.001, 'moves'],
    [0.5, '1 in 2 stuck'],
    [0.9, '1 in 2 stuck'],
    [1, 'stuck'],
  ])('calls a valve stuck with %d: %s', (stuck, says) => {
    drawn(5, 0.5, stuck)
    expect(screen.getByText(says)).toBeTruthy()
  })

  it('draws what nobody has forecast without a bed or a rod', () => {
    const { container } = render(<Section heater={TANK} units={UNITS} height={440} forecasts={[]} />)
    expect(container.querySelector('rect[fill^="url"]')).toBeNull()
    expect(screen.queryByText(/% left/)).toBeNull()
    expect(screen.getByRole('img').getAttribute('aria-label')).toBe('Section of the tank.')
  })
})

describe('the section of a tankless heater', () => {
  it('has neither rod nor floor', () => {
    render(
      <Section
        heater={{ kind: 'gas_tankless' } as Schema['HeaterOut']}
        units={UNITS}
        height={440}
        forecasts={[forecast('scale', { thickness_mm: spread(0.4, 0.1) })]}
      />,
    )
    expect(screen.queryByText('dip tube')).toBeNull()
    expect(screen.queryByText('drain port')).toBeNull()
  })
})
