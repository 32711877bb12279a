import { useQuery } from '@tanstack/react-query'

import { useCompany, useMay } from '../session/session'
import { dateWords } from '../lib/dates'
import { sentence } from '../lib/words'
import { Button } from '../ui/Button'
import { Failed, Loading } from '../ui/States'
import { historyOptions, useUndo, type Recorded } from './placeQueries'

/** Every change of a record with who and when; the last one can be taken back. */
export function History({ of, id }: { of: Recorded; id: number }) {
  const { today } = useCompany()
  const edits = useMay('edit_register')
  const { data, error, refetch } = useQuery(historyOptions(of, id))
  const undo = useUndo()
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="its history" />
  return (
    <>
      {undo.error && (
        <p role="alert" className="my-2 font-semibold text-oxide">
          {undo.error.message}
        </p>
      )}
      <ol className="space-y-3">
        {data.map((change, at) => (
          <li key={change.change}>
            <p className="text-fine text-soft">
              {dateWords(change.at.slice(0, 10), today)}, {change.at.slice(11, 16)}
              {change.by && ` · ${change.by}`}
              {change.file && ` · from ${change.file}`}
              {at === 0 &&
                edits &&
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
                  {sentence(line.named && line.record !== 'heater' ? line.named : line.record)}{' '}
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
      {data.length === 0 && <p className="text-soft">Nothing was changed since it was brought in.</p>}
    </>
  )
}
