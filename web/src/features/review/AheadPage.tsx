import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Phrase } from '../../ui/Phrase'
import { Failed, Loading } from '../../ui/States'
import { AheadBars } from './AheadBars'
import { AheadFigures } from './AheadFigures'
import { nameOf, sentences, SERIES, told } from './aheadWords'
import { besideOptions, projectionOptions, projectionsOptions, useDropProjection, useTry } from './queries'
import { ReviewNav } from './ReviewNav'
import { TryDecision } from './TryDecision'

type Row = Schema['ProjectionRowOut']

/** What the base asks for, costs and earns in the coming years, as it is and under what is tried on it. */
export function AheadPage() {
  const { data, error, refetch } = useQuery(projectionsOptions)
  return (
    <div className="flex h-full flex-col narrow:h-auto">
      <h1 className="sr-only">The years ahead</h1>
      <ReviewNav />
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the years" />}
      {data && <Ahead rows={data} />}
    </div>
  )
}

const isPlain = (row: Row) => row.decisions.length === 0
const keyOf = (row: Row) => `${row.asked_on} ${row.years}`

/** What may stand beside the base as it was: of the same day, over the same years. */
const besideOf = (rows: Row[], now: Row) => rows.filter((row) => !isPlain(row) && keyOf(row) === keyOf(now))

function Ahead({ rows }: { rows: Row[] }) {
  const { units, today } = useCompany()
  const [address, setAddress] = useSearchParams()
  const [trying, setTrying] = useState(false)
  const [years, setYears] = useState(5)
  const may = useMay('set_practice')
  const reckon = useTry()
  const drop = useDropProjection()
  const say = (changes: Record<string, string>) =>
    setAddress(
      (now) => {
        for (const [name, value] of Object.entries(changes)) {
          if (value) now.set(name, value)
          else now.delete(name)
        }
        return now
      },
      { replace: true },
    )
  const plain = rows.filter(isPlain)
  const wanted = rows.find((row) => String(row.id) === address.get('with'))
  const now = plain.find((row) =>
    wanted ? keyOf(row) === keyOf(wanted) : String(row.id) === (address.get('of') ?? String(plain[0]?.id)),
  )
  if (!now)
    return (
      <div className="max-w-[720px] px-5 py-6">
        <p className="text-lead">Nobody has had the years ahead reckoned yet.</p>
        <p className="mt-2 text-soft">
          The base is lived forward 200 times, with all that its forecasts believe and do not know: hours, parts, tanks
          that give way, income and cost of each year. It is done anew on the first of every month.
        </p>
        {may && (
          <Button
            look="main"
            className="mt-4"
            disabled={reckon.isPending}
            onClick={() => reckon.mutate({ years: 5, decisions: [], name: '' })}
          >
            Reckon the next 5 years
          </Button>
        )}
      </div>
    )
  const others = besideOf(rows, now)
  return (
    <>
      <div className="flex min-h-[52px] shrink-0 flex-wrap items-center gap-x-4 border-b border-line px-5">
        <p className="text-soft">
          The
          <Phrase
            label="Reckoned on"
            value={String(now.id)}
            options={plain.map((row) => ({
              value: String(row.id),
              label: `${row.years === 1 ? 'year' : `${row.years} years`} from ${dateWords(row.asked_on, today)}`,
            }))}
            onChange={(of) => say({ of, with: '' })}
          />
          of the base as it is, beside
          <Phrase
            label="Beside it"
            value={wanted ? String(wanted.id) : ''}
            options={[
              { value: '', label: 'nothing else' },
              ...others.map((row) => ({ value: String(row.id), label: nameOf(row, units) })),
            ]}
            onChange={(value) => say({ with: value, of: String(now.id) })}
          />
          .
        </p>
        {may && (
          <span className="ml-auto flex flex-wrap items-center gap-2">
            {wanted && (
              <Button
                look="quiet"
                disabled={drop.isPending}
                onClick={() => drop.mutate(wanted.id, { onSuccess: () => say({ with: '' }) })}
              >
                Drop what was tried
              </Button>
            )}
            <span className="text-soft">
              over
              <Phrase
                label="Years to live"
                value={String(years)}
                options={[1, 2, 3, 5, 10].map((one) => ({
                  value: String(one),
                  label: one === 1 ? 'a year' : `${one} years`,
                }))}
                onChange={(value) => setYears(Number(value))}
              />
            </span>
            <Button onClick={() => setTrying(true)}>Try a decision</Button>
          </span>
        )}
      </div>
      <Sides now={now} other={wanted ?? null} />
      {trying && (
        <TryDecision
          years={years}
          onClose={() => setTrying(false)}
          onAsked={(id) => {
            setTrying(false)
            say({ with: String(id), of: '' })
          }}
        />
      )}
    </>
  )
}

function Sides({ now, other }: { now: Row; other: Row | null }) {
  const { units, today } = useCompany()
  const mayHaveIt = useMay('keep_prices')
  const [address, setAddress] = useSearchParams()
  const one = useQuery(projectionOptions(now.id))
  const two = useQuery({ ...projectionOptions(other?.id ?? 0), enabled: other !== null })
  const ready = one.data?.state === 'ready' && (!other || two.data?.state === 'ready')
  const beside = useQuery({ ...besideOptions(now.id, other?.id ?? 0), enabled: other !== null && ready })
  const failed = [one, two].find((query) => query.error)
  if (failed) return <Failed error={failed.error!} onRetry={() => void failed.refetch()} />
  if (!one.data || (other && !two.data)) return <Loading what="the years" />
  const stuck = [one.data, two.data].find((each) => each?.state === 'failed')
  if (stuck)
    return (
      <p role="alert" className="px-5 py-6 text-oxide">
        It could not be reckoned. {stuck.error} Drop it and try again.
      </p>
    )
  if (!ready)
    return (
      <p role="status" className="px-5 py-6 text-lead">
        The years are being lived: {now.parts_left + (other?.parts_left ?? 0)} parts of the base are left. It goes on
        without this page.
      </p>
    )
  const sides = [
    { projection: one.data, name: 'as it is' },
    ...(other && two.data ? [{ projection: two.data, name: nameOf(other, units) }] : []),
  ]
  const known = told(one.data)
  const asked = address.get('what') ?? 'hours'
  const [name, words] = known.find(([key]) => key === asked) ?? SERIES[0]!
  return (
    <>
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        <div className="flex min-w-0 flex-1 flex-col">
          <p className="px-4 pt-2 font-bold">
            <Phrase
              label="What is drawn"
              value={name}
              options={known.map(([value, each]) => ({ value, label: each.replace('…', 'Hours') }))}
              onChange={(what) =>
                setAddress(
                  (before) => {
                    before.set('what', what)
                    return before
                  },
                  { replace: true },
                )
              }
            />
            <span className="font-normal text-soft">of each year</span>
          </p>
          <AheadBars name={name} words={words} sides={sides} />
        </div>
        <div
          tabIndex={0}
          role="region"
          aria-label="Figures by year"
          className={clsx(
            'relative w-[600px] shrink-0 overflow-auto border-l border-line px-5 py-4',
            'narrow:w-full narrow:border-l-0',
          )}
        >
          <AheadFigures sides={sides} today={today} />
        </div>
      </div>
      <div className="shrink-0 border-t border-line px-5 py-3">
        <p className="text-lead">
          {sentences(one.data, sides[1]?.projection ?? null, beside.data ?? null, sides[1]?.name ?? '').join(' ')}
        </p>
        <p className="mt-1 text-fine text-soft">
          200 futures of {one.data.heaters.toLocaleString('en')} heaters. They differ by what is not known of each pace
          and each tank, by who joins, leaves and calls, and by how long visits take.{' '}
          <a className="underline" href={`/api/projections/${(other ?? now).id}/table.csv`}>
            The figures as a file
          </a>
          {mayHaveIt && (
            <>
              {' · '}
              <a className="underline" href="/api/quarterly.pdf" target="_blank" rel="noreferrer">
                The last quarter on four pages
              </a>
            </>
          )}
        </p>
      </div>
    </>
  )
}
