import { describe, expect, it } from 'vitest'

import type { Tap } from '../../device/store'
import { answersOf, findings } from './answers'

const answered = (field: string, value: Tap['value'], clock: number) => ({ kind: 'answered', field, value, clock }) as Tap

describe('what a visit sends', () => {
  it('is nothing where nothing was looked at, or where it was left out', () => {
    expect(findings({}, 'jetting')).toEqual([])
    expect(findings({ 'flush.skipped': true, 'flush.removed': 'heavy', 'rod.skipped': true, 'look.valve_drips': false, 'verify.tap_c': 55 }, 'jetting')).toEqual([])
  })

  it('names the company’s method where none was tapped', () => {
    expect(findings({ 'flush.removed': 'heavy' }, 'drain_and_pulse')).toEqual([{ task: 'flush', removed: 'heavy', method: 'drain_and_pulse' }])
    expect(findings({ 'flush.method': 'jetting', 'flush.removed_l': 1.5 }, 'drain_and_pulse')).toEqual([{ task: 'flush', removed_l: 1.5, method: 'jetting' }])
  })

  it('looks at the old part before the new one is fitted', () => {
    expect(findings({ 'rod.grade': 'gone', 'rod.replaced': true }, 'jetting').map((one) => one.task)).toEqual(['anode_inspection', 'anode_replacement'])
    expect(findings({ 'valve.outcome': 'no_flow', 'valve.replaced': true }, 'jetting').map((one) => one.task)).toEqual(['relief_valve_exercise', 'relief_valve_replacement'])
    expect(findings({ 'vessel.replaced': true }, 'jetting')).toEqual([{ task: 'expansion_tank_replacement' }])
  })

  it('tells a port that would not open from a rod that was not looked at', () => {
    expect(findings({ 'rod.could_not_open': true }, 'jetting')).toEqual([{ task: 'anode_inspection', could_not_open: true }])
  })

  it('says of each small part how it was found, and keeps what is no finding out', () => {
    expect(findings({ 'upkeep.burner': 'fouled', 'upkeep.inlet_screen': 'clean', 'look.taps': 'one', 'gas.sensor_tip': 'carbon' }, 'jetting')).toEqual([
      { task: 'upkeep', item: 'burner', fouling: 'fouled' },
      { task: 'upkeep', item: 'inlet_screen', fouling: 'clean' },
    ])
  })
})

it('takes the last answer to each question', () => {
  expect(answersOf([answered('flush.removed', 'trace', 1), answered('rod.grade', 'half', 2), answered('flush.removed', 'heavy', 3), answered('rod.grade', null, 4)])).toEqual({ 'flush.removed': 'heavy', 'rod.grade': null })
})
