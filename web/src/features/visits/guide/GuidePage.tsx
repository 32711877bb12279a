import { useQuery } from '@tanstack/react-query'
import { startTransition, useCallback, useEffect, useState, type ReactNode } from 'react'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../../api/client'
import { useCompany, useMe } from '../../../session/session'
import { tap, useEventLog, type EventLog, type Tapped } from '../../../device/eventLog'
import { VisitSection } from '../../../drawing/VisitSection'
import { phrase } from '../../../lib/phrases'
import type { Units } from '../../../lib/units'
import { Button } from '../../../ui/Button'
import { Loading } from '../../../ui/States'
import { heaterOptions, logOptions } from '../../../records/heaterQueries'
import { answersOf, type Answers, type Value } from '../answers'
import { AnswerSheet, Drawn } from '../AnswerSheet'
import { questionsOf } from '../questions'
import { RecordedElsewhere } from '../Recorded'
import { useTelling } from '../telling'
import { SiteHazards, Sheet, VisitShell } from '../VisitShell'
import { Aids } from './Aids'
import { AskLead } from './AskLead'
import { useAway } from './away'
import { Back } from './Back'
import { Briefing, minutesOf } from './Briefing'
import { figureWords } from '../../../lib/figures'
import { Calculator, valueOf } from './Calculator'
import { eventsOf } from './events'
import { Holding } from './Holding'
import { held, othersOf, type Step } from './interlock'
import { judged } from './judged'
import { Left } from './Left'
import { Notes } from './Notes'
import { Photograph } from './Photograph'
import { Pictures } from './Pictures'
import { SkipStep } from './SkipStep'
import { SomethingElse } from './SomethingElse'
import { told, type Guide } from './state'
import { straight } from './straight'
import { TakeOver } from './TakeOver'
import { useTwice } from './twice'
import { Verdicts } from './Verdicts'
import { folded, holding, STEPS, toCome, type At, type Stand } from './visit'

export function GuidePage() {
  const id = Number(useParams().heaterId)
  const heater = useQuery(heaterOptions(id)).data
  // For the page that saves the visit too, which may be opened without a signal.
  const drawn = useQuery(logOptions(id)).data?.measure ?? false
  const eventLog = useEventLog(id, useMe().id)
  const name = heater?.site.name ?? eventLog?.visit.name ?? 'Visit'
  if (eventLog === undefined)
    return (
      <VisitShell head={<h1 className="text-title">Visit</h1>}>
        <Loading what="this visit" />
      </VisitShell>
    )
  if (eventLog === null) return <Briefing id={id} name={name} hazards={heater?.site.hazards ?? []} />
  if (eventLog.visit.recorded) return <RecordedElsewhere eventLog={eventLog} recorded={eventLog.visit.recorded} />
  return (
    <Guided
      key={eventLog.visit.clientId}
      id={id}
      name={name}
      hazards={heater?.site.hazards ?? []}
      drawn={drawn}
      eventLog={eventLog}
    />
  )
}

interface GuidedProps {
  id: number
  name: string
  hazards: string[]
  drawn: boolean
  eventLog: EventLog
}

/** Steps that cannot hurt share one Done with the step before them. */
function together(guide: Guide, stand: Stand): At[] {
  const [now, ...rest] = toCome(guide, stand)
  if (!now) return []
  const found = [now]
  for (const at of rest) {
    if (!at.step.joins || at.procedure !== now.procedure || held(guide, at.step, stand.state).length > 0) break
    found.push(at)
  }
  return found
}

function Guided({ id, name, hazards, drawn, eventLog }: GuidedProps) {
  const { units, is_demo: isDemo } = useCompany()
  const me = useMe()
  const { visit, taps, every, refused, here } = eventLog
  const guide = visit.guide
  useTelling(eventLog)
  const events = eventsOf(guide, every)
  const stand = folded(guide, events)
  const answers = answersOf(taps)
  const now = stand.left[0]
  const write = (...told: Tapped[]) => tap(visit.clientId, ...told)
  const steps = every.filter((one) => STEPS.includes(one.kind))
  const last = taps.filter((one) => STEPS.includes(one.kind)).at(-1)
  // What shared one Done goes back together.
  const lastTap = taps.filter((one) => STEPS.includes(one.kind) && one.at === last?.at && one.device === last.device)
  const isTwice = useTwice(now?.id ?? '', steps.length)
  const tell = (...what: Tapped[]) => {
    // A finger that comes down twice has read only the first of the two steps.
    if (isTwice()) return
    void write(...what)
    window.scrollTo(0, 0)
  }
  const answer = (field: string, value: Value) =>
    void write({ kind: 'answered', field, value }, ...unskipped(answers, field))
  const leads = !stand.leads || !here || stand.leads === here
  const mine = every.filter((one) => one.device === here).at(-1)
  const onAway = useCallback(() => void tap(visit.clientId, { kind: 'outside', name: 'away' }), [visit.clientId])
  useAway(now && leads ? mine : undefined, guide.limits.away_min!, onAway)
  const done = new Set(
    taps.filter((one) => STEPS.includes(one.kind) && one.step !== stand.doubted).map((one) => one.step),
  ).size
  const hold = now ? holding(guide, stand) : []
  const joined = now ? (hold.length === 0 ? together(guide, stand) : [now]) : []
  const head = (
    <>
      {/* The step changes under the thumb: who does not see it hears it, with its caution, before the next tap. */}
      <p role="status" className="sr-only">
        {joined
          .flatMap(({ step }) => [phrase(step.do, units), step.caution && `Caution: ${phrase(step.caution, units)}`])
          .filter(Boolean)
          .join(' ') || 'Every step is done.'}
      </p>
      <div className="flex items-baseline gap-3">
        <h1 className="min-w-0 flex-1 wrap-break-word text-lead font-bold">{name}</h1>
        <span className="text-body whitespace-nowrap text-soft">
          {now ? `step ${done + 1} of ${done + straight(guide, events).length}` : 'all done'}
        </span>
        <Link to="/visit" className="min-h-11 px-1 py-3 text-body text-soft underline">
          Leave
        </Link>
      </div>
      <VisitSection
        words={told(guide, stand.state)}
        level={stand.state.level}
        fuel={guide.facts.fuel!}
        store={guide.facts.store!}
        ignition={stand.state.words.ignition!.join()}
        part={now?.step.part ?? ''}
      />
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
      “{wordsOf(guide, against.step, units)}” was tapped here and not taken: {against.refused}
    </p>
  )
  const back = last && (
    <Back
      key={last.clientId}
      guide={guide}
      events={events}
      last={lastTap}
      units={units}
      onBack={(choice) =>
        tell(...lastTap.toReversed().map((one) => ({ kind: 'undo' as const, of: one.clientId, choice })))
      }
    />
  )
  if (!leads) {
    const leader = every.filter((one) => one.device === stand.leads).at(-1)
    return (
      <VisitShell head={head}>
        <SiteHazards hazards={hazards} />
        <TakeOver
          by={leader?.by ?? ''}
          last={last ? wordsOf(guide, last.step, units) : ''}
          next={now ? phrase(now.step.do, units) : ''}
          onTakeOver={(choice) => tell({ kind: 'took_over', choice })}
        />
      </VisitShell>
    )
  }
  if (!now) {
    return (
      <VisitShell
        head={head}
        bar={
          <div className="grid grid-cols-[1fr_2fr] gap-3">
            {back ?? <span />}
            <Button look="main" className="min-h-13 text-lead" asChild>
              <Link to={`/visit/${id}/close`} data-next>
                Review and save
              </Link>
            </Button>
          </div>
        }
      >
        {aside}
        <Left guide={guide} stand={stand} />
        <SomethingElse
          guide={guide}
          stand={stand}
          onFound={(thing) => tell({ kind: 'found', name: thing })}
          onHappened={(thing) => tell({ kind: 'outside', name: thing })}
        />
      </VisitShell>
    )
  }
  const free = hold.length === 0
  const asks = joined.flatMap((at) => at.step.asks)
  const questions = questionsOf(asks, guide.facts.store === 'tank', drawn, guide.observations)
  const figure = guide.figures.find((one) => one.name === now.step.figure)
  const others = othersOf(guide, now.step, stand.state)
  return (
    <VisitShell
      head={head}
      bar={
        <div className="space-y-2">
          {others.length > 0 && (
            <div className={`grid gap-2 ${others.length > 3 ? 'grid-cols-2' : ''}`}>
              {others.map((other) => (
                <Button
                  key={`${other.choice}`}
                  className="min-h-12 px-2 text-body whitespace-normal!"
                  onClick={() => tell({ kind: 'deviation', step: now.id, choice: other.choice })}
                >
                  {other.says}
                </Button>
              ))}
            </div>
          )}
          <div className="grid grid-cols-[1fr_1fr_2fr] gap-2">
            {back ?? (
              <Button className="min-h-13 px-1 text-body" disabled>
                Back
              </Button>
            )}
            <SkipStep key={now.id} step={now.step} onSkip={(why) => tell({ kind: 'skipped', step: now.id, why })} />
            <Button
              look="main"
              data-next
              className="min-h-13 text-lead"
              disabled={!free}
              onClick={() => tell(...joined.map((at) => ({ kind: 'done' as const, step: at.id })))}
            >
              {free ? 'Done' : 'Not safe yet'}
            </Button>
          </div>
        </div>
      }
    >
      <SiteHazards hazards={hazards} />
      {guide.left_as && steps.length === 0 && (
        <p role="alert" className="rounded-xl border-2 border-ochre bg-sheet p-3">
          {guide.left_as}
        </p>
      )}
      {aside}
      {notTaken}
      {stand.doubted === now.id && (
        <p role="alert" className="rounded-xl border-2 border-ochre bg-sheet p-3">
          Look once more: that was too quick to be seen, or cannot be so yet.
        </p>
      )}
      {!free && (
        <Holding
          key={`hold ${now.id}`}
          holding={hold}
          may={guide.may_override}
          onSettle={(rule) => tell({ kind: 'settled', step: now.id, name: rule })}
          onOverride={(why) => tell({ kind: 'override', step: now.id, why })}
        />
      )}
      <StepCard
        key={`step ${now.id} ${steps.length}`}
        step={now.step}
        joined={joined.slice(1)}
        title={guide.procedures[now.procedure]!.title}
        known={guide.on_record?.[now.step.part] ?? ''}
        figure={figure}
        answers={answers}
        minutes={minutesOf(now.step, guide.figures)}
        since={last?.at ?? null}
        units={units}
      >
        {figure && (
          <Calculator figure={figure} answers={answers} usual={guide.usual_readings} units={units} onAnswer={answer} />
        )}
      </StepCard>
      <Pictures
        key={`pictures ${now.id}`}
        visit={visit.clientId}
        heaterId={id}
        by={me.id}
        step={now.step}
        units={units}
      />
      {drawn && <Drawn fields={questions.map((one) => one.field)} />}
      {questions.length > 0 && (
        <Sheet>
          <Next key={now.id}>
            <AnswerSheet
              questions={questions}
              answers={answers}
              usual={guide.usual_readings}
              units={units}
              at={{ heaterId: id, isDemo: isDemo && guide.possible.includes('sediment') }}
              onAnswer={answer}
            />
          </Next>
        </Sheet>
      )}
      <Verdicts
        judged={judged(
          guide.on_site_rules,
          answers,
          questions.map((one) => one.field),
        )}
      />
      <Aids
        key={`aids ${now.id} ${steps.length}`}
        photograph={
          <Photograph
            visit={visit.clientId}
            heaterId={id}
            by={me.id}
            caption={phrase(now.step.do, units)}
            piece={now.step.part}
          />
        }
        ask={(open) => (
          <AskLead
            taps={taps}
            step={now.id}
            held={!free}
            open={open}
            onAsk={(why) => void write({ kind: 'asked', step: now.id, why })}
            onGoOn={(advice) =>
              tell({
                kind: 'override',
                step: now.id,
                why: `${advice.by} said so: ${advice.why || 'go on'}`,
                of: advice.clientId,
              })
            }
          />
        )}
        note={<Notes taps={taps} step={now.id} onTell={(one) => void write(one)} />}
        reckon={
          <Others
            figures={guide.figures}
            besides={figure?.name ?? ''}
            answers={answers}
            usual={guide.usual_readings}
            units={units}
            onAnswer={answer}
          />
        }
        more={
          <SomethingElse
            guide={guide}
            stand={stand}
            onFound={(thing) => tell({ kind: 'found', name: thing })}
            onHappened={(thing) => tell({ kind: 'outside', name: thing })}
          />
        }
      />
      <p className="px-1 text-body text-soft">
        Kept on this device. Local codes and the heater’s own instructions come first.
      </p>
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

function wordsOf(guide: Guide, name: string, units: Units): string {
  const [procedure, own] = name.split('.')
  return phrase(guide.procedures[procedure!]?.steps.find((one) => one.id === own)?.do ?? name, units)
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
  return (
    <Sheet>
      {figures
        .filter((one) => one.name !== besides)
        .map((one) => (
          <Calculator key={one.name} figure={one} {...rest} />
        ))}
    </Sheet>
  )
}

interface StepCardProps {
  step: Step
  /** Steps that share its Done. */
  joined: At[]
  title: string
  /** What is on record of the piece that it is about. */
  known: string
  figure: Schema['FigureOut'] | undefined
  answers: Answers
  minutes: number
  /** When the step before was done, by its device. */
  since: string | null
  units: Units
  children: ReactNode
}

function StepCard({ step, joined, title, known, figure, answers, minutes, since, units, children }: StepCardProps) {
  return (
    <Sheet>
      <p className="text-body text-soft">{title}</p>
      <h2 className="mt-0.5 text-[1.35rem] leading-snug font-bold">{phrase(step.do, units)}</h2>
      {step.why && <p className="mt-1.5 text-soft">{phrase(step.why, units)}</p>}
      {step.caution && (
        <p className="mt-2 border-l-4 border-oxide pl-3 font-semibold text-oxide">{phrase(step.caution, units)}</p>
      )}
      {minutes >= 4 && <Running minutes={minutes} since={since} />}
      {figure && (figure.unit !== 'min' || step.minutes === 0) && (
        <p className="mt-2">
          About <strong>{figureWords(figure.unit, valueOf(figure, answers), units)}</strong>
        </p>
      )}
      {step.expect && (
        <p className="mt-2">
          Expected: <strong>{phrase(step.expect, units)}</strong>
        </p>
      )}
      {known && <p className="mt-1 text-body text-soft">On record: {known}</p>}
      {step.tool && <p className="mt-1 text-body text-soft">With {step.tool}</p>}
      {children}
      {joined.length > 0 && (
        <ul aria-label="And then" className="mt-3 space-y-2 border-t border-line pt-3">
          {joined.map((at) => (
            <li key={at.id}>
              <strong>{phrase(at.step.do, units)}</strong>
              {at.step.why && <span className="block text-body text-soft">{phrase(at.step.why, units)}</span>}
              {at.step.caution && (
                <span className="block border-l-4 border-oxide pl-3 text-body font-semibold text-oxide">
                  {phrase(at.step.caution, units)}
                </span>
              )}
            </li>
          ))}
        </ul>
      )}
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
