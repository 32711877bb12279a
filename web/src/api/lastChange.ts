import { useSyncExternalStore } from 'react'

/** The change that the last answer named, to take back while it is fresh. */
let last: string | null = null
const listeners = new Set<() => void>()

export function setLastChange(change: string | null) {
  last = change
  for (const tell of listeners) tell()
}

export const lastChange = (): string | null => last

export function useLastChange(): string | null {
  return useSyncExternalStore(
    (tell) => {
      listeners.add(tell)
      return () => listeners.delete(tell)
    },
    () => last,
  )
}
