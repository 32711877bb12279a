import { useVirtualizer } from '@tanstack/react-virtual'
import type { RefObject } from 'react'
import { useEffect } from 'react'

import { useRows } from './useRows'

const OVERSCAN = 12
/** So many rows before the end the next page is fetched. */
const NEAR_END = 30

interface Settings {
  count: number
  /** Of a row, at the least, in pixels. */
  height: number
  onNearEnd: () => void
}

/** A list of any length of which only what is in sight is drawn; arrows go from row to row. */
export function useLongRows(scroller: RefObject<HTMLElement | null>, { count, height, onNearEnd }: Settings) {
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualiser is meant to be read on every render
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    // Where letters stand wider apart, or names are long, a row is as high as its words.
    measureElement: (element) => Math.max(element.getBoundingClientRect().height, height),
    overscan: OVERSCAN,
  })
  const items = virtual.getVirtualItems()
  const onKeyDown = useRows(scroller, { count, reach: (row) => virtual.scrollToIndex(row) })
  const lastShown = items.at(-1)?.index ?? 0
  useEffect(() => {
    if (lastShown >= count - NEAR_END) onNearEnd()
  }, [lastShown, count, onNearEnd])
  return { virtual, items, onKeyDown }
}
