import { useEffect } from 'react'

const PLACES = '[data-row], li, form, section, [role=region], [role=group], [role=tabpanel], [role=dialog], main'
const LOST_MS = 10_000

/**
 * Whoever presses a button that then goes away, or may not be pressed for a moment, goes on beside it and not at the
 * top of the page: by a keyboard that would be hundreds of keys, and a screen reader would begin to read anew.
 */
export function FocusKept() {
  useEffect(() => {
    let last: HTMLElement | null = null
    let around: HTMLElement[] = []
    let path = ''
    let lostAt = 0
    let frame = 0
    const onFocusIn = (event: FocusEvent) => {
      if (!(event.target instanceof HTMLElement) || event.target === document.body) return
      last = event.target
      around = placesAround(last)
      path = location.pathname
      lostAt = 0
    }
    const onFocusOut = (event: FocusEvent) => {
      const left = event.target
      if (event.relatedTarget) return
      // Who taps beside everything means it; what went away or is held for a moment did not ask.
      queueMicrotask(() => {
        if (left === last && document.hasFocus() && last && isThere(last)) last = null
      })
    }
    const look = () => {
      frame = 0
      if (!last || document.activeElement !== document.body) return
      // Another page has a heading of its own to go to.
      if (location.pathname !== path) return void (last = null)
      if (isThere(last)) return last.focus({ preventScroll: true })
      lostAt ||= performance.now()
      if (last.isConnected && performance.now() - lostAt < LOST_MS) return
      const place = around.find((one) => one.isConnected) ?? document.querySelector<HTMLElement>('h1')
      if (!place) return
      if (!place.hasAttribute('tabindex')) place.tabIndex = -1
      place.focus({ preventScroll: true })
    }
    const observer = new MutationObserver(() => {
      if (last && !frame && document.activeElement === document.body) frame = requestAnimationFrame(look)
    })
    observer.observe(document.body, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ['disabled', 'hidden'],
    })
    document.addEventListener('focusin', onFocusIn)
    document.addEventListener('focusout', onFocusOut)
    return () => {
      cancelAnimationFrame(frame)
      observer.disconnect()
      document.removeEventListener('focusin', onFocusIn)
      document.removeEventListener('focusout', onFocusOut)
    }
  }, [])
  return null
}

/** Whether it can have the focus still. */
const isThere = (one: HTMLElement) => one.isConnected && !one.matches(':disabled')

/** What it stands in, from the nearest outwards. */
function placesAround(one: HTMLElement): HTMLElement[] {
  const found: HTMLElement[] = []
  for (let at = one.parentElement?.closest<HTMLElement>(PLACES); at; at = at.parentElement?.closest(PLACES))
    found.push(at)
  return found
}
