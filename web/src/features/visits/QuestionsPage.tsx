import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { clockIn } from '../../lib/dates'
import { useCompany } from '../../session/session'
import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { apartOptions, breachesOptions, questionsOptions, useAdvise, useSettleApart } from './queries'

/** What technicians ask the lead from their visits; the answer goes onto their device. */
export function QuestionsPage() {
  const { data, error, refetch } = useQuery(questionsOptions)
  if (error && !data) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="the questions" />
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[760px] space-y-4 px-5 py-5">
        <h1 className="text-title">Asked from visits</h1>
        {data.length === 0 && <p className="text-soft">Nobody has asked anything in the last two days.</p>}
        {data.map((one) => (
          <Question key={one.client_id} question={one} />
        ))}
        <Apart />
        <Breaches />
      </div>
    </div>
  )
}

/** What a device told and nobody could read or follow: it bears on nothing until somebody has looked. */
function Apart() {
  const { data } = useQuery(apartOptions)
  if (!data || data.length === 0) return null
  return (
    <section aria-labelledby="apart">
      <h2 id="apart" className="text-lead font-bold">
        Told, but not understood
      </h2>
      <p className="text-soft">
        These taps are kept and count for nothing. Ask who was there what was meant; the heater’s log takes what is put
        right.
      </p>
      <ul className="mt-2 space-y-2">
        {data.map((one) => (
          <ApartTap key={one.id} one={one} />
        ))}
      </ul>
    </section>
  )
}

function ApartTap({ one }: { one: Schema['ApartOut'] }) {
  const { timezone } = useCompany()
  const [why, setWhy] = useState('')
  const settle = useSettleApart()
  return (
    <li className="rounded-lg border-l-8 border-oxide bg-sheet p-3">
      <p className="text-soft">
        {one.by}, {clockIn(timezone, one.at)} ·{' '}
        <Link to={`/heaters/${one.heater_id}`} className="underline">
          {one.site}, {one.heater}
        </Link>
        {one.recorded && ' · the visit was recorded without it'}
      </p>
      {one.step && <p className="font-semibold">{one.step}</p>}
      <p>Why: {one.fault}</p>
      <details className="mt-1">
        <summary>What the device told</summary>
        <p className="mt-1 font-mono text-fine break-all">{one.told}</p>
      </details>
      <div className="mt-3 flex flex-wrap items-end gap-2">
        <label className="min-w-52 flex-1">
          Why tap {one.id} is set aside
          <input
            maxLength={300}
            value={why}
            onChange={(event) => setWhy(event.target.value)}
            className="mt-1 block h-9 w-full rounded-md border border-rule bg-sheet px-2.5"
          />
        </label>
        <Button
          disabled={settle.isPending || !why.trim()}
          onClick={() => settle.mutate({ id: one.id, why: why.trim() })}
        >
          Set it aside
        </Button>
        {!one.recorded && (
          <Button look="main" disabled={settle.isPending} onClick={() => settle.mutate({ id: one.id })}>
            Read it again
          </Button>
        )}
      </div>
      {settle.error && (
        <p role="alert" className="mt-2 text-oxide">
          {settle.error.message}
        </p>
      )}
    </li>
  )
}

/** What was done although it was held, or is licensed to others: kept as it was, and put before the lead. */
function Breaches() {
  const { data } = useQuery(breachesOptions)
  if (!data || data.length === 0) return null
  return (
    <section aria-labelledby="breaches">
      <h2 id="breaches" className="text-lead font-bold">
        Done although not safe, or without the license
      </h2>
      <ul className="mt-2 space-y-2">
        {data.map((one) => (
          <li
            key={`${one.heater_id} ${one.at} ${one.step} ${one.kind}`}
            className="rounded-lg border-l-8 border-oxide bg-sheet p-3"
          >
            <strong>{one.step}</strong>
            <span className="block text-soft">
              {one.kind === 'unlicensed' ? `No ${one.about} license` : 'Was not safe yet'} · {one.by} ·{' '}
              <Link to={`/heaters/${one.heater_id}`} className="underline">
                {one.site}, {one.heater}
              </Link>
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function Question({ question }: { question: Schema['QuestionOut'] }) {
  const { timezone } = useCompany()
  const [words, setWords] = useState('')
  const advise = useAdvise()
  const open = question.go_on === null
  const answer = (go_on: boolean) => advise.mutate({ id: question.client_id, words: words.trim(), go_on })
  return (
    <article className={`rounded-lg bg-sheet p-4 ${open ? 'border-l-8 border-copper' : 'border-l-8 border-line'}`}>
      <p className="text-soft">
        {question.by}, {clockIn(timezone, question.at)} ·{' '}
        <Link to={`/heaters/${question.heater_id}`} className="underline">
          {question.site}, {question.heater}
        </Link>
      </p>
      <h2 className="mt-1 text-lead">{question.words}</h2>
      <p className="mt-1">
        At the step: <strong>{question.step}</strong>
      </p>
      {question.found.length > 0 && <p className="mt-1 text-soft">Found so far: {question.found.join(', ')}.</p>}
      {open ? (
        <div className="mt-3 flex flex-wrap items-end gap-2">
          <label className="min-w-52 flex-1">
            What to do, and why
            <input
              maxLength={300}
              value={words}
              onChange={(event) => setWords(event.target.value)}
              className="mt-1 block h-9 w-full rounded-md border border-rule bg-sheet px-2.5"
            />
          </label>
          <Button disabled={advise.isPending} onClick={() => answer(false)}>
            Leave it
          </Button>
          <Button look="main" disabled={advise.isPending || !words.trim()} onClick={() => answer(true)}>
            Go on
          </Button>
        </div>
      ) : (
        <p className="mt-2">
          <strong>{question.go_on ? 'Go on.' : 'Leave it.'}</strong> {question.advice}
        </p>
      )}
      {advise.error && (
        <p role="alert" className="mt-2 text-oxide">
          {advise.error.message}
        </p>
      )}
    </article>
  )
}
