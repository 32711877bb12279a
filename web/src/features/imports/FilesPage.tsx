import clsx from 'clsx'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { shown } from '../../lib/units'
import { useCompany, useMay } from '../../session/session'
import { clockIn, dateWords, dayIn } from '../../lib/dates'
import { useAnnounce } from '../../ui/announce'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Field'
import { Empty, Failed, Loading } from '../../ui/States'
import { RegisterNav } from '../../records/RegisterNav'
import { ACTIONS, DOUBTFUL, Rows, Sheets } from './ImportRows'
import { Matching } from './Matching'
import { importsOptions } from '../../records/importQueries'
import {
  baseFilesOptions,
  columnsOptions,
  importOptions,
  importRowsOptions,
  useAskForBase,
  useDecide,
  useSendFile,
  type Shown,
} from './queries'

/** Files in whatever form an office keeps them. */
const OWN_LISTS: Record<string, string> = {
  list: 'our own list of heaters',
  jobs: 'our job book: what was done',
  places: 'where towns and postcodes are',
}
export const KINDS_OF_FILE = [
  'customers',
  'sites',
  'heaters',
  'zones',
  'water_tests',
  'visits',
  'features',
  'details',
] as const

/** Files in and out: send one and see what it would do row by row; take records out in the same columns. */
export function FilesPage() {
  const [address, setAddress] = useSearchParams()
  const run = Number(address.get('run')) || null
  const may = useMay('import')
  const whole = useMay('take_out')
  if (!may) return <Empty>Files are for the planner and the lead.</Empty>
  return (
    <div className="flex h-full flex-col">
      <RegisterNav />
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        <section className="w-[320px] shrink-0 space-y-7 overflow-y-auto border-r border-line p-5 narrow:w-full">
          <div>
            <h1 className="text-title">Import</h1>
            <SendForm onSent={(id) => setAddress({ run: String(id) })} />
          </div>
          <Sent chosen={run} onChoose={(id) => setAddress({ run: String(id) })} />
          <TakeOut />
          {whole && <WholeBase />}
        </section>
        <section aria-label="What the file would do" className="min-w-0 flex-1">
          {run ? <Run key={run} id={run} /> : <Explained />}
        </section>
      </div>
    </div>
  )
}

/** The files that were sent, by whom, and what became of each. */
function Sent({ chosen, onChoose }: { chosen: number | null; onChoose: (id: number) => void }) {
  const { today } = useCompany()
  const sent = useQuery(importsOptions).data ?? []
  if (sent.length === 0) return null
  return (
    <div>
      <h2>Files sent</h2>
      <ul className="mt-1">
        {sent.slice(0, 12).map((one) => (
          <li key={one.id}>
            <button
              type="button"
              aria-current={one.id === chosen}
              onClick={() => onChoose(one.id)}
              className={`w-full py-1 text-left leading-snug hover:underline ${one.id === chosen ? 'font-bold' : ''}`}
            >
              {one.file_name}{' '}
              <span className="block text-fine font-normal text-soft">
                {dateWords(one.started_at.slice(0, 10), today)}, {one.by} · {STATES[one.state]}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  )
}

/** Every kind of record in the columns that bring it in. */
function TakeOut() {
  return (
    <div>
      <h2>Export</h2>
      <p className="text-soft">As CSV, in the columns that bring them in again.</p>
      <p className="mt-1 flex flex-wrap gap-x-4 leading-6">
        {KINDS_OF_FILE.map((kind) => (
          <a
            key={kind}
            href={`/api/records/${kind}.csv`}
            download
            className="py-0.5 text-copper-deep underline underline-offset-2"
          >
            {kind.replace('_', ' ')}
          </a>
        ))}
        <a href="/api/readings.csv" download className="py-0.5 text-copper-deep underline underline-offset-2">
          readings
        </a>
      </p>
    </div>
  )
}

/** One archive with everything, to keep or to move to another installation. */
function WholeBase() {
  const { today, timezone } = useCompany()
  const files = useQuery(baseFilesOptions).data ?? []
  const ask = useAskForBase()
  return (
    <div>
      <h2>The whole base</h2>
      <p className="text-soft">
        Tables, cases, maps, address cards, photographs and papers in one archive; another installation reads it back.
      </p>
      <Button className="mt-2" disabled={ask.isPending} onClick={() => ask.mutate()}>
        Write it now
      </Button>
      {ask.error && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {ask.error.message}
        </p>
      )}
      <ul className="mt-2 space-y-1">
        {files.map((one) => (
          <li key={one.id}>
            {one.state === 'writing' && (
              <span className="flex items-center gap-3 text-soft">
                <progress
                  className="h-2.5 w-40"
                  max={one.total || 1}
                  value={one.done}
                  aria-label="Progress of the base file"
                />{' '}
                being written
              </span>
            )}
            {one.state === 'ready' && (
              <a href={`/api/base-files/${one.id}/file`} className="text-copper-deep underline underline-offset-2">
                {dateWords(dayIn(timezone, one.asked_at), today)}, {clockIn(timezone, one.asked_at)}
              </a>
            )}
            {one.state === 'ready' && <span className="text-soft"> {(one.bytes / 1e6).toFixed(1)} MB</span>}
            {one.state === 'failed' && (
              <span className="text-oxide">Could not be written; the server has noted why.</span>
            )}
          </li>
        ))}
      </ul>
    </div>
  )
}

function SendForm({ onSent }: { onSent: (id: number) => void }) {
  const [kind, setKind] = useState('list')
  const [file, setFile] = useState<File | null>(null)
  const send = useSendFile()
  return (
    <form
      className="mt-4 space-y-4"
      onSubmit={(event) => {
        event.preventDefault()
        if (file) send.mutate({ kind, file }, { onSuccess: (run) => onSent(run.id) })
      }}
    >
      <Choice label="It lists" value={kind} onChange={(event) => setKind(event.target.value)}>
        {Object.entries(OWN_LISTS).map(([one, words]) => (
          <option key={one} value={one}>
            {words}
          </option>
        ))}
        <optgroup label="One kind of record, by its code">
          {KINDS_OF_FILE.map((one) => (
            <option key={one} value={one}>
              {one.replace('_', ' ')}
            </option>
          ))}
        </optgroup>
      </Choice>
      <div>
        <label htmlFor="file" className="mb-1 block font-semibold">
          File <span className="font-normal text-soft">CSV or a workbook</span>
        </label>
        <input
          id="file"
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,.xls,.ods,.xml,.htm,.html,text/csv"
          onChange={(event) => setFile(event.target.files?.[0] ?? null)}
          className={clsx(
            'block w-full rounded-md border border-rule bg-sheet p-2 file:mr-3 file:rounded',
            'file:border-0 file:bg-ground file:px-3 file:py-1 file:font-semibold',
          )}
        />
      </div>
      <Button look="main" type="submit" disabled={!file || send.isPending}>
        {send.isPending ? 'Sending …' : 'See what it would do'}
      </Button>
      <p className="text-soft">Nothing is written until you have seen it and said so.</p>
      {send.error && (
        <p role="alert" className="border-l-4 border-oxide pl-3 font-semibold text-oxide">
          {send.error.message}
        </p>
      )}
    </form>
  )
}

function Run({ id }: { id: number }) {
  const queries = useQueryClient()
  const run = useQuery(importOptions(id))
  const decide = useDecide(id)
  const [shown, show] = useState<Shown>()
  const state = run.data?.state
  useAnnounce(state && STATES[state])
  const rows = useQuery({
    ...importRowsOptions(id, shown, state ?? ''),
    enabled: state === 'checked' || state === 'applied',
  })
  useEffect(() => {
    if (state === 'applied') void queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'imports' })
  }, [state, queries])
  if (run.error) return <Failed error={run.error} onRetry={() => void run.refetch()} />
  if (!run.data) return <Loading what="the file" />
  const { counts } = run.data
  const refused = counts.refuse ?? 0
  const changes = (counts.create ?? 0) + (counts.change ?? 0)
  return (
    <div className="flex h-full flex-col">
      <div className="border-b border-line p-5">
        <h2 className="text-lead">
          {run.data.file_name}
          {run.data.kind in OWN_LISTS ? '' : `, ${run.data.kind}`}: {STATES[run.data.state]}
        </h2>
        {(state === 'checking' || state === 'applying') && <Progress run={run.data} />}
        {run.data.message && (
          <p role="alert" className="mt-1 border-l-4 border-oxide pl-3">
            {run.data.message}
          </p>
        )}
        {Object.keys(counts).length > 0 && (
          <p className="mt-2 flex flex-wrap items-center gap-2">
            <Tally
              label="all rows"
              count={run.data.rows_total}
              on={shown === undefined}
              onPick={() => show(undefined)}
            />
            {(Object.keys(ACTIONS) as Schema['RowAction'][])
              .filter((action) => counts[action])
              .map((action) => (
                <Tally
                  key={action}
                  label={ACTIONS[action]}
                  count={counts[action] ?? 0}
                  on={shown === action}
                  onPick={() => show(action)}
                />
              ))}
            {(counts[DOUBTFUL] ?? 0) > 0 && (
              <Tally
                label="to decide: the same customer?"
                count={counts[DOUBTFUL] ?? 0}
                on={shown === 'doubtful'}
                onPick={() => show('doubtful')}
              />
            )}
          </p>
        )}
        {run.data.sheets.length > 1 && (state === 'matching' || state === 'checked') && (
          <Sheets key={run.data.sheet} run={run.data} />
        )}
        <div className="mt-3 flex gap-3">
          {state === 'checked' && refused === 0 && changes > 0 && (
            <Button look="main" disabled={decide.isPending} onClick={() => decide.mutate('confirm')}>
              Bring in all {changes} rows
            </Button>
          )}
          {state === 'checked' && refused > 0 && changes > 0 && (
            <Button disabled={decide.isPending} onClick={() => decide.mutate('confirm without refused')}>
              Bring in the {changes} right ones without them
            </Button>
          )}
          {refused > 0 && (state === 'checked' || state === 'applied') && (
            <Button look={state === 'checked' ? 'main' : 'plain'} asChild>
              <a href={`/api/imports/${id}/refused.csv`} download>
                {refused === 1 ? 'The refused row' : `The ${refused} refused rows`} as a file to mend
              </a>
            </Button>
          )}
          {state === 'checked' && run.data.matched && (
            <Button look="quiet" disabled={decide.isPending} onClick={() => decide.mutate('match again')}>
              Match its columns anew
            </Button>
          )}
          {run.data.can_undo && (
            <Button disabled={decide.isPending} onClick={() => decide.mutate('undo')}>
              Take it all out again
            </Button>
          )}
          {(state === 'checking' || state === 'matching' || state === 'checked') && (
            <Button disabled={decide.isPending} onClick={() => decide.mutate('cancel')}>
              Drop it
            </Button>
          )}
        </div>
        {decide.error && (
          <p role="alert" className="mt-2 font-semibold text-oxide">
            {decide.error.message}
          </p>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} role="region" aria-label="Rows of the file">
        {state === 'matching' && <Matching run={run.data} />}
        {rows.data && <Rows run={run.data} rows={rows.data.rows} total={rows.data.total} />}
      </div>
    </div>
  )
}

const STATES: Record<Schema['ImportState'], string> = {
  checking: 'being checked',
  matching: 'which column is what?',
  checked: 'checked, nothing written yet',
  applying: 'being brought in',
  applied: 'brought in, and forecast anew',
  refused: 'refused, nothing written',
  cancelled: 'dropped, nothing written',
  undone: 'taken out again',
}

function Progress({ run }: { run: Schema['ImportOut'] }) {
  return (
    <p className="mt-2 flex items-center gap-3 text-soft">
      <progress className="h-2.5 w-64" max={run.rows_total || 1} value={run.rows_done} aria-label="Progress" />
      {run.rows_total > 0 ? `${run.rows_done} of ${run.rows_total} rows` : 'reading the file'}
    </p>
  )
}

function Tally({ label, count, on, onPick }: { label: string; count: number; on: boolean; onPick: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onPick}
      className={`rounded-md border px-3 py-1 ${on ? 'border-copper font-bold' : 'border-line'}`}
    >
      {count} {label}
    </button>
  )
}

function Explained() {
  const [kind, setKind] = useState<string>('heaters')
  const { units } = useCompany()
  const columns = useQuery(columnsOptions(kind)).data ?? []
  return (
    <div className="h-full overflow-y-auto p-6" tabIndex={0} role="region" aria-label="What a file may have">
      <p className="max-w-2xl text-lead">
        Send the list as your office keeps it, as CSV, a workbook (XLSX, XLS, ODS) or a saved page: one row with
        customer, address and heaters. You are asked once what its columns and its words mean. Nothing is refused for a
        cell: what cannot be read stays as a note, and you see it before anything is written.
      </p>
      <p className="mt-3 max-w-2xl text-soft">
        A file with towns or postcodes and where they are puts the sites on the map; send it first or later.
      </p>
      <h2 className="mt-6">Or one kind of record at a time</h2>
      <p className="mt-1 max-w-2xl text-soft">
        Bring in customers first, then their sites, the heaters, and what visits found: each names the one before by its
        code. The first row names the columns, in any order and under any names: you are asked once which is which, and
        it is remembered.
      </p>
      <p className="mt-3 max-w-2xl text-soft">
        Units may stand in the cells ({shown(units, 'volume_l', 189)}) or be said for a whole column. A code that is on
        record changes its record; an empty cell empties it; a column left out leaves things as they are. Water tests,
        visits and features are added, never changed. A row of a visit is a finding, or a reading with its value; a row
        of details is one thing more that is told of a site, a heater, a part or a feature.
      </p>
      <div className="mt-5 flex items-center gap-4">
        <h2>Columns of</h2>
        {KINDS_OF_FILE.map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={one === kind}
            onClick={() => setKind(one)}
            className={one === kind ? 'font-bold' : 'text-copper-deep hover:underline'}
          >
            {one.replace('_', ' ')}
          </button>
        ))}
      </div>
      <ul className="mt-2 max-w-4xl columns-3 gap-8">
        {columns.map((one) => (
          <li key={one.name} className={one.required ? 'font-bold' : ''}>
            {one.name}
            {one.required && <span className="font-normal text-soft"> needed</span>}
          </li>
        ))}
      </ul>
    </div>
  )
}
