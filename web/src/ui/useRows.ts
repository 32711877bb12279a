import { useEffect, useRef, type KeyboardEvent, type RefObject } from 'react'

interface Settings {
  /** How many rows there are, drawn or not. */
  count: number
  /** Draws a row that may not be in view. */
  reach?: (row: number) => void
  /** Whether they stand side by side: left and right go from one to the next, too. */
  across?: boolean
}

const PAGE = 10
const CONTROLS = 'a[href], button, input, select, textarea, [role=button]'

/**
 * A long list is one stop of the Tab key: arrows, Page, Home and End go from row to row and stay on the same control.
 * Rows carry `data-row`, their number. Who was in a row that goes away is on the one that takes its place.
 */
export function useRows(list: RefObject<HTMLElement | SVGElement | null>, { count, reach, across }: Settings) {
  const current = useRef(0)
  const inside = useRef(false)
  useEffect(() => {
    const element = list.current as HTMLElement | null
    if (!element) return
    const settle = () => {
      const rows = rowsOf(element)
      const stop = rows.find((one) => numberOf(one) === current.current) ?? rows[0]
      for (const row of rows) for (const control of controlsOf(row)) control.tabIndex = row === stop ? 0 : -1
      if (inside.current && stop && document.activeElement === document.body) controlsOf(stop)[0]?.focus()
    }
    const onFocusIn = (event: FocusEvent) => {
      const row = (event.target as Element).closest<HTMLElement>('[data-row]')
      inside.current = row !== null
      if (!row) return
      current.current = numberOf(row)
      settle()
    }
    const onFocusOut = (event: FocusEvent) => {
      if (event.relatedTarget instanceof Node && !element.contains(event.relatedTarget)) inside.current = false
    }
    settle()
    const observer = new MutationObserver(settle)
    observer.observe(element, { childList: true, subtree: true })
    element.addEventListener('focusin', onFocusIn)
    element.addEventListener('focusout', onFocusOut)
    return () => {
      observer.disconnect()
      element.removeEventListener('focusin', onFocusIn)
      element.removeEventListener('focusout', onFocusOut)
    }
  }, [list])
  return (event: KeyboardEvent) => {
    const target = event.target as HTMLElement
    if (target.matches('input, textarea, select') || event.altKey || event.ctrlKey || event.metaKey) return
    const row = target.closest<HTMLElement>('[data-row]')
    const at = row ? numberOf(row) : current.current
    const next = nextRow(across ? (ACROSS[event.key] ?? event.key) : event.key, at, count)
    if (next === null) return
    event.preventDefault()
    const column = row ? controlsOf(row).indexOf(target) : 0
    current.current = next
    reach?.(next)
    focusRow(list.current, next, Math.max(column, 0), 20)
  }
}

const ACROSS: Record<string, string> = { ArrowRight: 'ArrowDown', ArrowLeft: 'ArrowUp' }

function nextRow(key: string, at: number, count: number): number | null {
  const step: Record<string, number> = {
    ArrowDown: at + 1,
    ArrowUp: at - 1,
    PageDown: at + PAGE,
    PageUp: at - PAGE,
    Home: 0,
    End: count - 1,
  }
  const next = step[key]
  return next === undefined ? null : Math.min(Math.max(next, 0), count - 1)
}

/** A row that is drawn late is waited for. */
function focusRow(list: Element | null, row: number, column: number, tries: number): void {
  const found = list?.querySelector<HTMLElement>(`[data-row="${row}"]`)
  if (!found) {
    if (tries > 0) requestAnimationFrame(() => focusRow(list, row, column, tries - 1))
    return
  }
  const controls = controlsOf(found)
  const control = controls[Math.min(column, controls.length - 1)]
  control?.focus()
  // Not in every environment of tests.
  control?.scrollIntoView?.({ block: 'nearest' })
}

const rowsOf = (list: Element) => [...list.querySelectorAll<HTMLElement>('[data-row]')]
const numberOf = (row: HTMLElement) => Number(row.dataset.row)
const controlsOf = (row: HTMLElement) =>
  row.matches(CONTROLS) ? [row] : [...row.querySelectorAll<HTMLElement>(CONTROLS)]
