import { useEffect } from 'react'

const PLACES = '[data-row], li, ul, form, section, [role=region], [role=group], [role=tabpanel], [role=dialog], main'
/** What a page wants done next, where it says so; a step that is held has the way out of it. */
const NEXT = '[data-next]:not(:disabled)'
/** So long a button may be out of use before whoever pressed it goes on beside it. */
const HELD_MS = 400
const REMEMBERED = 6

interface Was {
  element: HTMLElement
  /** What it stands in, from the nearest outwards. */
  places: HTMLElement[]
}

/**
 * Whoever presses a button that then goes away, or may not be pressed for a moment, goes on beside it and not at the
 * top of the page: by a keyboard that would be hundreds of keys, and a screen reader would begin to read anew.
 */
export function FocusKept() {
  useEffect(() => {
    // The latest first: where one was before a dialog is where one is after it.
    let trail: Was[] = []
    let path = ''
    let lostAt = 0
    let frame = 0
    const onFocusIn = (event: FocusEvent) => {
      if (!(event.target instanceof HTMLElement) || event.target === document.body) return
      if (path !== location.pathname) trail = []
      path = location.pathname
      trail = [{ element: event.target, places: placesAround(event.target) }, ...trail].slice(0, REMEMBERED)
      lostAt = 0
    }
    const onFocusOut = (event: FocusEvent) => {
      const left = event.target
      if (event.relatedTarget) return
      // Who taps beside everything means it; what went away or is held for a moment did not ask.
      queueMicrotask(() => {
        if (left === trail[0]?.element && document.hasFocus() && isThere(trail[0].element)) trail = []
      })
    }
    const look = () => {
      frame = 0
      const last = trail[0]
      // Another page has a heading of its own to go to.
      if (!last || document.activeElement !== document.body || location.pathname !== path) return
      lostAt ||= performance.now()
      const isHeld = last.element.isConnected && !isThere(last.element)
      if (isHeld && performance.now() - lostAt < HELD_MS) return void (frame = requestAnimationFrame(look))
      const to = nearest(trail) ?? document.querySelector<HTMLElement>(NEXT) ?? document.querySelector('main')
      if (!to) return
      if (!isFocusable(to)) to.tabIndex = -1
      to.focus({ preventScroll: true })
    }
    const observer = new MutationObserver(() => {
      if (trail.length > 0 && !frame && document.activeElement === document.body) frame = requestAnimationFrame(look)
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

/** What one was at, or what it stood in; if all of that went away, the same of what one was at before. */
function nearest(trail: Was[]): HTMLElement | undefined {
  for (const { element, places } of trail) {
    const found = [element, ...places].find(isThere)
    if (found || element.isConnected) return found
  }
  return undefined
}

/** Whether it can have the focus still. */
const isThere = (one: HTMLElement) => one.isConnected && !one.matches(':disabled')

const isFocusable = (one: HTMLElement) => one.hasAttribute('tabindex') || one.matches('button, a[href], input, select')

function placesAround(one: HTMLElement): HTMLElement[] {
  const found: HTMLElement[] = []
  for (let at = one.parentElement?.closest<HTMLElement>(PLACES); at; at = at.parentElement?.closest(PLACES))
    found.push(at)
  return found
}
