import clsx from 'clsx'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { withDays } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { useDecideRows, useTakeSheet } from './queries'

/** What a row says whose customer may be another than the one of that name. */
export const DOUBTFUL = 'perhaps another customer'

export const ACTIONS: Record<Schema['RowAction'], string> = {
  create: 'new',
  change: 'changed',
  same: 'as it is',
  refuse: 'refused',
  left_out: 'left out',
}

/** A workbook has several sheets: the one that is read, and the others. */
export function Sheets({ run }: { run: Schema['ImportOut'] }) {
  const take = useTakeSheet(run.id)
  return (
    <p className="mt-2 flex items-center gap-2">
      <label className="flex items-center gap-2">
        Sheet
        <select
          value={run.sheet}
          disabled={take.isPending}
          onChange={(event) => take.mutate(event.target.value)}
          className="h-8 rounded-md border border-rule bg-sheet px-2"
        >
          {run.sheet === '' && <option value="">the fullest and those with its columns</option>}
          {run.sheets.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
      </label>
      {take.error && (
        <span role="alert" className="font-semibold text-oxide">
          {take.error.message}
        </span>
      )}
    </p>
  )
}

/** Whether a row's customer is the one of the same name, told together once some are ticked off. */
function useDoubts(run: Schema['ImportOut']) {
  const decide = useDecideRows(run.id)
  const [said, setSaid] = useState<Record<number, boolean>>({})
  return {
    said,
    say: (number: number, same: boolean) => setSaid((before) => ({ ...before, [number]: same })),
    count: Object.keys(said).length,
    tell: () => decide.mutate(Object.entries(said).map(([number, same]) => ({ number: Number(number), same }))),
    decide,
  }
}

export function Rows({
  run,
  rows,
  total,
}: {
  run: Schema['ImportOut']
  rows: Schema['ImportRowOut'][]
  total: number
}) {
  const doubts = useDoubts(run)
  return (
    <>
      {doubts.count > 0 && (
        <p className="sticky top-0 z-10 flex items-center gap-3 border-b border-ink bg-ground px-5 py-2">
          <Button look="main" disabled={doubts.decide.isPending} onClick={doubts.tell}>
            {doubts.count === 1 ? 'Check it so' : `Check all ${doubts.count} so`}
          </Button>
          {doubts.decide.error && (
            <span role="alert" className="font-semibold text-oxide">
              {doubts.decide.error.message}
            </span>
          )}
        </p>
      )}
      <RowTable run={run} rows={rows} total={total} doubts={doubts} />
    </>
  )
}

/** What is kept of a row: figures side by side, what somebody wrote and what was not understood in lines alone. */
function Kept({ detail }: { detail: Schema['ImportRowOut']['detail'] }) {
  const told = inOrder(detail)
  const [figures, lines] = [
    told.filter(([column, what]) => isFigure(column, what)),
    told.filter((one) => !isFigure(...one)),
  ]
  const words = ([column, what]: [string, unknown]) => (
    <>
      <strong>{column}</strong>{' '}
      {Array.isArray(what) ? `${kept(what[0])} → ${kept(what[1])}` : isTheirs(column) ? said(what) : kept(what)}
    </>
  )
  return (
    <>
      {figures.length > 0 && (
        <p className="flex flex-wrap gap-x-4">
          {figures.map((one) => (
            <span key={one[0]}>{words(one)}</span>
          ))}
        </p>
      )}
      {lines.map((one) => (
        <p key={one[0]}>{words(one)}</p>
      ))}
    </>
  )
}

/** Whether it is told in a word or two. */
function isFigure(column: string, what: unknown): boolean {
  if (Array.isArray(what) || isSentence(column) || /^heater \d/.test(column)) return false
  return column === 'heater' || String(what).length < 40
}

function RowTable({
  run,
  rows,
  total,
  doubts,
}: {
  run: Schema['ImportOut']
  rows: Schema['ImportRowOut'][]
  total: number
  doubts: ReturnType<typeof useDoubts>
}) {
  return (
    <table className="w-full border-collapse">
      <thead className="sticky top-0 bg-ground text-left text-fine">
        <tr>
          <th className="w-20 border-b border-ink py-1.5 pl-5">Row</th>
          <th className="w-32 border-b border-ink">What happens</th>
          <th className="w-56 border-b border-ink">Which</th>
          <th className="border-b border-ink pr-5">As it is kept, and why</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.number} className="border-b border-line align-top">
            <td className="py-1.5 pl-5">{row.number}</td>
            <td className={row.action === 'refuse' ? 'py-1.5 font-bold text-oxide' : 'py-1.5'}>
              {ACTIONS[row.action]}
            </td>
            <td className="py-1.5 pr-4">{row.key}</td>
            <td className="py-1.5 pr-5">
              <Kept detail={row.detail} />
              {DOUBTFUL in row.detail && run.state === 'checked' && (
                <span role="group" aria-label={`Row ${row.number}: the same customer?`} className="mt-1 flex gap-2">
                  {([true, false] as const).map((same) => (
                    <button
                      key={String(same)}
                      type="button"
                      aria-pressed={doubts.said[row.number] === same}
                      onClick={() => doubts.say(row.number, same)}
                      className={clsx(
                        'rounded-md border px-2.5 py-0.5',
                        doubts.said[row.number] === same ? 'border-copper font-bold' : 'border-rule',
                      )}
                    >
                      {same ? 'the same customer' : 'another one'}
                    </button>
                  ))}
                </span>
              )}
            </td>
          </tr>
        ))}
        {total > rows.length && (
          <tr>
            <td colSpan={4} className="px-5 py-3 text-soft">
              The first {rows.length} of {total} are shown.
            </td>
          </tr>
        )}
      </tbody>
    </table>
  )
}

/** How the values of a list are read: what it is first, what was not understood last. */
const ORDER = [
  'heater',
  'make',
  'serial',
  'where it stands',
  'on',
  'understood',
  'said',
  'put in',
  'last flush',
  'rod',
  'relief valve',
  'expansion tank',
  'input',
  'set at',
  'pressure',
  'hardness',
  'water',
  'people',
  'town',
  'telephone',
  'note',
]
const inOrder = (detail: Record<string, unknown>) => {
  const place = (name: string) => (ORDER.includes(name) ? ORDER.indexOf(name) : ORDER.length)
  return Object.entries(detail).toSorted(([one], [other]) => place(one) - place(other))
}

/** The office's own words, which nobody writes anew. */
const isTheirs = (column: string) => isSentence(column) || /^(make|serial|where it stands|town|telephone)$/.test(column)

/** Of those, what may be long. */
const isSentence = (column: string) => /^(said|note|left out|not understood)/.test(column)

const kept = (value: unknown) => withDays(said(value))

function said(value: unknown): string {
  if (value === null || value === undefined || value === '') return 'empty'
  return typeof value === 'string' ? value : JSON.stringify(value)
}
