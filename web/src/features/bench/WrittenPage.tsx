import { useQuery } from '@tanstack/react-query'
import { useId, useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { ofHeaterOptions, useTakenOut, useWrite, writtenOptions } from './queries'

const BEGUN = `[our_cellar]
title = "Our cellar"
says = "A gas tank under the office. Flush it, and exercise the relief valve."
kind = "gas_tank"
due = ["sediment", "relief_valve"]
asks = ["tap_c", "removed", "valve_outcome"]
build = { litres = 190, supply_kpa = [340, 420], loose_l = [0.9, 1.7], drain_blocked = true }
`

/** Heaters to practise on that the company writes itself: what is hidden in them stands here, so apprentices do not. */
export function WrittenPage() {
  const [address] = useSearchParams()
  const heater = Number(address.get('heater')) || undefined
  const { data, error, refetch } = useQuery(writtenOptions)
  const made = useQuery(ofHeaterOptions(heater))
  const waits = heater !== undefined && made.isPending
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Your own heaters to practise on</h1>
      <BenchNav />
      {error ? (
        <Failed error={error} onRetry={() => void refetch()} />
      ) : !data || waits ? (
        <Loading what="your own" />
      ) : (
        <div className="flex min-h-0 flex-1 gap-8 overflow-auto px-5 py-4 narrow:flex-col">
          <Writing
            key={made.data?.text ?? ''}
            begun={made.data?.text ?? BEGUN}
            fault={made.error?.message}
            isMade={made.data !== undefined}
          />
          <Kept all={data} />
        </div>
      )}
    </div>
  )
}

interface WritingProps {
  begun: string
  /** Why a heater on record could not be written down. */
  fault: string | undefined
  isMade: boolean
}

function Writing({ begun, fault, isMade }: WritingProps) {
  const id = useId()
  const [text, setText] = useState(begun)
  const write = useWrite()
  return (
    <form
      className="min-w-0 flex-1"
      onSubmit={(event) => {
        event.preventDefault()
        write.mutate({ text })
      }}
    >
      <label htmlFor={id} className="mb-1 block text-title font-bold">
        {isMade ? 'A heater on record, without its names' : 'Write a heater'}
      </label>
      <p className="mb-2 max-w-3xl text-soft">
        A table each, its name in brackets. What stands under <code>build</code> is hidden from whoever practises; two
        figures in brackets are drawn between, more are drawn from. With <code>fault</code> instead it is a complaint to
        look into. Figures are metric. Under the name of one of yours it takes its place.
      </p>
      <textarea
        id={id}
        value={text}
        rows={18}
        spellCheck={false}
        onChange={(event) => setText(event.target.value)}
        className="w-full rounded-md border border-rule bg-sheet p-3 font-mono text-[13px]"
      />
      <p className="mt-2 flex items-center gap-3" aria-live="polite">
        <Button look="main" type="submit" disabled={write.isPending}>
          Keep it
        </Button>
        {(write.error ?? fault) && <span className="font-semibold text-oxide">{write.error?.message ?? fault}</span>}
        {write.isSuccess && <span className="text-moss-deep">Kept: it is offered to everybody now.</span>}
      </p>
    </form>
  )
}

function Kept({ all }: { all: Schema['WrittenOut'][] }) {
  const out = useTakenOut()
  return (
    <section aria-label="Your own" className="w-[420px] shrink-0 narrow:w-full">
      <h2 className="mb-2 text-title font-bold">Your own</h2>
      {all.length === 0 && <p className="text-soft">None yet. What ships with Aquifer is offered beside yours.</p>}
      {out.error && <p className="font-semibold text-oxide">{out.error.message}</p>}
      <ul>
        {all.map((one) => (
          <li key={one.name} className="border-t border-line py-2">
            <div className="flex items-center gap-3">
              <p className="min-w-0 flex-1">
                <strong>{one.name}</strong>{' '}
                <span className="text-soft">
                  {one.is_trouble ? 'a complaint' : 'a visit'}, by {one.by}
                </span>
              </p>
              <Button
                look="quiet"
                aria-label={`Take out ${one.name}`}
                disabled={out.isPending}
                onClick={() => out.mutate(one.name)}
              >
                Take out
              </Button>
            </div>
            <details>
              <summary className="cursor-pointer text-copper-deep">As it is written</summary>
              <pre className="mt-1 overflow-x-auto rounded-md bg-sheet p-2 text-fine" tabIndex={0}>
                {one.text}
              </pre>
            </details>
          </li>
        ))}
      </ul>
    </section>
  )
}
