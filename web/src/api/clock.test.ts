import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { dayAt, learn, trueNow } from './clock'

beforeEach(() => {
  localStorage.clear()
  vi.useFakeTimers({ now: new Date('2026-11-25T22:58:00Z') })
})
afterEach(() => vi.useRealTimers())

it('puts a wrong clock right by what the server said, and leaves a right one alone', () => {
  learn('Wed, 25 Nov 2026 22:58:01 GMT')
  expect(trueNow().toISOString()).toBe('2026-11-25T22:58:00.000Z')
  learn('Thu, 26 Nov 2026 00:58:00 GMT')
  expect(trueNow().toISOString()).toBe('2026-11-26T00:58:00.000Z')
  learn(null)
  learn('soon')
  expect(trueNow().toISOString()).toBe('2026-11-26T00:58:00.000Z')
})

it('tells the day at the company, over midnight too', () => {
  expect(dayAt('UTC')).toBe('2026-11-25')
  expect(dayAt('Europe/Berlin')).toBe('2026-11-25')
  expect(dayAt('Asia/Tokyo')).toBe('2026-11-26')
  vi.setSystemTime('2026-11-26T00:01:00Z')
  expect(dayAt('UTC')).toBe('2026-11-26')
})
