import { expect, it } from 'vitest'

import type { Schema } from '../../api/client'
import { UNITS } from '../../test/rendered'
import { asked, groupsOf, questionsOf } from './questions'

const titles = (answers: Record<string, string | number | boolean>) =>
  asked(questionsOf(['relief_valve_replacement'], true, false), answers).map((one) => one.title)

it('asks what the new part is once one was fitted, and only what was not compared', () => {
  expect(titles({})).toEqual(['I fitted a new relief valve'])
  expect(titles({ 'valve.replaced': true })).toEqual([
    'I fitted a new relief valve',
    'Both tags read: the new one is like the old one',
    'The new one opens at',
    'Heat that it passes, by its tag',
    'Length of its probe',
  ])
  expect(titles({ 'valve.replaced': true, 'valve.alike': true })).toHaveLength(2)
})

it('asks of a rod its metal, its length, its thickness and how many there are', () => {
  const told = asked(questionsOf(['anode_replacement'], true, false), { 'rod.replaced': true })
  expect(told.map((one) => one.field)).toEqual([
    'rod.replaced',
    'rod.alike',
    'rod.new_alloy',
    'rod.new_count',
    'rod.new_length_mm',
    'rod.new_diameter_mm',
  ])
})

it('asks for every figure that differs between systems of units by its quantity', () => {
  const every = ['ohms', 'depth_before_mm', 'removed_l', 'dissolved_g', 'flow_before', 'rise_before', 'flow_after']
  const rest = ['rise_after', 'bare_wire_mm', 'precharge_kpa', 'static_kpa', 'tap_c', 'millivolts', 'gas_kpa', 'volts']
  const units = questionsOf([...every, ...rest, 'co_ppm'], true, true).flatMap((one) => ('unit' in one ? one.unit : []))
  expect(units.length).toBeGreaterThan(14)
  for (const unit of units) expect(['Ω', 'mV', 'V', 'ppm', ...Object.keys(UNITS)]).toContain(unit)
})

it('asks of a heater which of its parts were fitted, and what they look like', () => {
  const heater = {
    kind: 'electric_tank',
    is_tank: true,
    parts: [],
    can_have: ['anode', 'lower_element', 'drain_valve'],
  }
  const fitted = groupsOf(heater as unknown as Schema['HeaterOut'], []).find((one) => one.of === 'fitted')!
  expect(fitted.asks).toEqual(['fitted:lower_element', 'fitted:drain_valve'])
  const questions = questionsOf(fitted.asks, true, false)
  expect(asked(questions, {}).map((one) => one.title)).toEqual([
    'I fitted a new lower element',
    'I fitted a new drain valve',
  ])
  expect(asked(questions, { 'fitted.drain_valve': true }).map((one) => one.field)).toContain('fitted_build.drain_valve')
})
