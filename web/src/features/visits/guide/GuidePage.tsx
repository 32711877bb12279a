import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../../api/client'
import { useCompany } from '../../../app/session'
import { shown, type Units } from '../../../lib/units'
import { Button } from '../../../ui/Button'
import { Hazard } from '../../../ui/States'
import { heaterOptions, logOptions } from '../../heaters/queries'
import { useDraft, type Draft } from '../draft'
import { Sheet, VisitShell } from '../VisitShell'
import { Answers } from './Answers'
import { Briefing, minutesOf } from './Briefing'
import { held, stood, unrestored, type Event, type Held, type Step } from './interlock'
import { StateStrip } from './StateStrip'

export function GuidePage() {
  const id = Number(useParams().heaterId)
  const heater = useQuery(heaterOptions(id))
  // For the page that saves the visit, which may be opened without a signal.
  const measure = useQuery(logOptions(id)).data?.measure ?? false
  const { draft, change } = useDraft(id)
  const hazards = heater.data?.site.hazards ?? []
  const name = heater.data?.site.name ?? 'Visit'
  if (draft.guide) return <Guided key={id} id={id} name={name} hazards={hazards} measure={measure} guide={draft.guide} draft={draft} change={change} />
  // The guide that a visit began with stays its guide: the procedures may change under way, this visit does not.
  return <Briefing id={id} name={name} hazards={hazards} onBegin={(guide) => change({ guide, events: [] })} />
}

interface GuidedProps {
  id: number
  name: string
  hazards: string[]
  measure: boolean
  guide: Schema['GuideOut']
  draft: Draft
  change: (part: Partial<Draft>) => void
}

function Guided({ id, name, hazards, measure, guide, draft, change }: GuidedProps) {
  const { units } = useCompany()
  const stand = stood(guide, draft.events)
  const now = stand.left[0]
  const tell = (kind: Event['kind'], choice = 0, why = '') => {
    if (!now) return
    const tap = kind === 'done' && now.step.asks.includes('tap_c') && draft.tapC !== null ? { tap_c: draft.tapC } : {}
    change({ events: [...draft.events, { kind, step: now.id, choice, at: new Date().toISOString(), why, ...tap }] })
    window.scrollTo(0, 0)
  }
  const back = () => change({ events: draft.events.slice(0, -1) })
  const done = draft.events.length
  const head = (
    <>
      <div className="flex items-baseline gap-3">
        <h1 className="min-w-0 flex-1 truncate text-lead font-bold">{name}</h1>
        <span className="text-body whitespace-nowrap text-soft">{now ? `step ${done + 1} of ${done + stand.left.length}` : 'all done'}</span>
        <Link to={`/visit/${id}`} className="min-h-11 px-1 py-3 text-body text-soft underline">
          Leave
        </Link>
      </div>
      <StateStrip state={stand.state} fuel={guide.facts.fuel!} store={guide.facts.store!} />
    </>
  )
  if (!now) {
    return (
      <VisitShell
        head={head}
        bar={
          <div className="grid grid-cols-[1fr_2fr] gap-3">
            <Button className="min-h-13 text-lead" onClick={back}>Back</Button>
            <Button look="main" className="min-h-13 text-lead" asChild>
              <Link to={`/visit/${id}`} onClick={() => change({ step: 99 })}>Look over and save</Link>
            </Button>
          </div>
        }
      >
        <Left fields={unrestored(guide, stand.state)} />
      </VisitShell>
    )
  }
  const holding = held(guide, now.step, stand.state)
  const free = holding.length === 0
  return (
    <VisitShell
      head={head}
      bar={
        <div className="space-y-2">
          {now.step.otherwise.length > 0 && (
            <div className="grid gap-2">
              {now.step.otherwise.map((other, choice) => (
                <Button key={other.says} className="min-h-12 text-body" onClick={() => tell('otherwise', choice)}>
                  {other.says}
                </Button>
              ))}
            </div>
          )}
          <div className="grid grid-cols-[1fr_1fr_2fr] gap-2">
            <Button className="min-h-13 px-1 text-body" disabled={done === 0} onClick={back}>Back</Button>
            <Button className="min-h-13 px-1 text-body" onClick={() => tell('skipped')}>Leave out</Button>
            <Button look="main" className="min-h-13 text-lead" disabled={!free} onClick={() => tell('done')}>
              {free ? 'Done' : 'Held'}
            </Button>
          </div>
        </div>
      }
    >
      {hazards.map((one) => <Hazard key={one}>{one}</Hazard>)}
      {!free && <Holding key={now.id} holding={holding} may={guide.may_override} onDespite={(why) => tell('despite', 0, why)} />}
      <StepCard key={now.id + String(done)} step={now.step} title={guide.procedures[now.procedure]!.title} figures={guide.figures} since={draft.events.at(-1)?.at ?? null} units={units} />
      <Answers asks={now.step.asks} draft={draft} change={change} isTank={guide.facts.store === 'tank'} measure={measure} usual={guide.usual_readings} units={units} />
      <p className="px-1 text-body text-soft">Kept on this device. Local codes and the heater’s own instructions come first.</p>
    </VisitShell>
  )
}

function Holding({ holding, may, onDespite }: { holding: Held[]; may: boolean; onDespite: (why: string) => void }) {
  const [why, setWhy] = useState('')
  return (
    <section role="alert" className="rounded-xl border-2 border-oxide bg-sheet p-4">
      <h2 className="text-title text-oxide">Held</h2>
      {holding.map((one) => (
        <p key={one.rule} className="mt-1">
          {one.says} <strong>{one.way_out}</strong>
        </p>
      ))}
      {may && (
        <form
          className="mt-3 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            if (why.trim()) onDespite(why.trim())
          }}
        >
          <input aria-label="Why it is done all the same" placeholder="Why all the same" value={why} onChange={(event) => setWhy(event.target.value)} className="h-12 min-w-0 flex-1 rounded-lg border-2 border-line bg-ground px-3" />
          <Button type="submit" className="min-h-12" disabled={!why.trim()}>
            Do it
          </Button>
        </form>
      )}
    </section>
  )
}

interface StepCardProps {
  step: Step
  title: string
  figures: Schema['FigureOut'][]
  /** When the step before was done, by this device. */
  since: string | null
  units: Units
}

function StepCard({ step, title, figures, since, units }: StepCardProps) {
  const figure = figures.find((one) => one.name === step.figure)
  const minutes = minutesOf(step, figures)
  return (
    <Sheet>
      <p className="text-body text-soft">{title}</p>
      <h2 className="mt-0.5 text-[1.35rem] leading-snug font-bold">{step.do}</h2>
      {step.why && <p className="mt-1.5 text-soft">{step.why}</p>}
      {step.caution && <p className="mt-2 border-l-4 border-oxide pl-3 font-semibold text-oxide">{step.caution}</p>}
      {minutes >= 4 && <Running minutes={minutes} since={since} />}
      {figure && (figure.unit !== 'min' || step.minutes === 0) && (
        <p className="mt-2">
          About <strong>{figureWords(figure, units)}</strong>
        </p>
      )}
      {step.expect && <p className="mt-2">Expected: <strong>{step.expect}</strong></p>}
      {step.tool && <p className="mt-1 text-body text-soft">With {step.tool}</p>}
      {figure && (
        <details className="mt-2 text-body text-soft">
          <summary className="min-h-8">How this is computed</summary>
          {figure.formula}. Source: {figure.source}.
        </details>
      )}
    </Sheet>
  )
}

const UNIT_WORDS: Record<string, string> = { mV: 'mV', ohm: 'Ω', s: 's', min: 'min' }

function figureWords(figure: Schema['FigureOut'], units: Units): string {
  const unit = UNIT_WORDS[figure.unit]
  return unit ? `${Math.round(figure.value)} ${unit}` : shown(units, figure.unit, figure.value)
}

/** A step that takes its time: how long it has run, and about how long it takes. It runs on while the device sleeps. */
function Running({ minutes, since }: { minutes: number; since: string | null }) {
  const [now, setNow] = useState(() => Date.now())
  const [begun] = useState(() => (since ? Date.parse(since) : now))
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 5000)
    return () => clearInterval(timer)
  }, [])
  const run = Math.max(0, (now - begun) / 60_000)
  const share = Math.min(1, run / minutes)
  return (
    <div className="mt-3" role="timer" aria-label={`${Math.floor(run)} of about ${Math.round(minutes)} minutes`}>
      <div className="relative h-3 rounded-full bg-line">
        <div className="h-3 rounded-full bg-water" style={{ width: `${100 * share}%` }} />
        <div className="absolute -top-1 h-5 w-1 rounded bg-ink" style={{ left: `calc(${100 * share}% - 2px)` }} />
      </div>
      <p className="mt-1 flex justify-between text-body">
        <strong>{Math.floor(run)} min</strong>
        <span className="text-soft">about {Math.round(minutes)}</span>
      </p>
    </div>
  )
}

const FIELDS: Record<string, string> = {
  cold: 'the cold supply is shut', energy: 'it is not heating', gas: 'the gas valve is shut', hose: 'a hose is on the drain', drain: 'the drain is open', air: 'an air inlet is open', tap: 'a hot tap is open',
  relief: 'the relief lever is up', level: 'the tank is not full', ports: 'a port is open', union: 'a union is slackened', joints: 'a gas joint was not tested', covers: 'a cover is off', fluid: 'acid is in it',
}

/** The check at the end: what is not as a heater is left. */
function Left({ fields }: { fields: string[] }) {
  if (fields.length === 0) {
    return (
      <Sheet title="Everything is as it is left">
        <p>Cold open, drain shut and dry, relief lever down, taps shut, covers on, heating.</p>
      </Sheet>
    )
  }
  return (
    <section role="alert" className="rounded-xl border-2 border-oxide bg-sheet p-4">
      <h2 className="text-title text-oxide">Not as it is left</h2>
      <ul className="mt-1 list-disc pl-5">
        {fields.map((one) => (
          <li key={one}>{FIELDS[one] ?? one}</li>
        ))}
      </ul>
      <p className="mt-2">Put it right and go back to its step, or leave a sign on it that says so.</p>
    </section>
  )
}
