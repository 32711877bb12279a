import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../app/session'
import { HeaterSign } from '../../drawing/HeaterSign'
import { KINDS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Field'
import { Failed, Hazard, Loading } from '../../ui/States'
import { heaterOptions, logOptions } from '../heaters/queries'
import { findings, forgetDraft, useDraft } from './draft'
import { BeforeYouStart } from './BeforeYouStart'
import { Moved } from './Moved'
import { supervisorsOptions, useRecordVisit } from './queries'
import { DescaleStep, FlushStep, LookStep, RodStep, UpkeepStep, ValveStep, VesselStep, type StepProps } from './steps'
import { Sheet, VisitShell } from './VisitShell'

export function VisitPage() {
  const id = Number(useParams().heaterId)
  const heater = useQuery(heaterOptions(id))
  const log = useQuery(logOptions(id))
  // What is on the device is enough, whatever became of asking for it anew.
  const failed = (heater.data ? null : heater.error) ?? (log.data ? null : log.error)
  if (failed) return <VisitShell head={<h1 className="text-title">Visit</h1>}><Failed error={failed} onRetry={() => void Promise.all([heater.refetch(), log.refetch()])} /></VisitShell>
  if (!heater.data || !log.data) return <VisitShell head={<h1 className="text-title">Visit</h1>}><Loading what="this heater" /></VisitShell>
  return <Visit key={id} heater={heater.data} log={log.data} />
}

const STEPS: { name: string; step: (props: StepProps) => React.ReactNode; fits: (heater: Schema['HeaterOut'], log: Schema['LogOut']) => boolean }[] = [
  { name: 'Look', step: LookStep, fits: (heater) => heater.is_tank },
  { name: 'Relief', step: ValveStep, fits: () => true },
  { name: 'Flush', step: FlushStep, fits: (heater) => heater.is_tank },
  { name: 'Descale', step: DescaleStep, fits: (heater) => !heater.is_tank },
  { name: 'Anode', step: RodStep, fits: (heater) => heater.is_tank && hasRod(heater) },
  { name: 'Expansion', step: VesselStep, fits: (heater) => heater.parts.some((part) => part.kind === 'expansion_tank') },
  { name: 'Upkeep', step: UpkeepStep, fits: (_, log) => log.upkeep.length > 0 },
]

function hasRod(heater: Schema['HeaterOut']): boolean {
  const rod = heater.parts.find((part) => part.kind === 'anode')
  return !rod || (rod.alloy !== 'none' && rod.alloy !== 'powered')
}

function Visit({ heater, log }: { heater: Schema['HeaterOut']; log: Schema['LogOut'] }) {
  const { today, units, flush_method: usualMethod } = useCompany()
  const alone = useMay('record a visit without a supervisor')
  const { draft, change } = useDraft(heater.id)
  const [asking, setAsking] = useState<string | null>(null)
  const record = useRecordVisit()
  const steps = STEPS.filter((one) => one.fits(heater, log))
  const at = Math.min(draft.step, steps.length - 1)
  const Step = steps[at]!.step
  const found = findings(draft, usualMethod)
  const last = at === steps.length - 1

  if (record.data === null) {
    return (
      <VisitShell
        head={<h1 className="text-title">Kept on this device</h1>}
        bar={
          <Button look="main" className="min-h-13 w-full text-lead" asChild>
            <Link to="/visit">Next heater</Link>
          </Button>
        }
      >
        <Sheet>
          <p>There is no signal. The visit is whole on this device and is sent by itself as soon as there is one; nothing more is to be done.</p>
        </Sheet>
      </VisitShell>
    )
  }
  if (record.data) {
    return (
      <VisitShell
        head={<h1 className="text-title">Recorded. What moved</h1>}
        bar={
          <div className="grid grid-cols-2 gap-3">
            <Button className="min-h-13 text-lead" asChild>
              <Link to={`/heaters/${heater.id}`}>Open heater</Link>
            </Button>
            <Button look="main" className="min-h-13 text-lead" asChild>
              <Link to="/visit">Next heater</Link>
            </Button>
          </div>
        }
      >
        {record.data.already_recorded && <p className="px-2 text-soft">This visit had reached the office already; it stands once.</p>}
        <Moved moved={record.data.moved} today={today} />
        <a href={`/api/visits/${record.data.id}/report.pdf`} target="_blank" rel="noreferrer" className="block min-h-11 px-2 py-2.5 text-copper-deep underline">
          The report for the customer, as PDF
        </a>
      </VisitShell>
    )
  }

  const send = () => {
    if (found.length === 0) return setAsking('Nothing was recorded yet: tap what you found, or leave.')
    if (!alone && draft.supervisedBy === null) return setAsking('Say under whom you worked.')
    setAsking(null)
    record.mutate(
      { heater: `${heater.site.name}, ${heater.tag}`, body: { client_id: draft.clientId, heater_id: heater.id, on: today, findings: found, note: '', supervised_by: alone ? null : draft.supervisedBy, steps: draft.events } },
      { onSuccess: () => forgetDraft(heater.id) },
    )
  }
  return (
    <VisitShell
      head={
        <>
          <div className="flex items-center gap-3">
            <HeaterSign kind={heater.kind} depthShare={share(log)} anodeLeft={left(log)} height={34} />
            <h1 className="min-w-0 flex-1 truncate text-lead">
              {heater.site.name}
              <span className="block truncate text-body font-normal text-soft">
                {KINDS[heater.kind]} · {heater.tag}
                {heater.location && ` · ${heater.location}`}
              </span>
            </h1>
            <Link to="/visit" className="min-h-11 px-2 py-3 text-body text-soft underline">
              Leave
            </Link>
          </div>
          <nav aria-label="Steps" className={`mt-2 grid auto-cols-fr grid-flow-col ${steps.length > 5 ? 'gap-1 text-fine' : 'gap-2 text-body'}`}>
            {steps.map((one, position) => (
              <button
                key={one.name}
                type="button"
                aria-current={position === at ? 'step' : undefined}
                onClick={() => change({ step: position })}
                className={`min-h-11 border-t-4 ${position === at ? 'border-copper font-bold' : 'border-line text-soft'}`}
              >
                {one.name}
              </button>
            ))}
          </nav>
        </>
      }
      bar={
        <div className="grid grid-cols-[1fr_2fr] gap-3">
          <Button className="min-h-13 text-lead" disabled={at === 0} onClick={() => change({ step: at - 1 })}>
            Back
          </Button>
          {last ? (
            <Button look="main" className="min-h-13 text-lead" disabled={record.isPending} onClick={send}>
              {record.isPending ? 'Sending …' : 'Save the visit'}
            </Button>
          ) : (
            <Button look="main" className="min-h-13 text-lead" onClick={() => change({ step: at + 1 })}>
              Next: {steps[at + 1]!.name.toLowerCase()}
            </Button>
          )}
        </div>
      }
    >
      {heater.site.hazards.length > 0 && (
        <ul aria-label="Hazards" className="space-y-1">
          {heater.site.hazards.map((one) => (
            <li key={one}>
              <Hazard>{one}</Hazard>
            </li>
          ))}
        </ul>
      )}
      {at === 0 && <BeforeYouStart heater={heater} />}
      {at === 0 && (
        <Button look="main" className="min-h-13 w-full text-lead" asChild>
          <Link to={`/visit/${heater.id}/guide`}>{draft.events.length > 0 ? 'Go on step by step' : 'Lead me step by step'}</Link>
        </Button>
      )}
      <Step draft={draft} change={change} heater={heater} judgements={log.judgements} upkeep={log.upkeep} usualMethod={usualMethod} measure={log.measure} units={units} />
      {last && !alone && <Supervisor value={draft.supervisedBy} onChange={(supervisedBy) => change({ supervisedBy })} />}
      {(asking || record.error) && (
        <p role="alert" className="border-l-4 border-oxide pl-3 font-semibold text-oxide">
          {asking ?? record.error?.message}
        </p>
      )}
      <p className="px-1 text-body text-soft">Kept on this device until it is saved. Local codes and the heater’s own instructions come first.</p>
    </VisitShell>
  )
}

function Supervisor({ value, onChange }: { value: number | null; onChange: (id: number | null) => void }) {
  const people = useQuery(supervisorsOptions).data ?? []
  return (
    <Sheet>
      <Choice className="[&_select]:h-12" label="I worked under" value={value ?? ''} onChange={(event) => onChange(event.target.value ? Number(event.target.value) : null)}>
        <option value="">Choose …</option>
        {people.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </Choice>
    </Sheet>
  )
}

function share(log: Schema['LogOut']): number | null {
  const one = log.forecasts.find((f) => f.component === 'sediment' || f.component === 'scale')
  const depth = one?.state.depth_mm ?? one?.state.thickness_mm
  return one && depth ? Math.min(depth.p50 / one.limit_value, 3) : null
}

function left(log: Schema['LogOut']): number | null {
  return log.forecasts.find((f) => f.component === 'anode')?.state.fraction_left?.p50 ?? null
}
