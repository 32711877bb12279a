import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, Navigate, useParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay, useMe } from '../../session/session'
import { dayAt } from '../../api/clock'
import { tap, tapsOf, useEventLog, type EventLog } from '../../device/eventLog'
import { reached } from '../../device/reached'
import { addDays, dateWords, isoDay } from '../../lib/dates'
import { COMPONENTS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { useSecondTap } from '../../ui/useSecondTap'
import { Choice } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { heaterOptions, logOptions } from '../../records/heaterQueries'
import { answersOf, isAnything, type Answers, type Value } from './answers'
import { Drawn } from './AnswerSheet'
import { standOf } from './guide/events'
import { unskipped } from './guide/GuidePage'
import { Left } from './guide/Left'
import { Noted } from './guide/Notes'
import { STEPS } from './guide/visit'
import { supervisorsOptions, useRecordVisit } from './queries'
import { groupsOf, questionsOf } from './questions'
import { Recorded, RecordedElsewhere } from './Recorded'
import { Signature } from './Signature'
import { useTelling } from './telling'
import { Told } from './Told'
import { SiteHazards, Sheet, VisitShell } from './VisitShell'

/** The last page of a visit: how it is left, what was found, who signs; then it is saved. */
export function ClosePage() {
  const id = Number(useParams().heaterId)
  const eventLog = useEventLog(id, useMe().id)
  const heater = useQuery(heaterOptions(id))
  const log = useQuery(logOptions(id))
  const record = useRecordVisit()
  if (record.data === null) return <Kept />
  if (record.data) return <Recorded visit={record.data} answers={record.variables.answers} />
  const head = <h1 className="text-title">Visit</h1>
  const failed = (heater.data ? null : heater.error) ?? (log.data ? null : log.error)
  if (failed)
    return (
      <VisitShell head={head}>
        <Failed error={failed} onRetry={() => void Promise.all([heater.refetch(), log.refetch()])} />
      </VisitShell>
    )
  if (record.isPending)
    return (
      <VisitShell head={head}>
        <Sheet>
          <p role="status">Kept on this device; sending …</p>
        </Sheet>
      </VisitShell>
    )
  if (eventLog === undefined || !heater.data || !log.data)
    return (
      <VisitShell head={head}>
        <Loading what="this visit" />
      </VisitShell>
    )
  // A visit that the server refused is back on this device before this page has read it again.
  if (eventLog === null && record.error)
    return (
      <VisitShell head={head}>
        <Sheet>
          <p role="alert">{record.error.message}</p>
          <p>Reading what was told of it …</p>
        </Sheet>
      </VisitShell>
    )
  if (eventLog === null) return <Navigate to={`/visit/${id}`} replace />
  if (eventLog.visit.recorded) return <RecordedElsewhere eventLog={eventLog} recorded={eventLog.visit.recorded} />
  return <Close key={eventLog.visit.clientId} eventLog={eventLog} heater={heater.data} log={log.data} record={record} />
}

function Kept() {
  const onClick = useSecondTap()
  return (
    <VisitShell
      head={<h1 className="text-title">Kept on this device</h1>}
      bar={
        <Button look="main" className="min-h-13 w-full text-lead" asChild>
          <Link to="/visit" onClick={onClick}>
            Next heater
          </Link>
        </Button>
      }
    >
      <Sheet>
        <p>{reached()} The visit is whole on this device and is sent by itself; nothing more is to be done.</p>
      </Sheet>
    </VisitShell>
  )
}

interface CloseProps {
  eventLog: EventLog
  heater: Schema['HeaterOut']
  log: Schema['LogOut']
  record: ReturnType<typeof useRecordVisit>
}

/** The group in which each component's findings are told. */
const GROUP_OF: Partial<Record<Schema['Component'], string>> = {
  sediment: 'flush',
  scale: 'descale',
  anode: 'rod',
  relief_valve: 'valve',
  expansion_tank: 'expansion_tank',
}

/** What is told of a heater in these is the looking over, which is signed off as the tank. */
const LOOKS = ['look', 'pressure', 'upkeep']

function Close({ eventLog, heater, log, record }: CloseProps) {
  const { units, timezone } = useCompany()
  const recordsAlone = useMay('record_alone')
  const [asking, setAsking] = useState<string | null>(null)
  const [returnOn, setReturnOn] = useState<string | null>(null)
  const [signing, setSigning] = useState(false)
  const [signature, setSignature] = useState<Schema['SignatureIn'] | null>(null)
  const { visit, taps } = eventLog
  const guide = visit.guide
  useTelling(eventLog)
  const answers = answersOf(taps)
  const events = eventLog.every.filter((one) => STEPS.includes(one.kind))
  const stand = standOf(eventLog)
  const isOff = stand.ending !== '' && ['left_off', 'evacuated'].includes(guide.endings[stand.ending]!.leaves)
  const groups = groupsOf(heater, log.upkeep, guide.observations)
  // A guide that was kept before it said so goes by the role.
  const supervised = guide.supervision ?? (recordsAlone ? [] : null)
  const done = (Object.entries(GROUP_OF) as [Schema['Component'], string][])
    .filter(([one, group]) => guide.components.includes(one) || isTold(answers, group))
    .map(([one]) => one)
  const looked = LOOKS.some((group) => isTold(answers, group))
  const work: Schema['Component'][] = done.length > 0 && !looked ? done : [...done, 'tank']
  const alone = supervised !== null && !work.some((one) => supervised.includes(one))
  const untold = guide.components.filter((one) => GROUP_OF[one] && !isTold(answers, GROUP_OF[one]))
  const writing = useRef(Promise.resolve())
  const saving = useRef(false)
  const answer = (field: string, value: Value) => {
    writing.current = tap(visit.clientId, { kind: 'answered', field, value }, ...unskipped(answers, field))
  }
  /** A second tap meanwhile is the same wish. */
  const saveOnce = async () => {
    if (saving.current) return
    saving.current = true
    await save()
    saving.current = false
  }
  const save = async () => {
    // What was tapped a moment ago may not be written yet, and is not on this page before it is.
    await writing.current
    const answers = answersOf(await tapsOf(visit.clientId))
    const noted = eventLog.every.some((one) => one.kind === 'noted')
    if (!isAnything(answers) && events.length === 0 && !noted)
      return setAsking('Record at least one finding before saving.')
    if (!alone && typeof answers.supervised_by !== 'number') return setAsking('Say under whom you worked.')
    setAsking(null)
    record.mutate({
      heater: visit.name,
      answers,
      body: {
        client_id: visit.clientId,
        heater_id: heater.id,
        on: dayAt(timezone),
        findings: [],
        note: String(answers.note ?? ''),
        supervised_by: typeof answers.supervised_by === 'number' ? answers.supervised_by : null,
        signature,
        return_on: isOff ? returnOn : null,
      },
    })
  }
  return (
    <VisitShell
      head={
        <div className="flex items-center gap-3">
          <h1 className="min-w-0 flex-1 wrap-break-word text-title">{heater.site.name}</h1>
          <Link to={`/visit/${heater.id}`} className="min-h-11 px-2 py-3 text-body text-soft underline">
            {events.length > 0 || stand.left.length > 0 ? 'To the steps' : 'Back'}
          </Link>
        </div>
      }
      bar={
        <>
          {(asking || record.error) && (
            <p role="alert" className="mb-3 border-l-4 border-oxide pl-3 font-semibold text-oxide">
              {asking ?? record.error?.message}
            </p>
          )}
          <Button look="main" className="min-h-13 w-full text-lead" onClick={() => void saveOnce()}>
            Save the visit
          </Button>
        </>
      }
    >
      <SiteHazards hazards={heater.site.hazards} />
      {events.length > 0 && <Left guide={guide} stand={stand} />}
      {isOff && <Promised today={dayAt(timezone)} value={returnOn} onChange={setReturnOn} />}
      {untold.length > 0 && (
        <p role="status" className="rounded-xl border-2 border-ochre bg-sheet p-3">
          Planned, not recorded yet: {untold.map((one) => COMPONENTS[one].toLowerCase()).join(', ')}.
        </p>
      )}
      {log.measure && (
        <Drawn
          fields={groups
            .flatMap((group) => questionsOf(group.asks, heater.is_tank, true).map((one) => one.field))
            .filter((field) => answers[field] === undefined)}
        />
      )}
      <section aria-label="What was found" className="overflow-hidden rounded-xl bg-sheet">
        {groups.map((group) => (
          <Told
            key={group.of}
            group={group}
            isTank={heater.is_tank}
            observations={guide.observations ?? []}
            answers={answers}
            rules={guide.on_site_rules}
            usual={guide.usual_readings}
            units={units}
            onAnswer={answer}
          />
        ))}
      </section>
      {taps.some((one) => one.kind === 'noted') && (
        <Sheet title="Notes">
          <Noted taps={taps} onBack={(of) => void tap(visit.clientId, { kind: 'undo', of })} />
        </Sheet>
      )}
      <Sheet>
        <ForTheCustomer
          value={typeof answers.note === 'string' ? answers.note : ''}
          onChange={(note) => answer('note', note)}
        />
      </Sheet>
      <details className="rounded-xl bg-sheet" onToggle={(event) => event.currentTarget.open && setSigning(true)}>
        <summary className="min-h-13 cursor-pointer px-4 py-3.5 font-bold">
          Signature <span className="font-normal text-soft">{signature ? signature.name : 'not signed'}</span>
        </summary>
        {/* The pad takes its size from what is shown. */}
        <div className="px-4 pb-4">{signing && <Signature value={signature} onChange={setSignature} />}</div>
      </details>
      {(supervised === null || supervised.length > 0) && (
        <Supervisor
          needed={!alone}
          value={answers.supervised_by as number | undefined}
          onChange={(id) => answer('supervised_by', id)}
        />
      )}
      <p className="px-1 text-body text-soft">
        Kept on this device until it is saved. Afterwards it is amended, not altered.
      </p>
    </VisitShell>
  )
}

/** What the customer's report says besides what was found. */
function ForTheCustomer({ value, onChange }: { value: string; onChange: (words: string) => void }) {
  return (
    <label className="block">
      <span className="font-bold">A line for the customer’s report</span>
      <textarea
        rows={2}
        maxLength={300}
        defaultValue={value}
        placeholder="The shut-off behind the washer is yours to use"
        onBlur={(event) => event.target.value.trim() !== value && onChange(event.target.value.trim())}
        className="mt-1 w-full rounded-lg border-2 border-rule bg-ground p-3"
      />
    </label>
  )
}

const RETURNS = [1, 2, 3, 7]

/** When the customer was told that somebody comes back. */
function Promised({
  today,
  value,
  onChange,
}: {
  today: string
  value: string | null
  onChange: (on: string | null) => void
}) {
  const after = (days: number) => isoDay(addDays(today, days))
  const options = [
    { on: null, words: 'The office calls' },
    ...RETURNS.map((days) => ({ on: after(days), words: dateWords(after(days), today) })),
  ]
  return (
    <Sheet title="Back by">
      <div role="radiogroup" aria-label="Back by" className="grid grid-cols-2 gap-2">
        {options.map((one) => (
          <Button
            key={one.words}
            role="radio"
            aria-checked={one.on === value}
            look={one.on === value ? 'main' : 'plain'}
            className="min-h-12"
            onClick={() => onChange(one.on)}
          >
            {one.words}
          </Button>
        ))}
      </div>
    </Sheet>
  )
}

const isTold = (answers: Answers, group: string) =>
  Object.entries(answers).some(([field, value]) => field.startsWith(`${group}.`) && value !== null && value !== false)

interface SupervisorProps {
  /** Somebody has to be named; else somebody may be. */
  needed: boolean
  value: number | undefined
  onChange: (id: number | null) => void
}

function Supervisor({ needed, value, onChange }: SupervisorProps) {
  const people = useQuery(supervisorsOptions).data ?? []
  return (
    <Sheet>
      <Choice
        className="[&_select]:h-12"
        label="I worked under"
        value={value ?? ''}
        onChange={(event) => onChange(event.target.value ? Number(event.target.value) : null)}
      >
        <option value="">{needed ? 'Choose …' : 'Alone'}</option>
        {people.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </Choice>
    </Sheet>
  )
}
