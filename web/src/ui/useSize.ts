import { useLayoutEffect, useState } from 'react'

/** A frame and how large it is on the screen, so that a drawing can fill it; the frame may appear later. */
export function useSize() {
  const [frame, setFrame] = useState<HTMLDivElement | null>(null)
  const [size, setSize] = useState({ width: 0, height: 0 })
  useLayoutEffect(() => {
    if (!frame) return
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height })
    })
    observer.observe(frame)
    return () => observer.disconnect()
  }, [frame])
  return [setFrame, size] as const
}
