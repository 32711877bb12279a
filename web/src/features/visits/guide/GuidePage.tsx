import { useQuery } from '@tanstack/react-query'
import { startTransition, useEffect, useState, type ReactNode } from 'react'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../../api/client'
import { useCompany, useMe } from '../../../app/session'
import { tap, useJournal, type Journal, type Tapped } from '../../../device/journal'
import type { Tap } from '../../../device/store'
import type { Units } from '../../../lib/units'
import { Button } from '../../../ui/Button'
import { Loading } from '../../../ui/States'
import { heaterOptions, logOptions } from '../../heaters/queries'
import { answersOf, type Answers, type Value } from '../answers'
import { AnswerSheet, Drawn } from '../AnswerSheet'
import { questionsOf } from '../questions'
import { RecordedElsewhere } from '../Recorded'
import { useTelling } from '../telling'
import { SiteHazards, Sheet, VisitShell } from '../VisitShell'
import { AskLead } from './AskLead'
import { Briefing, minutesOf } from './Briefing'
import { Calculator, figureWords, valueOf } from './Calculator'
import { held, merged, turnOf, type Event, type Held, type Step } from './interlock'
import { judged } from './judged'
import { Left } from './Left'
import { Photograph } from './Photograph'
import { StateStrip } from './StateStrip'
import { useTwice } from './twice'
import { Verdicts } from './Verdicts'

export function GuidePage() {
  const id = Number(useParams().heaterId)
  const heater = useQuery(heaterOptions(id)).data
  // For the page that saves the visit too, which may be opened without a signal.
  const drawn = useQuery(logOptions(id)).data?.measure ?? false
  const journal = useJournal(id, useMe().id)
  const name = heater?.site.name ?? journal?.visit.name ?? 'Visit'
  if (journal === undefined) return <VisitShell head={<h1 className="text-title">Visit</h1>}><Loading what="this visit" /></VisitShell>
  if (journal === null) return <Briefing id={id} name={name} hazards={heater?.site.hazards ?? []} />
  if (journal.visit.recorded) return <RecordedElsewhere journal={journal} recorded={journal.visit.recorded} />
  return <Guided key={journal.visit.clientId} id={id} name={name} hazards={heater?.site.hazards ?? []} drawn={drawn} journal={journal} />
}

interface GuidedProps {
  id: number
  name: string
  hazards: string[]
  drawn: boolean
  journal: Journal
}

const STEPS = new Set(['done', 'skipped', 'otherwise', 'despite'])
export const stepEvents = (taps: Tap[]) => taps.filter((one) => STEPS.has(one.kind)) as (Tap & Event)[]

function Guided({ id, name, hazards, drawn, journal }: GuidedProps) {
  const { units } = useCompany()
  const me = useMe()
  const { visit, taps, refused } = journal
  const guide = visit.guide
  useTelling(journal)
  const events = stepEvents(taps)
  const stand = merged(guide, events)
  const answers = answersOf(taps)
  const now = stand.left[0]
  const write = (...told: Tapped[]) => tap(visit.clientId, ...told)
  const isTwice = useTwice(now?.id ?? '', stand.taken.length)
  const tell = (kind: Event['kind'], part: Partial<Tapped> = {}) => {
    // A finger that comes down twice has read only the first of the two steps.
    if (!now || isTwice()) return
    void write({ kind, step: now.id, turn: turnOf(stand, now.id), ...part })
    window.scrollTo(0, 0)
  }
  const answer = (field: string, value: Value) => void write({ kind: 'answered', field, value }, ...unskipped(answers, field))
  const last = events.at(-1)
  const back = () => last && void write({ kind: 'took_back', of: last.clientId })
  const done = stand.taken.length
  const head = (
    <>
      <div className="flex items-baseline gap-3">
        <h1 className="min-w-0 flex-1 truncate text-lead font-bold">{name}</h1>
        <span className="text-body whitespace-nowrap text-soft">{now ? `step ${done + 1} of ${done + stand.left.length}` : 'all done'}</span>
        <Link to="/visit" className="min-h-11 px-1 py-3 text-body text-soft underline">
          Leave
        </Link>
      </div>
      <StateStrip state={stand.state} fuel={guide.facts.fuel!} store={guide.facts.store!} />
    </>
  )
  const newest = taps.at(-1)
  const aside = newest?.kind === 'set_aside' && (
    <p role="alert" className="rounded-xl border-2 border-ochre bg-sheet p-3">
      {newest.by} set this visit aside: {newest.why}. Whatever you tap takes it up again.
    </p>
  )
  const against = refused.filter((one) => one.step === now?.id).at(-1)
  const notTaken = against && (
    <p role="alert" className="rounded-xl border-2 border-oxide bg-sheet p-3">
      “{wordsOf(guide, against.step)}” was tapped here and not taken: {against.refused}
    </p>
  )
  const amiss = stand.amiss.at(-1)
  const warned = amiss && (
    <p role="alert" className="rounded-xl border-2 border-ochre bg-sheet p-3">
      Two devices tell of this visit, and “{wordsOf(guide, amiss)}” was done out of turn. Look at every valve before you go on: the strip above says how they should stand.
    </p>
  )
  if (!now) {
    return (
      <VisitShell
        head={head}
        bar={
          <div className="grid grid-cols-[1fr_2fr] gap-3">
            <Button className="min-h-13 text-lead" onClick={back}>Back</Button>
            <Button look="main" className="min-h-13 text-lead" asChild>
              <Link to={`/visit/${id}/close`}>Look over and save</Link>
            </Button>
          </div>
        }
      >
        {aside}
        {warned}
        <Left guide={guide} state={stand.state} />
      </VisitShell>
    )
  }
  const holding = held(guide, now.step, stand.state)
  const free = holding.length === 0
  const questions = questionsOf(now.step.asks, guide.facts.store === 'tank', drawn)
  const figure = guide.figures.find((one) => one.name === now.step.figure)
  return (
    <VisitShell
      head={head}
      bar={
        <div className="space-y-2">
          {now.step.otherwise.length > 0 && (
            <div className="grid gap-2">
              {now.step.otherwise.map((other, choice) => (
                <Button key={other.says} className="min-h-12 text-body" onClick={() => tell('otherwise', { choice })}>
                  {other.says}
                </Button>
              ))}
            </div>
          )}
          <div className="grid grid-cols-[1fr_1fr_2fr] gap-2">
            <Button className="min-h-13 px-1 text-body" disabled={!last} onClick={back}>Back</Button>
            <Button className="min-h-13 px-1 text-body" onClick={() => tell('skipped')}>Leave out</Button>
            <Button look="main" className="min-h-13 text-lead" disabled={!free} onClick={() => tell('done')}>
              {free ? 'Done' : 'Held'}
            </Button>
          </div>
        </div>
      }
    >
      <SiteHazards hazards={hazards} />
      {aside}
      {notTaken}
      {warned}
      {!free && <Holding key={now.id} holding={holding} may={guide.may_override} onDespite={(why) => tell('despite', { why })} />}
      <StepCard key={now.id + String(done)} step={now.step} title={guide.procedures[now.procedure]!.title} figure={figure} answers={answers} minutes={minutesOf(now.step, guide.figures)} since={last?.at ?? null} units={units}>
        {figure && <Calculator figure={figure} answers={answers} usual={guide.usual_readings} units={units} onAnswer={answer} />}
      </StepCard>
      {drawn && <Drawn fields={questions.map((one) => one.field)} />}
      {questions.length > 0 && (
        <Sheet>
          <Next key={now.id}>
            <AnswerSheet questions={questions} answers={answers} usual={guide.usual_readings} units={units} onAnswer={answer} />
          </Next>
        </Sheet>
      )}
      <Verdicts judged={judged(guide.moments, answers, questions.map((one) => one.field))} />
      <Aids
        key={now.id}
        photograph={<Photograph visit={visit.clientId} heaterId={id} by={me.id} caption={now.step.do} />}
        ask={(open) => (
          <AskLead
            taps={taps}
            step={now.id}
            held={!free}
            open={open}
            onAsk={(why) => void write({ kind: 'asked', step: now.id, why })}
            onGoOn={(advice) => tell('despite', { why: `${advice.by} said so: ${advice.why || 'go on'}`, of: advice.clientId })}
          />
        )}
        reckon={<Others figures={guide.figures} besides={figure?.name ?? ''} answers={answers} usual={guide.usual_readings} units={units} onAnswer={answer} />}
      />
      <p className="px-1 text-body text-soft">Kept on this device. Local codes and the heater’s own instructions come first.</p>
    </VisitShell>
  )
}

/** Drawn in the frame after the step itself, so that a tap is answered at once on a slow telephone too. */
function Next({ children }: { children: ReactNode }) {
  const [now, setNow] = useState(false)
  useEffect(() => {
    const frame = requestAnimationFrame(() => startTransition(() => setNow(true)))
    return () => cancelAnimationFrame(frame)
  }, [])
  return now && children
}

/** An answer in a group that was left out takes it in again. */
export function unskipped(answers: Answers, field: string): Tapped[] {
  const skipped = `${field.split('.')[0]}.skipped`
  return answers[skipped] === true && field !== skipped ? [{ kind: 'answered', field: skipped, value: false }] : []
}

function wordsOf(guide: Schema['GuideOut'], name: string): string {
  const [procedure, own] = name.split('.')
  return guide.procedures[procedure!]?.steps.find((one) => one.id === own)?.do ?? name
}

interface OthersProps {
  figures: Schema['FigureOut'][]
  besides: string
  answers: Answers
  usual: Record<string, number[]>
  units: Units
  onAnswer: (field: string, value: Value) => void
}

/** Every calculator, at any step. */
function Others({ figures, besides, ...rest }: OthersProps) {
  return <Sheet>{figures.filter((one) => one.name !== besides).map((one) => <Calculator key={one.name} figure={one} {...rest} />)}</Sheet>
}

/** What helps at any step: a photograph, a question, a calculation. */
function Aids({ photograph, ask, reckon }: { photograph: ReactNode; ask: (open: boolean) => ReactNode; reckon: ReactNode }) {
  const [open, setOpen] = useState<'ask' | 'reckon' | null>(null)
  const toggle = (one: 'ask' | 'reckon') => setOpen((before) => (before === one ? null : one))
  return (
    <>
      <div className="grid grid-cols-3 gap-2">
        {photograph}
        <Button className="min-h-12 px-1 text-body" aria-expanded={open === 'ask'} onClick={() => toggle('ask')}>
          Ask the lead
        </Button>
        <Button className="min-h-12 px-1 text-body" aria-expanded={open === 'reckon'} onClick={() => toggle('reckon')}>
          Reckon
        </Button>
      </div>
      {ask(open === 'ask')}
      {open === 'reckon' && reckon}
    </>
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
  figure: Schema['FigureOut'] | undefined
  answers: Answers
  minutes: number
  /** When the step before was done, by its device. */
  since: string | null
  units: Units
  children: ReactNode
}

function StepCard({ step, title, figure, answers, minutes, since, units, children }: StepCardProps) {
  return (
    <Sheet>
      <p className="text-body text-soft">{title}</p>
      <h2 className="mt-0.5 text-[1.35rem] leading-snug font-bold">{step.do}</h2>
      {step.why && <p className="mt-1.5 text-soft">{step.why}</p>}
      {step.caution && <p className="mt-2 border-l-4 border-oxide pl-3 font-semibold text-oxide">{step.caution}</p>}
      {minutes >= 4 && <Running minutes={minutes} since={since} />}
      {figure && (figure.unit !== 'min' || step.minutes === 0) && (
        <p className="mt-2">
          About <strong>{figureWords(figure.unit, valueOf(figure, answers), units)}</strong>
        </p>
      )}
      {step.expect && <p className="mt-2">Expected: <strong>{step.expect}</strong></p>}
      {step.tool && <p className="mt-1 text-body text-soft">With {step.tool}</p>}
      {children}
    </Sheet>
  )
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
