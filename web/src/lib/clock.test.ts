import { afterEach, expect, it } from 'vitest'

import { clock, hour, minutesOf, tellTimesBy } from './clock'

afterEach(() => tellTimesBy('24'))

it('tells times as the company does', () => {
  expect([0, 545, 720, 925].map(clock)).toEqual(['0:00', '9:05', '12:00', '15:25'])
  tellTimesBy('12')
  expect([0, 545, 720, 925].map(clock)).toEqual(['12:00 am', '9:05 am', '12:00 pm', '3:25 pm'])
})

it('tells full hours short beside an axis', () => {
  expect([540, 720].map(hour)).toEqual(['9:00', '12:00'])
  tellTimesBy('12')
  expect([540, 720, 960, 545].map(hour)).toEqual(['9 am', '12 pm', '4 pm', '9:05 am'])
})

it('reads a time however it is written, and nothing that is none', () => {
  const read = ['9:05', '9.05', '905', '15', '3:05 pm', '12 am', '12:30 p.m.', '7am', ' 8:00 ']
  expect(read.map(minutesOf)).toEqual([545, 545, 545, 900, 905, 0, 750, 420, 480])
  expect(['', '24:00', '9:60', '13 pm', '0 am', 'noon', '9:5'].map(minutesOf)).toEqual(Array(7).fill(null))
})

it('reads back every minute that it tells', () => {
  for (const how of ['24', '12'] as const) {
    tellTimesBy(how)
    for (let minute = 0; minute < 1440; minute += 1) expect(minutesOf(clock(minute))).toBe(minute)
  }
})
