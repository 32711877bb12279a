import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import type { Heats } from '../../drawing/TankInside'
import { WorkedHeater } from '../../drawing/WorkedHeater'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { ActLine } from './ActLine'
import { BenchNav } from './BenchNav'
import { Graded } from './Graded'
import { GuideCard } from './GuideCard'
import { Noted } from './Noted'
import { seenWords } from './practiceWords'
import { scenariosOptions, useEnding } from './queries'
import { Tools } from './Tools'
import { usePractice } from './usePractice'
import { WentWrong } from './WentWrong'

/** One heater in software, worked at from the door to the last look; a new heater each time. */
export function AtBenchPage() {
  const { name = '' } = useParams()
  const [address] = useSearchParams()
  const scenarios = useQuery(scenariosOptions)
  const scenario = scenarios.data?.find((one) => one.name === name)
  const seed = Math.max(1, Number(address.get('heater')) || 1)
  const guided = address.get('way') === 'guided'
  return (
    <div className="flex h-full min-w-0 flex-col narrow:h-auto narrow:w-screen narrow:overflow-x-hidden">
      <h1 className="sr-only">Practise: {scenario?.title ?? 'a visit'}</h1>
      <BenchNav />
      {scenario ? (
        <Practice key={`${name} ${seed} ${guided}`} scenario={scenario} seed={seed} guided={guided} />
      ) : scenarios.data ? (
        <Failed error={new Error('There is no such heater to practise on.')} />
      ) : scenarios.error ? (
        <Failed error={scenarios.error} onRetry={() => void scenarios.refetch()} />
      ) : (
        <Loading what="the heater" />
      )}
    </div>
  )
}

function heatsOf(scenario: Schema['ScenarioOut']): Heats {
  const has = (name: string) => scenario.handles.some((one) => one.name === name)
  return has('dial') ? 'burner' : has('at_drain') ? 'coil' : 'elements'
}

interface Props {
  scenario: Schema['ScenarioOut']
  seed: number
  guided: boolean
}

function Practice({ scenario, seed, guided }: Props) {
  const { units } = useCompany()
  const [cut, setCut] = useState(false)
  const [everCut, setEverCut] = useState(false)
  const practice = usePractice(scenario.name, seed, guided, cut)
  const ending = useEnding()
  const heats = heatsOf(scenario)
  const { data, wrong } = practice
  if (practice.error && !data) return <Failed error={practice.error} />
  if (!data) return <Loading what="the heater" />
  if (ending.data)
    return (
      <Graded
        grade={ending.data.grade}
        harms={ending.data.practice.harms}
        title={scenario.title}
        looked={everCut}
        again={`/bench/practise/${scenario.name}?way=${guided ? 'guided' : 'free'}&heater=${seed + 1}`}
      />
    )
  const notes = Object.fromEntries(practice.acts.map((one) => [one.handle, one.to ?? '']))
  const refusal = data.refusals.find((one) => one.act === practice.acts.length - 1)
  const seen = seenWords(data.seen, units)
  return (
    <>
      <div className="flex min-h-[52px] shrink-0 flex-wrap items-center gap-x-2 border-b border-line px-5 py-1">
        <p className="min-w-0 flex-1 basis-80">
          {guided ? 'Guided' : 'Free'}: <strong>{scenario.title}</strong>{' '}
          <span className="text-soft">{scenario.says}</span>
        </p>
        {ending.error && (
          <p role="alert" className="font-semibold text-oxide">
            {ending.error.message}
          </p>
        )}
        {everCut && <span className="text-soft">cut open once: for learning, passes nothing</span>}
        <Button
          look="quiet"
          aria-pressed={cut}
          title="It shows what nobody sees at a real heater, and passes nothing."
          onClick={() => {
            setCut(!cut)
            setEverCut(true)
          }}
        >
          {cut ? 'Close the tank' : 'Cut it open'}
        </Button>
        <Button look="quiet" asChild>
          <Link to="/bench/practise">Leave it</Link>
        </Button>
        <Button
          look="main"
          disabled={ending.isPending || wrong !== null}
          onClick={() => ending.mutate({ ...practice.body, cut: everCut })}
        >
          I am done here
        </Button>
      </div>
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        <div className="flex min-w-0 flex-1 flex-col px-4 pt-2">
          <div className="min-h-0 flex-1 narrow:h-[300px] narrow:flex-none" aria-busy={practice.isStale}>
            <WorkedHeater
              seen={data.seen}
              inside={data.inside}
              heats={heats}
              units={units}
              onTurn={(handle, to) => practice.act(handle, to)}
            />
          </div>
          <p role="status" className="min-h-10 pb-1">
            {refusal && <span className="font-semibold text-copper-deep">{refusal.says} </span>}
            {seen.join(' ') || 'Quiet: nothing runs.'}
          </p>
        </div>
        <div
          className={clsx(
            'w-[408px] shrink-0 space-y-4 overflow-y-auto border-l border-line px-4 py-3',
            'narrow:w-full narrow:border-t narrow:border-l-0',
          )}
        >
          {wrong ? (
            <WentWrong
              harm={wrong}
              acts={practice.acts}
              onBack={() => practice.backBefore(wrong.act)}
              onGoOn={practice.letItHappen}
            />
          ) : (
            guided &&
            data.guide && (
              <GuideCard guide={data.guide} isStale={practice.isStale} onTell={(kind, to) => practice.act(kind, to)} />
            )
          )}
          <section aria-label="Tools">
            <h2 className="mb-1.5 font-bold">Within reach</h2>
            <Tools seen={data.seen} heats={heats} units={units} onTurn={(handle, to) => practice.act(handle, to)} />
          </section>
          <Noted
            asks={scenario.asks}
            notes={notes}
            units={units}
            onNote={(handle, value) => practice.act(handle, value)}
          />
        </div>
      </div>
      <ActLine practice={practice} within={60 * scenario.within_min} />
    </>
  )
}
