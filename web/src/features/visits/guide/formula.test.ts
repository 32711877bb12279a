import { expect, it } from 'vitest'

import { computed, type Tree } from '../../../lib/formula'
import vectors from './interlock.vectors.json'

const TOLD = (
  vectors as unknown as { computed: { name: string; tree: Tree; inputs: Record<string, number>; result: number }[] }
).computed

it('computes for every calculator what the server computes', () => {
  expect(TOLD.length).toBeGreaterThan(50)
  for (const one of TOLD) expect(computed(one.tree, one.inputs), one.name).toBeCloseTo(one.result, 9)
})

it('never ends where nothing runs, and reads between points and level outside', () => {
  expect(computed(['/', 'a', 'b'], { a: 2, b: 0 })).toBe(Infinity)
  expect(computed(['ln', 0], {})).toBe(-Infinity)
  const tree: Tree = ['along', 'x', 0, 1, 10, 3, 20, 0]
  expect([-5, 0, 5, 10, 15, 25].map((x) => computed(tree, { x }))).toEqual([1, 1, 2, 3, 1.5, 0])
})
