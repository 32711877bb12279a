import type { ReactNode } from 'react'

import type { Schema } from '../../api/client'
import { label, stored, fieldText, type Units } from '../../lib/units'
import { Field } from '../../ui/Field'
import { Hazard } from '../../ui/States'
import type { Draft } from './draft'
import { Grades } from './Grades'
import { BucketPicture, RodPicture, ValvePicture } from './pictures'
import { Sheet } from './VisitShell'

export interface StepProps {
  draft: Draft
  change: (part: Partial<Draft>) => void
  heater: Schema['HeaterOut']
  judgements: Schema['JudgementOut'][]
  usualMethod: Schema['FlushMethod']
  units: Units
}

const REMOVED: { value: Schema['Removed']; label: string }[] = [
  { value: 'none', label: 'nothing' },
  { value: 'trace', label: 'trace' },
  { value: 'moderate', label: 'moderate' },
  { value: 'heavy', label: 'heavy' },
  { value: 'blocked', label: 'blocks it' },
]
const METHOD: { value: Schema['FlushMethod']; label: string }[] = [
  { value: 'pressure_blowout', label: 'under pressure' },
  { value: 'drain_and_pulse', label: 'drain, pulse' },
  { value: 'jetting', label: 'jetted' },
  { value: 'acid_soak', label: 'acid soak' },
]
const GRADES: { value: Schema['RodGrade']; label: string }[] = [
  { value: 'like_new', label: 'like new' },
  { value: 'worn', label: 'worn' },
  { value: 'half', label: 'half' },
  { value: 'mostly_gone', label: 'mostly gone' },
  { value: 'gone', label: 'wire only' },
]
const OUTCOMES: { value: Schema['ValveOutcome']; label: string }[] = [
  { value: 'flows_and_reseats', label: 'Ran freely, snapped shut, outlet dry' },
  { value: 'flows_and_weeps', label: 'Ran, but drips afterwards' },
  { value: 'no_flow', label: 'Lever moves, no water' },
  { value: 'not_tested', label: 'Not tested today' },
]
const WORDS = <T extends string>(values: T[]) => values.map((value) => ({ value, label: value }))

export function FlushStep({ draft, change, heater, judgements, usualMethod, units }: StepProps) {
  const flush = draft.flush
  const set = (part: Partial<Draft['flush']>) => change({ flush: { ...flush, skipped: false, ...part } })
  const warning = judgements.find((one) => one.rule === 'flush_or_leave' && one.verdict !== 'flush')
  const energy = heater.kind === 'electric_tank' || heater.kind === 'heat_pump_tank' ? 'Breaker off and proven before water leaves the tank.' : 'Burner off or at pilot before water leaves the tank.'
  return (
    <>
      {warning && (
        <Hazard>
          {warning.verdict === 'leave_alone' ? 'Better left alone: ' : 'Gently: '}
          {warning.because.join('; ')}.{warning.ask_lead && ' Ask the lead first.'}
        </Hazard>
      )}
      <Hazard>{energy} The water scalds: a rated hose, and someone at its end.</Hazard>
      <Sheet title="What came out?">
        <Grades label="How much came out" columns={5} value={flush.skipped ? null : flush.removed} options={REMOVED.map((one) => ({ ...one, picture: <BucketPicture removed={one.value} /> }))} onChange={(removed) => set({ removed })} />
        <div className="mt-3 space-y-3">
          <Grades label="Clarity of the water" columns={4} value={flush.clarity} options={WORDS<Schema['Clarity']>(['clear', 'cloudy', 'milky', 'murky'])} onChange={(clarity) => set({ clarity })} />
          <Grades label="Kind of solids" columns={4} value={flush.texture} options={WORDS<Schema['Texture']>(['sand', 'flakes', 'stones', 'sludge'])} onChange={(texture) => set({ texture })} />
        </div>
      </Sheet>
      <Sheet title="How did the drain run?">
        <Grades label="How the drain ran" columns={4} value={flush.drain_flow} options={[{ value: 'full', label: 'full' }, { value: 'slow', label: 'slow' }, { value: 'trickle', label: 'trickle' }, { value: 'none', label: 'not at all' }]} onChange={(drain_flow: Schema['DrainFlow']) => set({ drain_flow })} />
      </Sheet>
      <Sheet title="How was it flushed?">
        <Grades label="Flush method" columns={2} value={flush.method ?? usualMethod} options={METHOD} onChange={(method) => set({ method })} />
        <Measure label="Depth measured before, if you did" quantity="length_mm" units={units} value={flush.depth_before_mm} onChange={(depth_before_mm) => set({ depth_before_mm })} />
      </Sheet>
      <Skip text="Not flushed today" on={flush.skipped ?? false} onToggle={() => change({ flush: flush.skipped ? {} : { skipped: true } })} />
    </>
  )
}

export function DescaleStep({ draft, change }: StepProps) {
  const descale = draft.descale
  const set = (part: Partial<Draft['descale']>) => change({ descale: { ...descale, skipped: false, ...part } })
  return (
    <>
      <Hazard>Energy off and proven, both valves shut, pressure let off at the ports. Never an acid after a chlorine product; gloves and eyes.</Hazard>
      <Sheet title="What did the acid bring out?">
        <Grades label="How much came out" columns={5} value={descale.skipped ? null : descale.removed} options={REMOVED.map((one) => ({ ...one, label: one.value === 'blocked' ? 'choked' : one.label, picture: <BucketPicture removed={one.value} /> }))} onChange={(removed) => set({ removed })} />
      </Sheet>
      <Skip text="Not descaled today" on={descale.skipped ?? false} onToggle={() => change({ descale: descale.skipped ? {} : { skipped: true } })} />
    </>
  )
}

export function RodStep({ draft, change, units }: StepProps) {
  const rod = draft.rod
  const set = (part: Partial<Draft['rod']>) => change({ rod: { ...rod, skipped: false, ...part } })
  return (
    <>
      <Hazard>Pressure off, and the water below the port, before the rod is loosened.</Hazard>
      <Sheet title="How much of the rod is left?">
        <Grades label="What is left of the rod" columns={5} value={rod.skipped ? null : rod.grade} options={GRADES.map((one) => ({ ...one, picture: <RodPicture grade={one.value} /> }))} onChange={(grade) => set({ grade })} />
        <Measure label="Bare wire, if any shows" quantity="length_mm" units={units} value={rod.bare_wire_mm} onChange={(bare_wire_mm) => set({ bare_wire_mm })} />
      </Sheet>
      <Toggle text="I fitted a new rod" on={rod.replaced ?? false} onToggle={() => set({ replaced: !rod.replaced })} />
      <Skip text="Rod not looked at today" on={rod.skipped ?? false} onToggle={() => change({ rod: rod.skipped ? {} : { skipped: true } })} />
    </>
  )
}

export function ValveStep({ draft, change }: StepProps) {
  const valve = draft.valve
  const failed = valve.outcome === 'no_flow' || valve.outcome === 'flows_and_weeps'
  return (
    <>
      <Hazard>The discharge throws scalding water: bucket under it, people clear, tank full.</Hazard>
      <Sheet title="Lift the lever fully, let it run, let it snap shut">
        <Grades label="What the relief valve did" columns={1} value={valve.outcome} options={OUTCOMES.map((one) => ({ ...one, picture: <ValvePicture outcome={one.value} /> }))} onChange={(outcome) => change({ valve: { ...valve, outcome } })} />
      </Sheet>
      {failed && (
        <Sheet>
          <p className="mb-3">
            {valve.outcome === 'no_flow' ? 'The tank has no protection. ' : 'A drip only grows. '}
            Replace it with the same ratings and a probe that reaches the water: licensed work.
          </p>
          <Toggle text="I fitted a new relief valve" on={valve.replaced ?? false} onToggle={() => change({ valve: { ...valve, replaced: !valve.replaced } })} />
        </Sheet>
      )}
    </>
  )
}

interface MeasureProps {
  label: string
  quantity: 'length_mm'
  units: Units
  value: number | null | undefined
  onChange: (value: number | null) => void
}

function Measure({ label: text, quantity, units, value, onChange }: MeasureProps) {
  return (
    <Field
      className="mt-4 [&_input]:h-12"
      label={text}
      unit={label(units, quantity)}
      inputMode="decimal"
      defaultValue={fieldText(units, quantity, value)}
      onChange={(event) => {
        const typed = stored(units, quantity, event.target.value)
        if (!Number.isNaN(typed)) onChange(typed)
      }}
    />
  )
}

function Toggle({ text, on, onToggle }: { text: ReactNode; on: boolean; onToggle: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onToggle}
      className={`flex min-h-12 w-full items-center gap-3 rounded-xl border-2 px-4 text-left ${on ? 'border-copper font-bold text-copper' : 'border-line'}`}
    >
      <svg width="22" height="22" viewBox="0 0 22 22" aria-hidden>
        <rect x="1.5" y="1.5" width="19" height="19" rx="4" className="fill-none stroke-current" strokeWidth="2" />
        {on && <path d="M5.5 11.5l4 4 7-9" className="fill-none stroke-current" strokeWidth="2.6" />}
      </svg>
      {text}
    </button>
  )
}

const Skip = Toggle
