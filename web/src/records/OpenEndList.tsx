import clsx from 'clsx'
import { useState } from 'react'

import type { Schema } from '../api/client'
import { useCompany, useMay } from '../session/session'
import { dateWords } from '../lib/dates'
import { Button } from '../ui/Button'
import { Choice, Field } from '../ui/Field'
import { useMoveOpenEnd, useRaiseOpenEnd } from './openEndQueries'

export const SEVERITIES: Record<Schema['Severity'], string> = {
  danger: 'danger',
  defect: 'to be put right',
  note: 'worth knowing',
}
export const OPEN_END_KINDS: Record<Schema['OpenEndKind'], string> = {
  defect: 'defect',
  temporary_fix: 'temporary fix',
  missing_part: 'missing part',
  doubtful_part: 'part of a doubtful build',
  to_ask: 'to be asked',
}

interface Props {
  openEnds: Schema['OpenEndOut'][]
  /** Where a new one would be raised; nothing where none can be. */
  at?: { heater_id?: number; site_id?: number }
}

/** What is not in order at a place, each to be arranged or closed on the spot. */
export function OpenEndList({ openEnds, at }: Props) {
  const records = useMay('record_place')
  const [raising, setRaising] = useState(false)
  return (
    <>
      <ul className="mt-1 space-y-3">
        {openEnds.map((one) => (
          <li
            key={one.id}
            className={clsx(
              'border-l-4 pl-3',
              one.severity === 'danger' ? 'border-oxide' : one.severity === 'defect' ? 'border-copper' : 'border-rule',
            )}
          >
            <OpenEndLines one={one} withHeater={!at?.heater_id} />
            {records && <Moves one={one} />}
          </li>
        ))}
        {openEnds.length === 0 && <li className="text-soft">Nothing is open here.</li>}
      </ul>
      {records && at && !raising && (
        <Button look="quiet" className="mt-2 -ml-2" onClick={() => setRaising(true)}>
          Add an open issue
        </Button>
      )}
      {raising && at && <Raise at={at} onDone={() => setRaising(false)} />}
    </>
  )
}

export function OpenEndLines({ one, withHeater = true }: { one: Schema['OpenEndOut']; withHeater?: boolean }) {
  const { today } = useCompany()
  return (
    <>
      <p className={`leading-snug ${one.severity === 'danger' ? 'font-semibold text-oxide' : ''}`}>{one.words}</p>
      <p className="text-fine text-soft">
        {OPEN_END_KINDS[one.kind as Schema['OpenEndKind']]}
        {withHeater && one.heater && ` · ${one.location || one.heater}`}
        {` · since ${dateWords(one.raised_on, today)}`}
        {one.state === 'arranged' && ' · arranged'}
        {one.promised_on && !one.closed_on && (
          <strong className="font-semibold text-ink"> · promised by {dateWords(one.promised_on, today)}</strong>
        )}
        {one.closed_on && ` · closed ${dateWords(one.closed_on, today)}: ${one.how_closed}`}
        {one.photographs.map((id, place) => (
          <a
            key={id}
            href={`/api/attachments/${id}/file`}
            target="_blank"
            rel="noreferrer"
            className="ml-2 inline-block py-0.5 text-copper-deep underline"
          >
            {one.photographs.length > 1 ? `Photograph ${place + 1}` : 'Photograph'}
          </a>
        ))}
      </p>
    </>
  )
}

export function Moves({ one }: { one: Schema['OpenEndOut'] }) {
  const move = useMoveOpenEnd()
  const [closing, setClosing] = useState(false)
  const [how, setHow] = useState('')
  if (closing) {
    return (
      <form
        className="mt-1 flex items-end gap-2"
        onKeyDown={(event) => event.key === 'Escape' && setClosing(false)}
        onSubmit={(event) => {
          event.preventDefault()
          move.mutate({ id: one.id, state: 'closed', how }, { onSuccess: () => setClosing(false) })
        }}
      >
        <Field
          className="min-w-0 flex-1"
          label="How was it put right?"
          value={how}
          maxLength={240}
          onChange={(event) => setHow(event.target.value)}
          fault={move.error?.message}
          autoFocus
        />
        <Button type="submit" look="main" className="px-3" disabled={move.isPending}>
          Close
        </Button>
        <Button look="quiet" onClick={() => setClosing(false)}>
          Not now
        </Button>
      </form>
    )
  }
  return (
    <p className="-ml-2">
      {one.state === 'open' && (
        <Button
          look="quiet"
          className="min-h-7"
          aria-label={`Arranged: ${one.words}`}
          onClick={() => move.mutate({ id: one.id, state: 'arranged', how: '' })}
        >
          Arranged
        </Button>
      )}
      {one.state !== 'closed' && (
        <Button look="quiet" className="min-h-7" aria-label={`Close …: ${one.words}`} onClick={() => setClosing(true)}>
          Close …
        </Button>
      )}
      {one.state === 'closed' && (
        <Button
          look="quiet"
          className="min-h-7"
          aria-label={`Open again: ${one.words}`}
          onClick={() => move.mutate({ id: one.id, state: 'open', how: '' })}
        >
          Open again
        </Button>
      )}
      {move.error && (
        <span role="alert" className="text-oxide">
          {move.error.message}
        </span>
      )}
    </p>
  )
}

function Raise({ at, onDone }: { at: { heater_id?: number; site_id?: number }; onDone: () => void }) {
  const raise = useRaiseOpenEnd()
  const [words, setWords] = useState('')
  const [kind, setKind] = useState<Schema['OpenEndKind']>('defect')
  const [severity, setSeverity] = useState<Schema['Severity']>('defect')
  return (
    <form
      className="mt-3 space-y-2 rounded-md border border-line p-3"
      onSubmit={(event) => {
        event.preventDefault()
        raise.mutate({ ...at, words, kind, severity }, { onSuccess: onDone })
      }}
    >
      <Field
        label="What is not in order"
        value={words}
        maxLength={400}
        onChange={(event) => setWords(event.target.value)}
        fault={raise.error?.message}
        autoFocus
      />
      <div className="grid grid-cols-2 gap-2">
        <Choice label="Kind" value={kind} onChange={(event) => setKind(event.target.value as Schema['OpenEndKind'])}>
          {Object.entries(OPEN_END_KINDS).map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </Choice>
        <Choice
          label="How bad"
          value={severity}
          onChange={(event) => setSeverity(event.target.value as Schema['Severity'])}
        >
          {Object.entries(SEVERITIES).map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </Choice>
      </div>
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={words.trim().length < 3 || raise.isPending}>
          Note it
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
