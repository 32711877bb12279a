/** A formula as the server tells it: a number, an input's name, or an operation and its arguments. */
export type Tree = number | string | [string, ...Tree[]]

const OPERATIONS: Record<string, (...values: number[]) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => (b === 0 ? Infinity : a / b),
  '^': (a, b) => a ** b,
  sqrt: (a) => Math.sqrt(Math.max(a, 0)),
  ln: (a) => (a > 0 ? Math.log(a) : -Infinity),
  exp: (a) => Math.exp(Math.min(a, 700)),
  min: Math.min,
  max: Math.max,
  along,
}

/** The value of a formula, as the server computes it; infinite where it divides by nothing. */
export function computed(tree: Tree, inputs: Record<string, number>): number {
  if (typeof tree === 'number') return tree
  if (typeof tree === 'string') return inputs[tree]!
  const [operation, ...rest] = tree
  return OPERATIONS[operation]!(...rest.map((one) => computed(one, inputs)))
}

function along(x: number | undefined, ...points: number[]): number {
  const at = x!
  for (let place = 0; place < points.length; place += 2) {
    const [x1, y1] = [points[place]!, points[place + 1]!]
    if (at <= x1) {
      if (place === 0) return y1
      const [x0, y0] = [points[place - 2]!, points[place - 1]!]
      return y0 + ((y1 - y0) * (at - x0)) / (x1 - x0)
    }
  }
  return points.at(-1)!
}
