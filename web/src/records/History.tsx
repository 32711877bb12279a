import { useQuery } from '@tanstack/react-query'

import { useCompany, useMay } from '../session/session'
import type { Schema } from '../api/client'
import { clockIn, dateWords, dayIn } from '../lib/dates'
import { sentence } from '../lib/words'
import { Button } from '../ui/Button'
import { Failed, Loading } from '../ui/States'
import { historyOptions, useUndo, type Recorded } from './placeQueries'

/** Every change of a record with who and when; the last one can be taken back. */
export function History({ of, id }: { of: Recorded; id: number }) {
  const edits = useMay('edit_register')
  const { data, error, refetch } = useQuery(historyOptions(of, id))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="its history" />
  return <ChangeList changes={data} mayTakeBack={edits} />
}

/** Records that are named by what they are, too: a person has an account and a working week. */
const WITH_THEIR_KIND = new Set(['account', 'working week', 'absence', 'price', 'plan'])

function nameOf({ record, named }: Schema['RecordLineOut']): string {
  if (!named || record === 'heater') return record
  return WITH_THEIR_KIND.has(record) ? `${record} ${named}` : named
}

/** Changes, the newest first, which alone can be taken back. */
export function ChangeList({ changes, mayTakeBack }: { changes: Schema['RecordChangeOut'][]; mayTakeBack: boolean }) {
  const { today, timezone } = useCompany()
  const undo = useUndo()
  return (
    <>
      {undo.error && (
        <p role="alert" className="my-2 font-semibold text-oxide">
          {undo.error.message}
        </p>
      )}
      <ol className="space-y-3">
        {changes.map((change, at) => (
          <li key={change.change}>
            <p className="text-fine text-soft">
              {dateWords(dayIn(timezone, change.at), today)}, {clockIn(timezone, change.at)}
              {change.by && ` · ${change.by}`}
              {change.file && ` · from ${change.file}`}
              {at === 0 &&
                mayTakeBack &&
                !change.file &&
                change.lines.some((line) => line.done !== 'added' || line.record !== 'site') && (
                  <Button
                    look="quiet"
                    className="-my-2 text-fine"
                    disabled={undo.isPending}
                    onClick={() => undo.mutate(change.change)}
                  >
                    Take this back
                  </Button>
                )}
            </p>
            <ul>
              {change.lines.map((line, number) => (
                <li key={number} className="leading-snug">
                  {sentence(nameOf(line))}{' '}
                  {line.field ? (
                    <>
                      {line.field}: <span className="text-soft line-through">{line.before}</span> {line.after}
                    </>
                  ) : (
                    line.done
                  )}
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ol>
      {changes.length === 0 && <p className="text-soft">Nothing was changed since it was brought in.</p>}
    </>
  )
}
