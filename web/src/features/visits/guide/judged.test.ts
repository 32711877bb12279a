import { expect, it } from 'vitest'

import type { Schema } from '../../../api/client'
import { judged } from './judged'

const verdict = (at: (string | null)[], name: string) => ({
  at,
  verdict: name,
  because: [],
  ask_lead: false,
  licensed: false,
})
const PRESSURE: Schema['OnSiteRuleOut'] = {
  rule: 'pressure',
  question: '?',
  options: [],
  answers: [
    { field: 'pressure.falls', above: null },
    { field: 'pressure.creep_kpa', above: 20 },
  ],
  cases: [
    verdict(['true', null], 'leak'),
    verdict([null, 'above'], 'renew'),
    verdict([null, 'below'], 'keep'),
    verdict(['true', 'above'], 'leak first'),
  ],
}
const of = (answers: Record<string, string | number | boolean | null>, ...fields: string[]) =>
  judged([PRESSURE], answers, fields).map((one) => one.verdict.verdict)

it('looks up what just these answers mean, numbers by whether they matter', () => {
  expect(of({ 'pressure.falls': true }, 'pressure.falls')).toEqual(['leak'])
  expect(of({ 'pressure.creep_kpa': 35 }, 'pressure.creep_kpa')).toEqual(['renew'])
  expect(of({ 'pressure.creep_kpa': 20, 'pressure.falls': false }, 'pressure.creep_kpa')).toEqual(['keep'])
  expect(of({ 'pressure.creep_kpa': 35, 'pressure.falls': true }, 'pressure.falls')).toEqual(['leak first'])
})

it('says nothing where nothing was answered, where it is asked elsewhere, or where no rule knows it', () => {
  expect(of({}, 'pressure.falls')).toEqual([])
  expect(of({ 'pressure.falls': true }, 'rod.grade')).toEqual([])
  expect(of({ 'pressure.falls': true, 'pressure.creep_kpa': 5 }, 'pressure.falls')).toEqual([])
})
