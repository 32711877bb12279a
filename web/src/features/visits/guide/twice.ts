import { useCallback, useEffect, useRef } from 'react'

const TWICE_MS = 250

/** Whether a tap comes so soon after its step came up that it was meant for the one before. */
export function useTwice(step: string, turn: number): () => boolean {
  const since = useRef(-TWICE_MS)
  useEffect(() => {
    if (turn > 0) since.current = performance.now()
  }, [step, turn])
  return useCallback(() => performance.now() - since.current < TWICE_MS, [])
}
