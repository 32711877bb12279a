import { useState } from 'react'

import type { Tap } from '../../../device/store'
import { Button } from '../../../ui/Button'
import { Sheet } from '../VisitShell'

interface Props {
  /** Questions and answers of this visit, in order. */
  taps: Tap[]
  step: string
  held: boolean
  /** The questions that can be asked are shown. */
  open: boolean
  onAsk: (why: string) => void
  onGoOn: (advice: Tap) => void
}

const minutesAgo = (at: string, now: number) => Math.max(0, Math.round((now - Date.parse(at)) / 60_000))

/** The lead is asked from the step, and answers into it. */
export function AskLead({ taps, step, held, open, onAsk, onGoOn }: Props) {
  const [words, setWords] = useState('')
  const [now] = useState(() => Date.now())
  const asked = taps.filter((one) => one.kind === 'asked' && one.step === step)
  const adviceOf = (one: Tap) => taps.find((other) => other.kind === 'advised' && other.of === one.clientId)
  const last = asked.at(-1)
  const waits = last && !adviceOf(last)
  return (
    <>
      {asked.map((one) => {
        const advice = adviceOf(one)
        return (
          <Sheet key={one.clientId}>
            <p className="text-body text-soft">
              You asked the lead, {minutesAgo(one.at, now)} min ago: {one.why}
            </p>
            {advice ? (
              <p className="mt-1" role="status">
                <strong>
                  {advice.by}: {advice.go_on ? 'go on.' : 'leave it.'}
                </strong>{' '}
                {advice.why}
              </p>
            ) : (
              <p className="mt-1" role="status">
                No answer yet. Without a signal, call; until then leave it safe.
              </p>
            )}
            {advice?.go_on && held && (
              <Button className="mt-2 min-h-12 w-full" onClick={() => onGoOn(advice)}>
                Go on, as {advice.by} said
              </Button>
            )}
          </Sheet>
        )
      })}
      {open && !waits && (
        <Sheet>
          <div className="space-y-2">
            {[
              held ? 'It is held: may I go on?' : 'Go on, or leave it?',
              'Please look at the photograph: what now?',
            ].map((one) => (
              <Button key={one} className="min-h-12 w-full text-body" onClick={() => onAsk(one)}>
                {one}
              </Button>
            ))}
            <form
              className="flex items-end gap-2"
              onSubmit={(event) => {
                event.preventDefault()
                if (words.trim()) onAsk(words.trim())
                setWords('')
              }}
            >
              <label className="min-w-0 flex-1 text-body">
                What you ask
                <input
                  maxLength={300}
                  value={words}
                  onChange={(event) => setWords(event.target.value)}
                  className="mt-1 block h-12 w-full rounded-lg border-2 border-rule bg-ground px-3"
                />
              </label>
              <Button type="submit" className="min-h-12" disabled={!words.trim()}>
                Ask
              </Button>
            </form>
          </div>
        </Sheet>
      )}
    </>
  )
}
