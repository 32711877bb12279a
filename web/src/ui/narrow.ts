/** Where there is no room for reasons beside a list, a row opens its heater. */
export const isNarrow = (): boolean =>
  typeof window.matchMedia === 'function' && window.matchMedia('(width < 900px)').matches
