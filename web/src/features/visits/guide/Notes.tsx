import { useState } from 'react'

import type { Tapped } from '../../../device/eventLog'
import type { Tap } from '../../../device/store'
import { Button } from '../../../ui/Button'
import { Sheet } from '../VisitShell'

/** A note that asks for something to be done on another day. */
export const ANOTHER_DAY = 'another_day'

interface Props {
  /** What was tapped at this visit and stands. */
  taps: Tap[]
  step: string
  onTell: (what: Tapped) => void
}

/** What no question asks for, in words: kept with the visit, or left for another day as an open issue. */
export function Notes({ taps, step, onTell }: Props) {
  const [words, setWords] = useState('')
  const keep = (name: string) => {
    onTell({ kind: 'noted', step, why: words.trim(), name })
    setWords('')
  }
  return (
    <Sheet>
      <label className="block">
        <span className="font-semibold">Note</span>
        <textarea
          rows={3}
          maxLength={300}
          value={words}
          placeholder="What is seen here, and where"
          onChange={(event) => setWords(event.target.value)}
          className="mt-1 w-full rounded-lg border-2 border-rule bg-ground p-3"
        />
      </label>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Button className="min-h-12 text-body" disabled={!words.trim()} onClick={() => keep('')}>
          Keep the note
        </Button>
        <Button className="min-h-12 text-body" disabled={!words.trim()} onClick={() => keep(ANOTHER_DAY)}>
          For another day
        </Button>
      </div>
      <p className="mt-2 text-body text-soft">
        A note stays with the visit. What is for another day becomes an open issue. Neither is on the customer’s report.
      </p>
      <Noted taps={taps} onBack={(of) => onTell({ kind: 'undo', of })} />
    </Sheet>
  )
}

/** The notes of a visit so far; one can be taken back while the visit is not saved. */
export function Noted({ taps, onBack }: { taps: Tap[]; onBack?: (of: string) => void }) {
  const noted = taps.filter((one) => one.kind === 'noted')
  if (noted.length === 0) return null
  return (
    <ul aria-label="Notes of this visit" className="mt-3 space-y-2 border-t border-line pt-3">
      {noted.map((one) => (
        <li key={one.clientId} className="flex items-start gap-3">
          <span className="min-w-0 flex-1 wrap-break-word">
            {one.why}
            {one.name === ANOTHER_DAY && <span className="block text-body text-soft">for another day</span>}
          </span>
          {onBack && (
            <Button
              className="min-h-11 text-body"
              aria-label={`Take back: ${one.why}`}
              onClick={() => onBack(one.clientId)}
            >
              Take back
            </Button>
          )}
        </li>
      ))}
    </ul>
  )
}
