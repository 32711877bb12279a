import { useSyncExternalStore } from 'react'

const KEPT_AS = 'single-keys'
const listeners = new Set<() => void>()

/**
 * Whether a letter alone does something on a page. Who speaks to the machine types letters without meaning to, and may
 * put that off: with Alt the same keys always work.
 */
export const singleKeysWork = (): boolean => localStorage.getItem(KEPT_AS) !== 'off'

export function setSingleKeys(work: boolean): void {
  if (work) localStorage.removeItem(KEPT_AS)
  else localStorage.setItem(KEPT_AS, 'off')
  for (const tell of listeners) tell()
}

export const useSingleKeys = (): boolean =>
  useSyncExternalStore((tell) => {
    listeners.add(tell)
    return () => void listeners.delete(tell)
  }, singleKeysWork)

/** Whether a key was meant for the page: not typed into a field, and with Alt or where letters alone work. */
export function isForThePage(event: KeyboardEvent): boolean {
  const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select, [role=dialog]')
  if (typing || event.ctrlKey || event.metaKey) return false
  return event.altKey || singleKeysWork()
}
