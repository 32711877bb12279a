import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useMay } from '../../app/session'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Field'
import { Empty, Failed, Loading } from '../../ui/States'
import { importOptions, importRowsOptions, useDecide, useSendFile } from './queries'

/** Bringing in a file: send it, see what it would do row by row, then all of it or nothing. */
export function ImportPage() {
  const [address, setAddress] = useSearchParams()
  const run = Number(address.get('run')) || null
  const may = useMay('import files')
  if (!may) return <Empty>Bringing in files is for the planner and the lead.</Empty>
  return (
    <div className="flex h-full">
      <section className="w-[320px] shrink-0 border-r border-line p-5">
        <h1 className="text-title">Bring in a file</h1>
        <SendForm onSent={(id) => setAddress({ run: String(id) })} />
      </section>
      <section aria-label="What the file would do" className="min-w-0 flex-1">
        {run ? <Run key={run} id={run} /> : <Explained />}
      </section>
    </div>
  )
}

function SendForm({ onSent }: { onSent: (id: number) => void }) {
  const [kind, setKind] = useState('heaters')
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
        <option value="customers">customers</option>
        <option value="sites">sites</option>
        <option value="heaters">heaters</option>
      </Choice>
      <div>
        <label htmlFor="file" className="mb-1 block font-semibold">
          File <span className="font-normal text-soft">CSV, UTF-8</span>
        </label>
        <input id="file" type="file" accept=".csv,text/csv" onChange={(event) => setFile(event.target.files?.[0] ?? null)} className="block w-full rounded-md border border-rule bg-sheet p-2 file:mr-3 file:rounded file:border-0 file:bg-ground file:px-3 file:py-1 file:font-semibold" />
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

const ACTIONS: Record<Schema['RowAction'], string> = { create: 'new', change: 'changed', same: 'as it is', refuse: 'refused' }

function Run({ id }: { id: number }) {
  const queries = useQueryClient()
  const run = useQuery(importOptions(id))
  const decide = useDecide(id)
  const [shown, show] = useState<Schema['RowAction'] | undefined>()
  const state = run.data?.state
  const rows = useQuery({ ...importRowsOptions(id, shown, state ?? ''), enabled: state === 'checked' || state === 'applied' })
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
          {run.data.file_name}, {run.data.kind}: {STATES[run.data.state]}
        </h2>
        {(state === 'checking' || state === 'applying') && <Progress run={run.data} />}
        {run.data.message && (
          <p role="alert" className="mt-1 border-l-4 border-oxide pl-3">
            {run.data.message}
          </p>
        )}
        {Object.keys(counts).length > 0 && (
          <p className="mt-2 flex flex-wrap items-center gap-2">
            <Tally label="all rows" count={run.data.rows_total} on={shown === undefined} onPick={() => show(undefined)} />
            {(Object.keys(ACTIONS) as Schema['RowAction'][])
              .filter((action) => counts[action])
              .map((action) => (
                <Tally key={action} label={ACTIONS[action]} count={counts[action] ?? 0} on={shown === action} onPick={() => show(action)} />
              ))}
          </p>
        )}
        <div className="mt-3 flex gap-3">
          {state === 'checked' && refused === 0 && changes > 0 && (
            <Button look="main" disabled={decide.isPending} onClick={() => decide.mutate('confirm')}>
              Bring in all {changes} rows
            </Button>
          )}
          {(state === 'checking' || state === 'checked') && (
            <Button disabled={decide.isPending} onClick={() => decide.mutate('cancel')}>
              Drop it
            </Button>
          )}
        </div>
        {decide.error && <p role="alert" className="mt-2 font-semibold text-oxide">{decide.error.message}</p>}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} role="region" aria-label="Rows of the file">
        {rows.data && <Rows rows={rows.data.rows} total={rows.data.total} />}
      </div>
    </div>
  )
}

const STATES: Record<Schema['ImportState'], string> = {
  checking: 'being checked',
  checked: 'checked, nothing written yet',
  applying: 'being brought in',
  applied: 'brought in, and forecast anew',
  refused: 'refused, nothing written',
  cancelled: 'dropped, nothing written',
}

function Progress({ run }: { run: Schema['ImportOut'] }) {
  return (
    <p className="mt-2 flex items-center gap-3 text-soft">
      <progress className="h-2.5 w-64 accent-copper" max={run.rows_total || 1} value={run.rows_done} aria-label="Progress" />
      {run.rows_total > 0 ? `${run.rows_done} of ${run.rows_total} rows` : 'reading the file'}
    </p>
  )
}

function Tally({ label, count, on, onPick }: { label: string; count: number; on: boolean; onPick: () => void }) {
  return (
    <button type="button" aria-pressed={on} onClick={onPick} className={`rounded-md border px-3 py-1 ${on ? 'border-copper font-bold' : 'border-line'}`}>
      {count} {label}
    </button>
  )
}

function Rows({ rows, total }: { rows: Schema['ImportRowOut'][]; total: number }) {
  return (
    <table className="w-full border-collapse">
      <thead className="sticky top-0 bg-ground text-left text-fine">
        <tr>
          <th className="w-20 border-b border-ink py-1.5 pl-5">Row</th>
          <th className="w-32 border-b border-ink">What happens</th>
          <th className="w-36 border-b border-ink">Which</th>
          <th className="border-b border-ink pr-5">Column and why</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.number} className="border-b border-line align-top">
            <td className="py-1.5 pl-5">{row.number}</td>
            <td className={row.action === 'refuse' ? 'py-1.5 font-bold text-oxide' : 'py-1.5'}>{ACTIONS[row.action]}</td>
            <td className="py-1.5">{row.key}</td>
            <td className="py-1.5 pr-5">
              {Object.entries(row.detail).map(([column, what]) => (
                <p key={column}>
                  <strong>{column}</strong> {Array.isArray(what) ? `${said(what[0])} → ${said(what[1])}` : said(what)}
                </p>
              ))}
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

function said(value: unknown): string {
  if (value === null || value === undefined || value === '') return 'empty'
  return typeof value === 'string' ? value : JSON.stringify(value)
}

function Explained() {
  return (
    <div className="max-w-2xl p-6 text-lead">
      <p>Bring in customers first, then their sites, then the heaters: each names the one before by its code.</p>
      <dl className="mt-5 space-y-4 text-body">
        {[
          ['customers', 'code, name, phone, email'],
          ['sites', 'code, customer, name, street, town, zone, softened, people, hot_water_l_per_day, static_pressure_kpa, closed_system, hazard, shut_off, access'],
          ['heaters', 'tag, site, kind, location, maker, model, serial, installed_on, install_certainty, capacity_l, setpoint_c, input_kw, height_mm, diameter_mm, drain_port_height_mm, probe_height_mm, lower_element_height_mm, exchanger_area_m2, practice, anode_alloy, anode_diameter_mm, anode_length_mm, anode_count, anode_fitted_on, relief_valve_fitted_on'],
        ].map(([name, columns]) => (
          <div key={name}>
            <dt className="font-bold">{name}</dt>
            <dd className="text-soft">{columns}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-5 text-body text-soft">
        The first row names the columns, in any order; leave out what you do not have. Dates like 2026-03-09, yes or no, a point in numbers. A code that is on record changes its record; an empty cell empties it.
      </p>
    </div>
  )
}
