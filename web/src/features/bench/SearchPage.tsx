import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { WaysOfHeater } from '../../drawing/WaysOfHeater'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { Causes } from './Causes'
import { Graded } from './Graded'
import { GuideCard } from './GuideCard'
import { clockWords, isTelling } from './practiceWords'
import { troublesOptions, useSearched } from './queries'
import { useSearch } from './useSearch'
import { WentWrong } from './WentWrong'

/** A heater that does not do what it should, looked into from the door to what was wrong. */
export function SearchPage() {
  const { name = '' } = useParams()
  const [address] = useSearchParams()
  const troubles = useQuery(troublesOptions)
  const trouble = troubles.data?.find((one) => one.name === name)
  const seed = Math.max(1, Number(address.get('heater')) || 1)
  const guided = address.get('way') === 'guided'
  return (
    <div className="flex h-full min-w-0 flex-col narrow:h-auto narrow:w-screen narrow:overflow-x-clip">
      <h1 className="sr-only">Find what is wrong: {trouble?.title ?? 'a complaint'}</h1>
      <BenchNav />
      {trouble ? (
        <Search key={`${name} ${seed} ${guided}`} trouble={trouble} seed={seed} guided={guided} />
      ) : troubles.data ? (
        <Failed error={new Error('There is no such complaint to look into.')} />
      ) : troubles.error ? (
        <Failed error={troubles.error} onRetry={() => void troubles.refetch()} />
      ) : (
        <Loading what="the heater" />
      )}
    </div>
  )
}

interface Props {
  trouble: Schema['TroubleOut']
  seed: number
  guided: boolean
}

function Search({ trouble, seed, guided }: Props) {
  const [chosen, setChosen] = useState('house')
  const search = useSearch(trouble.name, seed, guided)
  const ending = useSearched()
  const { data, wrong } = search
  if (search.error && !data) return <Failed error={search.error} />
  if (!data) return <Loading what="the heater" />
  if (ending.data)
    return (
      <Graded
        grade={ending.data.grade}
        harms={ending.data.search.harms}
        title={trouble.title}
        again={`/bench/find/${trouble.name}?way=${guided ? 'guided' : 'free'}&heater=${seed + 1}`}
        words="Another house with it"
        all="/bench/find"
      />
    )
  const titles = new Map(trouble.points.map((one) => [one.name, one.title]))
  const wordsOf = (act: Schema['DeedIn']) => `${titles.get(act.handle) ?? act.handle}: ${act.to}`
  const point = trouble.points.find((one) => one.name === chosen)!
  const clock = trouble.points.find((one) => one.name === 'clock')!
  const refusal = data.refusals.find((one) => one.act === search.acts.length - 1)
  return (
    <>
      <div className="flex min-h-[52px] shrink-0 flex-wrap items-center gap-x-2 border-b border-line px-5 py-1">
        <p className="min-w-0 flex-1 basis-80">
          {guided ? 'Guided' : 'Free'}: <strong>{trouble.title}</strong>{' '}
          <span className="text-soft">“{trouble.says}”</span>
        </p>
        {ending.error && (
          <p role="alert" className="font-semibold text-oxide">
            {ending.error.message}
          </p>
        )}
        <p className="tabular-nums" aria-label={`${clockWords(search.clock)} of ${trouble.within_min} minutes`}>
          <strong>{clockWords(search.clock)}</strong> <span className="text-soft">of {trouble.within_min} min</span>
        </p>
        <Button look="quiet" asChild>
          <Link to="/bench/find">Leave it</Link>
        </Button>
        <Button
          look="main"
          disabled={ending.isPending || wrong !== null || search.isStale}
          onClick={() => ending.mutate(search.body)}
        >
          I am done here
        </Button>
      </div>
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        <div
          className="min-w-0 flex-1 overflow-y-auto px-5 py-3"
          role="region"
          aria-label="The heater"
          tabIndex={0}
          aria-busy={search.isStale}
        >
          <WaysOfHeater points={trouble.points} shown={lastShown(data.shown)} chosen={chosen} onChoose={setChosen} />
        </div>
        <div
          className={clsx(
            'w-[408px] shrink-0 space-y-4 overflow-y-auto border-l border-line px-4 py-3',
            'narrow:sticky narrow:bottom-0 narrow:max-h-[46dvh] narrow:w-full narrow:border-t narrow:border-l-0',
            'narrow:bg-ground',
          )}
        >
          {wrong ? (
            <WentWrong
              harm={wrong}
              acts={search.acts}
              wordsOf={wordsOf}
              onBack={() => search.backBefore(wrong.act)}
              onGoOn={search.letItHappen}
            />
          ) : (
            guided && data.guide && <GuideCard guide={data.guide} isStale={search.isStale} onTell={search.act} />
          )}
          <AtPoint
            point={point}
            shown={data.shown.filter((one) => one.point === chosen)}
            refusal={refusal?.says}
            onDo={(deed) => search.act(chosen, deed)}
          />
          <Causes causes={trouble.causes} noted={data.cause} onNote={(cause) => search.act('cause', cause)} />
        </div>
      </div>
      <div className="flex shrink-0 items-center gap-x-4 border-t border-line px-5 py-1.5 narrow:flex-wrap">
        <div role="group" aria-label="Wait" className="flex items-center gap-1">
          <span className="font-semibold">Wait</span>
          {clock.deeds.map((deed) => (
            <button
              key={deed}
              type="button"
              onClick={() => search.act('clock', deed)}
              className="min-h-9 rounded px-2 text-copper-deep hover:underline narrow:min-h-11"
            >
              {deed}
            </button>
          ))}
        </div>
        <ol className="flex gap-3 overflow-hidden text-fine whitespace-nowrap text-soft" aria-label="What you did last">
          {search.acts
            .filter((one) => !isTelling(one) && one.handle !== 'cause')
            .slice(-4)
            .map((one, number) => (
              <li key={number}>{wordsOf(one)}</li>
            ))}
        </ol>
      </div>
    </>
  )
}

function lastShown(shown: Schema['ShownOut'][]): ReadonlyMap<string, string> {
  return new Map(shown.map((one) => [one.point, one.says]))
}

interface AtPointProps {
  point: Schema['TroublePointOut']
  shown: Schema['ShownOut'][]
  refusal: string | undefined
  onDo: (deed: string) => void
}

/** What can be done at the chosen place, and what it showed. */
function AtPoint({ point, shown, refusal, onDo }: AtPointProps) {
  const last = shown.at(-1)
  return (
    <section aria-label={point.title}>
      <h2 className="mb-1.5 font-bold">{point.title}</h2>
      <p role="status" className="min-h-10">
        {refusal ? (
          <span className="font-semibold text-copper-deep">{refusal}</span>
        ) : last ? (
          <>
            <span className="text-soft">{last.deed}:</span> <strong>{last.says}</strong>
          </>
        ) : (
          <span className="text-soft">Nothing was looked at here.</span>
        )}
      </p>
      <div role="group" aria-label={`At: ${point.title}`} className="mt-1 flex flex-wrap gap-1.5">
        {point.deeds.map((deed) => (
          <button
            key={deed}
            type="button"
            onClick={() => onDo(deed)}
            className="min-h-11 rounded-md border border-rule bg-sheet px-2.5 py-1 leading-tight hover:border-copper"
          >
            {deed[0]!.toUpperCase() + deed.slice(1)}
          </button>
        ))}
      </div>
    </section>
  )
}
