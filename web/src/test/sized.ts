import { vi } from 'vitest'

/**
 * A page whose frames have a size, as the browser would tell it: lists that draw only what is in view draw something.
 */
export function sized(width = 900, height = 300) {
  class Observer {
    constructor(private readonly told: (entries: object[]) => void) {}
    observe(target: Element) {
      this.told([{ target, contentRect: { width, height } }])
    }
    unobserve() {
      return undefined
    }
    disconnect() {
      return undefined
    }
  }
  vi.stubGlobal('ResizeObserver', Observer)
  vi.spyOn(Element.prototype, 'clientWidth', 'get').mockReturnValue(width)
  vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(height)
}
