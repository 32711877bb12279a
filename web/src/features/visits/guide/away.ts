import { useEffect } from 'react'

import { trueNow } from '../../../api/clock'
import type { Tap } from '../../../device/store'

const LOOKS_MS = 20_000

/** Tells by itself when nobody was at this device for so long that others may have been at the heater. */
export function useAway(last: Tap | undefined, awayMin: number, onAway: () => void) {
  useEffect(() => {
    if (!last) return
    const look = () => {
      if (document.visibilityState === 'visible' && trueNow().getTime() - Date.parse(last.at) >= awayMin * 60_000)
        onAway()
    }
    look()
    const again = setInterval(look, LOOKS_MS)
    document.addEventListener('visibilitychange', look)
    return () => {
      clearInterval(again)
      document.removeEventListener('visibilitychange', look)
    }
  }, [last, awayMin, onAway])
}
