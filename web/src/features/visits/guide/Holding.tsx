import { useState } from 'react'

import { Button } from '../../../ui/Button'
import type { Held } from './interlock'

interface Props {
  holding: Held[]
  may: boolean
  onSettle: (rule: string) => void
  onOverride: (why: string) => void
}

/** Why a step is not safe yet, and the way out of each reason as a button. */
export function Holding({ holding, may, onSettle, onOverride }: Props) {
  const [why, setWhy] = useState('')
  return (
    // Its words have the focus, not its way out: nobody takes that unread.
    <section role="alert" data-next tabIndex={-1} className="rounded-xl border-2 border-oxide bg-sheet p-4">
      <h2 className="text-title text-oxide">Not safe yet</h2>
      {holding.slice(0, 3).map((one) => (
        <div key={one.rule} className="mt-2">
          <p>{one.rule === 'needs' ? one.out_says : one.says}</p>
          {one.way_out.length > 0 ? (
            <Button
              look="main"
              className="mt-1.5 min-h-13 w-full px-3 py-2 whitespace-normal!"
              onClick={() => onSettle(one.rule)}
            >
              {one.rule === 'needs' ? 'Do that first' : one.out_says}
            </Button>
          ) : (
            one.rule !== 'needs' && <strong>{one.out_says}</strong>
          )}
        </div>
      ))}
      {may && (
        <details className="mt-3 text-body">
          <summary className="min-h-11 cursor-pointer py-2.5 text-soft">Override</summary>
          <form
            className="flex items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault()
              if (why.trim()) onOverride(why.trim())
            }}
          >
            <label className="min-w-0 flex-1">
              Reason for the override
              <input
                value={why}
                onChange={(event) => setWhy(event.target.value)}
                className="mt-1 block h-12 w-full rounded-lg border-2 border-rule bg-ground px-3"
              />
            </label>
            <Button type="submit" className="min-h-12" disabled={!why.trim()}>
              Override
            </Button>
          </form>
        </details>
      )}
    </section>
  )
}
