import clsx from 'clsx'
import { useEffect, useRef, useState } from 'react'

import { setLastChange, useLastChange } from '../api/lastChange'
import { useUndo } from '../records/placeQueries'
import { announce } from '../ui/announce'
import { Button } from '../ui/Button'
import { useMay } from '../session/session'

const SHOWN_MS = 20_000

/** Below every screen of the office, for a while after a change: one step back. */
export function TakeBack() {
  const change = useLastChange()
  const edits = useMay('keep_own_account')
  return change && edits ? <Offer key={change} change={change} /> : null
}

function Offer({ change }: { change: string }) {
  const undo = useUndo()
  const [held, setHeld] = useState(false)
  const { mutate, isPending, error } = undo
  const asked = useRef(false)
  useEffect(() => announce('Saved. Control and Z takes it back.'), [])
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select')
      if (event.key !== 'z' || !(event.ctrlKey || event.metaKey) || event.shiftKey || typing) return
      event.preventDefault()
      // A key that is held comes again and again.
      if (asked.current) return
      asked.current = true
      mutate(change)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [change, mutate])
  useEffect(() => {
    // Whoever is at it, by hand or by key, is not hurried.
    if (held || isPending || error) return
    const timer = window.setTimeout(() => setLastChange(null), SHOWN_MS)
    return () => window.clearTimeout(timer)
  }, [held, isPending, error])
  const away = () => {
    undo.reset()
    setLastChange(null)
  }
  return (
    <div
      role="group"
      aria-label="The last change"
      onPointerEnter={() => setHeld(true)}
      onPointerLeave={() => setHeld(false)}
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
      className={clsx(
        'fixed bottom-4 left-1/2 z-30 flex -translate-x-1/2 items-center gap-2 rounded-md',
        'border border-ink bg-sheet py-1.5 pr-2 pl-4 shadow-lg',
      )}
    >
      <span role={undo.error ? 'alert' : undefined}>{undo.error ? undo.error.message : 'Saved.'}</span>
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
