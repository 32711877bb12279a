import { useState } from 'react'

import type { Schema } from '../../../api/client'
import { useLate, useNotDone } from '../../../records/roundQueries'
import { duration } from '../../../records/roundWords'

const LATER = [10, 20, 30, 45, 60, 90]
const NOT_DONE: [Schema['NotDone'], string][] = [
  ['nobody_home', 'No one home'],
  ['no_access', 'Could not get to it'],
  ['not_safe', 'Not safe to work'],
  ['part_missing', 'A part is missing'],
  ['declined', 'They do not want it'],
]

/** The day goes otherwise: later, or not at all. The customer is told by the office's messages. */
export function Otherwise({ one }: { one: Schema['AppointmentOut'] }) {
  const late = useLate()
  const notDone = useNotDone()
  const [open, setOpen] = useState<'' | 'late' | 'not done'>('')
  const [words, setWords] = useState('')
  const error = late.error ?? notDone.error
  const chip = 'min-h-11 rounded-lg border border-rule px-3 font-semibold disabled:opacity-55'
  const done = { onSuccess: () => setOpen('') }
  return (
    <div className="mt-1">
      <p className="flex gap-2">
        <button
          type="button"
          aria-expanded={open === 'late'}
          className="min-h-11 flex-1 text-soft underline"
          onClick={() => setOpen(open === 'late' ? '' : 'late')}
        >
          Running late
        </button>
        <button
          type="button"
          aria-expanded={open === 'not done'}
          className="min-h-11 flex-1 text-soft underline"
          onClick={() => setOpen(open === 'not done' ? '' : 'not done')}
        >
          Could not do it
        </button>
      </p>
      {open === 'late' && (
        <div role="group" aria-label="How much later" className="flex flex-wrap gap-2">
          {LATER.map((minutes) => (
            <button
              key={minutes}
              type="button"
              className={chip}
              disabled={late.isPending}
              onClick={() => late.mutate({ id: one.id, minutes }, done)}
            >
              {duration(minutes)}
            </button>
          ))}
        </div>
      )}
      {open === 'not done' && (
        <div role="group" aria-label="Why not" className="space-y-2">
          <label className="block">
            <span className="text-body">What the office should know</span>
            <input
              value={words}
              maxLength={200}
              onChange={(event) => setWords(event.target.value)}
              className="h-11 w-full rounded-lg border border-rule bg-ground px-3"
            />
          </label>
          <p className="flex flex-wrap gap-2">
            {NOT_DONE.map(([why, says]) => (
              <button
                key={why}
                type="button"
                className={chip}
                disabled={notDone.isPending}
                onClick={() => notDone.mutate({ id: one.id, why, words }, done)}
              >
                {says}
              </button>
            ))}
          </p>
        </div>
      )}
      {late.data && !error && (
        <p role="status" className="text-body">
          {late.data.length === 1 ? 'Only this visit is later.' : `${late.data.length} visits are later.`} Who was
          promised a time that is missed is told.
        </p>
      )}
      {error && (
        <p role="alert" className="text-body font-semibold text-oxide">
          {error.message} If there is no signal, ring the office.
        </p>
      )}
    </div>
  )
}
