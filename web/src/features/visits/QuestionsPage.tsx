import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { questionsOptions, useAdvise } from './queries'

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
      </div>
    </div>
  )
}

function Question({ question }: { question: Schema['QuestionOut'] }) {
  const [words, setWords] = useState('')
  const advise = useAdvise()
  const open = question.go_on === null
  const answer = (go_on: boolean) => advise.mutate({ id: question.client_id, words: words.trim(), go_on })
  return (
    <article className={`rounded-lg bg-sheet p-4 ${open ? 'border-l-8 border-copper' : 'border-l-8 border-line'}`}>
      <p className="text-soft">
        {question.by}, {new Date(question.at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })} ·{' '}
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
        <div className="mt-3 flex gap-2">
          <input aria-label="What to do, and why" placeholder="What to do, and why" maxLength={300} value={words} onChange={(event) => setWords(event.target.value)} className="h-9 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2.5" />
          <Button disabled={advise.isPending} onClick={() => answer(false)}>Leave it</Button>
          <Button look="main" disabled={advise.isPending || !words.trim()} onClick={() => answer(true)}>Go on</Button>
        </div>
      ) : (
        <p className="mt-2">
          <strong>{question.go_on ? 'Go on.' : 'Leave it.'}</strong> {question.advice}
        </p>
      )}
      {advise.error && <p role="alert" className="mt-2 text-oxide">{advise.error.message}</p>}
    </article>
  )
}
