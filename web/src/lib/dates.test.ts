import { describe, expect, it } from 'vitest'

import {
  beginWeeksOn,
  dateWords,
  day,
  dueWords,
  firstWeekday,
  isoDay,
  spanWords,
  weekOf,
  yearsBetween,
  withDays,
  yearsWords,
} from './dates'

const TODAY = '2026-11-24'

describe('dates as people say them', () => {
  it.each([
    ['2026-11-23', 'overdue since 23 November'],
    ['2024-02-29', 'overdue since 29 February 2024'],
    ['2008-06-01', 'long overdue'],
    ['2026-11-24', 'due this week'],
    ['2027-03-10', 'week of 8 March 2027'],
    ['2026-12-31', 'week of 28 December'],
    ['2031-06-15', 'about June 2031'],
    [null, 'not within 30 years'],
  ])('%s is %s', (due, words) => expect(dueWords(due, TODAY)).toBe(words))

  it('writes the days of a text, and leaves what is none', () => {
    expect(withDays('gas tank, put in 2018-06-05')).toBe('gas tank, put in 5 June 2018')
    for (const none of ['2018-02-31', '2018-13-01', 'S-2018-06-155', '12018-06-05']) expect(withDays(none)).toBe(none)
  })

  it('begins weeks on the day that the company says', () => {
    beginWeeksOn('sunday')
    expect(dueWords('2027-03-10', TODAY)).toBe('week of 7 March 2027')
    expect(weekOf('2026-11-29')).toBe('2026-11-29')
    beginWeeksOn('saturday')
    expect(weekOf('2026-11-27')).toBe('2026-11-21')
    expect(firstWeekday()).toBe(5)
    beginWeeksOn('monday')
    expect(weekOf('2026-11-29')).toBe('2026-11-23')
    expect(firstWeekday()).toBe(0)
    // As a device told it that kept the company before there was such a setting.
    beginWeeksOn(undefined)
    expect(weekOf('2026-11-29')).toBe('2026-11-23')
  })

  it.each([
    [1, '1 day'],
    [-20, '20 days'],
    [40, '6 weeks'],
    [-200, '7 months'],
    [1500, '4 years'],
  ])('%i days are %s', (days, words) => expect(spanWords(days)).toBe(words))

  it('leaves out the year where it is this one', () => {
    expect(dateWords('2026-03-08', TODAY)).toBe('8 March')
    expect(dateWords('2027-03-08', TODAY)).toBe('8 March 2027')
  })

  it('keeps a day through any time zone', () => {
    for (const iso of ['2026-03-29', '2026-10-25', '2028-02-29']) expect(isoDay(day(iso))).toBe(iso)
  })

  it('counts whole years', () => {
    expect(yearsBetween('2020-11-25', TODAY)).toBe(5)
    expect(yearsBetween('2020-11-20', TODAY)).toBe(6)
    expect(yearsBetween('2020-11-24', TODAY)).toBe(6)
    expect(yearsBetween('2027-01-01', TODAY)).toBe(0)
  })
})

it.each([
  [0.02, '1 month'],
  [0.4, '5 months'],
  [1.44, '1.4 years'],
  [14.2, '14 years'],
  [30, 'over 30 years'],
])('%s years are told as people say them', (years, words) => {
  expect(yearsWords(years)).toBe(words)
})
