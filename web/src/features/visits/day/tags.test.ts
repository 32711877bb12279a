import { expect, it } from 'vitest'

import { tagOf } from './tags'

it('reads the tag off an address of a label, or off a label of the tag alone', () => {
  expect(tagOf('https://water.invalid/t/CHK-0089')).toBe('CHK-0089')
  expect(tagOf('http://127.0.0.1:8000/t/A%2F7%20left')).toBe('A/7 left')
  expect(tagOf(' LIN-0294\n')).toBe('LIN-0294')
})

it('takes nothing else for a tag', () => {
  expect(tagOf('https://elsewhere.invalid/menu')).toBeNull()
  expect(tagOf('WIFI:S:guest;T:WPA;P:secret;;')).toBeNull()
  expect(tagOf('mailto:somebody@water.invalid')).toBeNull()
  expect(tagOf('x'.repeat(41))).toBeNull()
  expect(tagOf('')).toBeNull()
})
