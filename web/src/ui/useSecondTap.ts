import { useEffect, useRef, type MouseEvent } from 'react'

const SECOND_TAP_MS = 600

/** For what appears where something was just tapped: the second tap of a wet hand does nothing yet. */
export function useSecondTap() {
  const shown = useRef(0)
  useEffect(() => {
    shown.current = performance.now()
  }, [])
  return (event: MouseEvent) => {
    if (performance.now() - shown.current < SECOND_TAP_MS) event.preventDefault()
  }
}
