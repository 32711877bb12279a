import { useEffect } from 'react'

import { useMe } from '../../session/session'
import type { EventLog } from '../../device/eventLog'
import { sendKept } from '../../device/unsent'

const SOON_MS = 1200
const AGAIN_MS = 12_000

/** While a visit is on the screen, its taps are told soon and what others told is asked for. */
export function useTelling({ unsent, visit: { waits } }: EventLog) {
  const me = useMe()
  useEffect(() => {
    // Without a signal it is known to wait; it is sent when there is one.
    if (unsent === 0 || (waits && !navigator.onLine)) return
    const soon = setTimeout(() => void sendKept(me.id), SOON_MS)
    return () => clearTimeout(soon)
  }, [unsent, waits, me.id])
  useEffect(() => {
    void sendKept(me.id)
    const again = setInterval(() => void sendKept(me.id), AGAIN_MS)
    return () => clearInterval(again)
  }, [me.id])
}
