import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { KINDS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { columnsOptions, useMatch } from './queries'

const BOX = 'my-1 h-9 w-full rounded-md border border-rule bg-sheet px-2'

/** What the words of a column mean is asked where it says the kind of heater. */
const meaning = (column: string, words: Schema['WordIn'][] = []) =>
  column === 'kind' && words.length > 0 ? { words } : {}

/** Which column of the file is what, and how it is written; asked once for such a file. */
export function Matching({ run }: { run: Schema['ImportOut'] }) {
  const known = useQuery(columnsOptions(run.kind)).data ?? []
  const match = useMatch(run.id)
  const [matches, setMatches] = useState<Schema['MatchIn'][]>(() =>
    run.columns.map(({ name, column, written, words }) => ({ name, column, written, ...meaning(column, words) })),
  )
  const faults = match.error instanceof ApiError ? match.error.fields : {}
  const missing = known.filter((one) => one.required && !matches.some((match) => match.column === one.name))
  const whose = known.filter((one) => one.is_whose).map((one) => one.name)
  const isNobodys = whose.length > 0 && !matches.some((match) => whose.includes(match.column))
  const change = (at: number, part: Partial<Schema['MatchIn']>) =>
    setMatches(matches.map((one, number) => (number === at ? { ...one, ...part } : one)))
  return (
    <form
      className="p-5"
      onSubmit={(event) => {
        event.preventDefault()
        match.mutate(matches)
      }}
    >
      <table className="w-full border-collapse">
        <thead className="text-left text-fine">
          <tr>
            <th className="border-b border-ink py-1.5">In the file</th>
            <th className="border-b border-ink">It begins with</th>
            <th className="w-60 border-b border-ink">It is</th>
            <th className="w-56 border-b border-ink pl-3">Written in</th>
          </tr>
        </thead>
        <tbody>
          {run.columns.map((one, at) => {
            const chosen = matches[at]!
            const column = known.find((column) => column.name === chosen.column)
            const ways = column?.ways ?? []
            return (
              <tr key={one.name} className="border-b border-line">
                <th scope="row" className="py-1.5 pr-3 text-left font-bold">
                  {one.name}
                  {(one.heater ?? 1) > 1 && column && (
                    <span className="block text-fine font-normal text-soft">of a row’s heater {one.heater}</span>
                  )}
                  {faults[one.name] && faults[one.name] !== '?' && (
                    <span className="block text-fine font-semibold text-oxide">{faults[one.name]}</span>
                  )}
                </th>
                <td className="pr-3 text-soft">{one.samples.filter(Boolean).join(' · ') || 'nothing'}</td>
                <td>
                  <select
                    aria-label={`${one.name} is`}
                    className={BOX}
                    value={chosen.column}
                    onChange={(event) =>
                      change(at, { column: event.target.value, written: '', ...meaning(event.target.value, one.words) })
                    }
                  >
                    <option value="">leave it out</option>
                    {known.map((column) => (
                      <option key={column.name} value={column.name}>
                        {column.words}
                        {column.required ? ' (needed)' : column.many && ' (may be several)'}
                      </option>
                    ))}
                  </select>
                </td>
                <td className="pl-3">
                  {ways.length > 1 && (
                    <select
                      aria-label={`${one.name} is written in`}
                      className={BOX}
                      value={chosen.written ?? ''}
                      onChange={(event) => change(at, { written: event.target.value })}
                    >
                      {ways.map((way) => (
                        <option key={way} value={way}>
                          {way || column?.own}
                        </option>
                      ))}
                    </select>
                  )}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {run.kind === 'list' &&
        matches.map(
          (one, at) =>
            one.column === 'kind' && (
              <Meanings
                key={one.name}
                name={one.name}
                words={one.words ?? []}
                onChange={(words) => change(at, { words })}
              />
            ),
        )}
      {match.error && (
        <p role="alert" className="mt-3 border-l-4 border-oxide pl-3 font-semibold text-oxide">
          {match.error.message}
        </p>
      )}
      {/* A list has thirty columns, and most are right as they were guessed. */}
      <div className="sticky bottom-0 -mx-5 mt-4 flex items-center gap-4 border-t border-rule bg-sheet px-5 py-3">
        <Button look="main" type="submit" disabled={match.isPending || missing.length > 0}>
          Check the file so
        </Button>
        <p className="text-soft">
          {missing.length > 0
            ? `Still to say which is the ${missing.map((one) => one.words).join(', the ')}.`
            : isNobodys
              ? 'No column says who a customer is or where: such a row comes in only if a title above the columns does.'
              : 'It is remembered for the next file with these columns.'}
        </p>
      </div>
    </form>
  )
}

interface MeaningsProps {
  /** Of the column; a file has one for each heater of a row. */
  name: string
  words: Schema['WordIn'][]
  onChange: (words: Schema['WordIn'][]) => void
}

/** What each word for a kind of heater means; asked once, and remembered. */
function Meanings({ name, words, onChange }: MeaningsProps) {
  return (
    <fieldset className="mt-5">
      <legend className="font-bold">What the words under “{name}” mean</legend>
      <ul className="mt-2 grid max-w-4xl grid-cols-2 gap-x-8">
        {words.map((one, at) => (
          <li key={one.said} className="grid grid-cols-[1fr_1.2fr] items-center gap-3 border-b border-line">
            <span className="wrap-break-word">{one.said || 'nothing'}</span>
            <select
              aria-label={`${one.said} means`}
              className={BOX}
              value={one.means}
              onChange={(event) =>
                onChange(words.map((word, place) => (place === at ? { ...word, means: event.target.value } : word)))
              }
            >
              {Object.entries(KINDS).map(([kind, name]) => (
                <option key={kind} value={kind}>
                  {name}
                </option>
              ))}
              <option value="unknown">nobody knows: look first</option>
            </select>
          </li>
        ))}
      </ul>
    </fieldset>
  )
}
