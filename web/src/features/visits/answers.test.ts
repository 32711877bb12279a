import { describe, expect, it } from 'vitest'

import { isAnything, told } from './answers'

describe('what a visit sends', () => {
  it('is nothing where nothing was looked at', () => {
    expect(isAnything({})).toBe(false)
    expect(isAnything({ 'flush.skipped': true, 'look.valve_drips': false, note: 'a key', supervised_by: 3 })).toBe(
      false,
    )
    expect(isAnything({ 'flush.removed': 'heavy' })).toBe(true)
  })

  it('is what was answered, without what says nothing', () => {
    expect(
      told({
        'flush.removed': 'heavy',
        'flush.texture': null,
        'look.valve_drips': false,
        'rod.skipped': true,
        note: 'a key',
      }),
    ).toEqual({ 'flush.removed': 'heavy', 'rod.skipped': true })
  })
})
