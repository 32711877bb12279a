import { useEffect, useRef } from 'react'
import { useLocation } from 'react-router'

import { announce } from '../ui/announce'

const WAITS_MS = 4_000

/**
 * On another page: its heading has the focus, and its name is said. Without this a keyboard begins anew at the top, and
 * who does not see the page hears nothing of it.
 */
export function Arrival() {
  const { pathname } = useLocation()
  const before = useRef(pathname)
  useEffect(() => {
    if (before.current === pathname) return
    before.current = pathname
    const until = performance.now() + WAITS_MS
    let frame = 0
    const look = () => {
      const heading = document.querySelector<HTMLElement>('h1')
      if (!heading) {
        // The page may still be reading.
        if (performance.now() < until) frame = requestAnimationFrame(look)
        return
      }
      const focused = document.activeElement
      // Who has begun to do something there already is left alone.
      if (!focused || focused === document.body || !focused.closest('main, [role=dialog]')) {
        heading.tabIndex = -1
        heading.focus({ preventScroll: true })
      }
      announce(document.title.replace(' · Aquifer', ''))
    }
    frame = requestAnimationFrame(look)
    return () => cancelAnimationFrame(frame)
  }, [pathname])
  return null
}
