import clsx from 'clsx'
import { useEffect } from 'react'

import { setLastChange, useLastChange } from '../api/lastChange'
import { useUndo } from '../records/placeQueries'
import { Button } from '../ui/Button'
import { useMay } from '../session/session'

const SHOWN_MS = 20_000

/** Below every screen of the office, for a while after a change: one step back. */
export function TakeBack() {
  const change = useLastChange()
  const edits = useMay('keep_own_account')
  const undo = useUndo()
  useEffect(() => {
    if (!change || undo.isPending || undo.error) return
    const timer = window.setTimeout(() => setLastChange(null), SHOWN_MS)
    return () => window.clearTimeout(timer)
  }, [change, undo.isPending, undo.error])
  if (!change || !edits) return null
  const away = () => {
    undo.reset()
    setLastChange(null)
  }
  return (
    <div
      role="status"
      className={clsx(
        'fixed bottom-4 left-1/2 z-30 flex -translate-x-1/2 items-center gap-2 rounded-md',
        'border border-ink bg-sheet py-1.5 pr-2 pl-4 shadow-lg',
      )}
    >
      <span>{undo.error ? undo.error.message : 'Saved.'}</span>
      {!undo.error && (
        <Button look="quiet" disabled={undo.isPending} onClick={() => undo.mutate(change)}>
          Take it back
        </Button>
      )}
      <Button look="quiet" className="text-soft" onClick={away}>
        {undo.error ? 'Close' : 'Keep it'}
      </Button>
    </div>
  )
}
