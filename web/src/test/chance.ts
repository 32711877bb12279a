/** Repeatable chance. */
export function chance(seed: number): () => number {
  let state = seed + 1
  return () => {
    state = (state * 48271) % 2147483647
    return state / 2147483647
  }
}
