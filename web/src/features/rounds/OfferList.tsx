import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { previewOptions, useOffer } from '../../records/roundQueries'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'

const WAYS: Record<Schema['Way'], string> = {
  email: 'e-mail',
  text: 'text',
  call: 'to be called',
  never: 'not reached at all',
}

/** Everybody who would be written to, with what: nobody is written to before somebody has looked. */
export function OfferList({ first, last, onDone }: { first: string; last: string; onDone: () => void }) {
  const { data, error, refetch } = useQuery(previewOptions({ first, last }))
  const offer = useOffer()
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set())
  const [shown, setShown] = useState<number | null>(null)
  const [later, setLater] = useState('')
  const [toCall, setToCall] = useState(0)
  if (offer.data)
    return (
      <div className="mt-3">
        <p role="status">
          {offer.data.written} written. They go out in five minutes{later && ', or when you said'}; until then each can
          be recalled from the list. {toCall > 0 && `${toCall} are to be called.`}
        </p>
        <Button look="main" className="mt-3" onClick={onDone}>
          To the list
        </Button>
      </div>
    )
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="who would be written to" />
  const writes = data.filter((one) => one.way === 'email' || one.way === 'text')
  const chosen = writes.filter((one) => !left.has(one.appointment_id))
  if (data.length === 0)
    return <p className="mt-3 text-soft">No visit of the coming fortnight has a time that nobody was told yet.</p>
  const toggle = (id: number) =>
    setLeft((now) => new Set(now.has(id) ? [...now].filter((one) => one !== id) : [...now, id]))
  return (
    <div className="mt-2">
      <p className="text-soft">
        {chosen.length} of {writes.length} are written to; {data.length - writes.length} are to be called instead.
      </p>
      <ul aria-label="Offers" className="mt-2 max-h-[46vh] overflow-y-auto border-y border-line">
        {data.map((one) => (
          <li key={one.appointment_id} className="border-b border-line py-1">
            <div className="flex items-baseline gap-3">
              <label className="flex min-w-0 flex-1 items-baseline gap-2">
                <input
                  type="checkbox"
                  className="size-4 shrink-0 translate-y-0.5"
                  disabled={!writes.includes(one)}
                  checked={writes.includes(one) && !left.has(one.appointment_id)}
                  onChange={() => toggle(one.appointment_id)}
                />
                <strong className="wrap-break-word">{one.site}</strong>
                <span className="wrap-break-word text-soft">{one.times}</span>
              </label>
              <span className="text-soft">{WAYS[one.way]}</span>
              <Button
                look="quiet"
                className="min-h-7 px-1"
                aria-expanded={shown === one.appointment_id}
                aria-label={`What is said to ${one.customer}`}
                onClick={() => setShown(shown === one.appointment_id ? null : one.appointment_id)}
              >
                Its words
              </Button>
            </div>
            {shown === one.appointment_id && (
              <pre className="mt-1 rounded-md bg-sheet p-3 font-sans break-words whitespace-pre-wrap">{one.body}</pre>
            )}
          </li>
        ))}
      </ul>
      <div className="mt-3 flex items-end gap-4">
        <Field
          label="Send not before"
          type="datetime-local"
          className="w-60"
          hint="empty: in five minutes, outside quiet hours"
          value={later}
          onChange={(event) => setLater(event.target.value)}
        />
        <div className="flex-1" />
        <Button look="quiet" onClick={onDone}>
          Not now
        </Button>
        <Button
          look="main"
          disabled={chosen.length === 0 || offer.isPending}
          onClick={() => {
            setToCall(data.length - writes.length)
            offer.mutate({
              appointment_ids: chosen.map((one) => one.appointment_id),
              not_before: later ? new Date(later).toISOString() : null,
            })
          }}
        >
          Write to {chosen.length}
        </Button>
      </div>
      {offer.error && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {offer.error.message}
        </p>
      )}
    </div>
  )
}
