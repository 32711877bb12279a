import { useEffect, useRef, useSyncExternalStore } from 'react'

let said = ''
const listeners = new Set<() => void>()

/** Says something to who does not see the page, in the one live region of the window. */
export function announce(words: string): void {
  if (!words) return
  // The same words once more are a change only if they differ by something that is not read.
  said = said === words ? `${words}\u00a0` : words
  for (const listener of listeners) listener()
}

const subscribe = (listener: () => void) => {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

export const useAnnounced = (): string => useSyncExternalStore(subscribe, () => said)

/** Says these words whenever they change; those that a page opens with are read on the page. */
export function useAnnounce(words: string | undefined): void {
  const before = useRef(words)
  useEffect(() => {
    if (before.current !== undefined && words !== undefined && before.current !== words) announce(words)
    if (words !== undefined) before.current = words
  }, [words])
}
