import { describe, expect, it } from 'vitest'

import { fieldText, shown, stored, type Units } from './units'

/** As the server sends them for a company that measures in US units; the figures are its table's. */
const units = {
  volume_l: { label: 'gal', factor: 0.2641720523581484, offset: 0, decimals: 0 },
  temperature_c: { label: '°F', factor: 1.8, offset: 32, decimals: 0 },
} as unknown as Units

describe('figures in the company’s units', () => {
  it('shows a stored figure with its unit', () => {
    expect(shown(units, 'volume_l', 189.27)).toBe('50 gal')
    expect(shown(units, 'temperature_c', 60)).toBe('140 °F')
  })

  it('stores what was typed, with either decimal sign', () => {
    expect(stored(units, 'temperature_c', '140')).toBeCloseTo(60)
    expect(stored(units, 'volume_l', '49,9')).toBeCloseTo(188.9, 1)
  })

  it('tells nothing from something that is no number', () => {
    expect(stored(units, 'volume_l', ' ')).toBeNull()
    expect(stored(units, 'volume_l', 'fifty')).toBeNaN()
    expect(fieldText(units, 'volume_l', null)).toBe('')
  })

  it('gives a field back what it shows', () => {
    expect(stored(units, 'temperature_c', fieldText(units, 'temperature_c', 54.4))).toBeCloseTo(54.4, 0)
  })
})
