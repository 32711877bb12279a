import type { ReactNode } from 'react'

import type { Schema } from '../../api/client'
import { UPKEEP, UPKEEP_HAZARDS, FOUND } from '../../lib/words'
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
  upkeep: Schema['UpkeepOut'][]
  usualMethod: Schema['FlushMethod']
  /** The program drew this visit for a measurement. */
  measure: boolean
  units: Units
}

export const REMOVED: { value: Schema['Removed']; label: string }[] = [
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
export const GRADES: { value: Schema['RodGrade']; label: string }[] = [
  { value: 'like_new', label: 'like new' },
  { value: 'worn', label: 'worn' },
  { value: 'half', label: 'half' },
  { value: 'mostly_gone', label: 'mostly gone' },
  { value: 'gone', label: 'wire only' },
]
export const OUTCOMES: { value: Schema['ValveOutcome']; label: string }[] = [
  { value: 'flows_and_reseats', label: 'Ran freely, snapped shut, outlet dry' },
  { value: 'flows_and_weeps', label: 'Ran, but drips afterwards' },
  { value: 'no_flow', label: 'Lever moves, no water' },
  { value: 'not_tested', label: 'Not tested today' },
]
export const WORDS = <T extends string>(values: T[]) => values.map((value) => ({ value, label: value }))

export const NOISES: { value: Schema['Noise']; label: string }[] = [
  { value: 'quiet', label: 'quiet' },
  { value: 'hiss', label: 'hisses' },
  { value: 'bubbling', label: 'bubbles' },
  { value: 'popping', label: 'pops, knocks' },
  { value: 'kettling', label: 'kettles' },
]
export const PINS: { value: Schema['VesselPin']; label: string }[] = [
  { value: 'air', label: 'Air comes out' },
  { value: 'water', label: 'Water comes out: the bladder is torn' },
  { value: 'nothing', label: 'Nothing comes out' },
]

export function LookStep({ draft, change }: StepProps) {
  const look = draft.look
  const set = (part: Partial<Draft['look']>) => change({ look: { ...look, ...part } })
  return (
    <>
      <Sheet title="What does it sound like when it fires?">
        <Grades label="What it sounds like" columns={3} value={look.noise} options={NOISES} onChange={(noise) => set({ noise })} />
      </Sheet>
      <Sheet title="Rust on the tank itself?">
        <Grades
          label="Where rust shows"
          columns={3}
          value={look.corrosion}
          options={[{ value: 'none', label: 'none' }, { value: 'fittings', label: 'at fittings' }, { value: 'seams', label: 'at a seam' }]}
          onChange={(corrosion: Schema['Corrosion']) => set({ corrosion })}
        />
      </Sheet>
      <Toggle text="Hot water alone runs rusty" on={look.rusty_hot_water ?? false} onToggle={() => set({ rusty_hot_water: !look.rusty_hot_water })} />
      <Toggle text="Relief outlet was dripping on arrival" on={look.valve_drips ?? false} onToggle={() => set({ valve_drips: !look.valve_drips })} />
    </>
  )
}

export function VesselStep({ draft, change, units }: StepProps) {
  const vessel = draft.vessel
  const set = (part: Partial<Draft['vessel']>) => change({ vessel: { ...vessel, skipped: false, ...part } })
  return (
    <>
      <Hazard>Let the water side’s pressure off before you read or set the charge.</Hazard>
      <Sheet title="Press the air valve’s pin briefly">
        <Grades label="What came out of the air valve" columns={1} value={vessel.skipped ? null : vessel.at_valve} options={PINS} onChange={(at_valve) => set({ at_valve })} />
        <Measure label="Charge as you found it" quantity="pressure_kpa" units={units} value={vessel.precharge_kpa} onChange={(precharge_kpa) => set({ precharge_kpa })} />
        <p className="mt-3 text-body text-soft">Then set it to the house’s standing pressure.</p>
      </Sheet>
      <Toggle text="I fitted a new expansion tank" on={vessel.replaced ?? false} onToggle={() => set({ replaced: !vessel.replaced })} />
      <Skip text="Not checked today" on={vessel.skipped ?? false} onToggle={() => change({ vessel: vessel.skipped ? {} : { skipped: true } })} />
    </>
  )
}

/** Asked for on about one visit in twenty, drawn by the program: it anchors what everybody grades by eye. */
function Drawn({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Sheet title="This visit was drawn for a measurement">
      <p className="text-body text-soft">{text}</p>
      {children}
    </Sheet>
  )
}

export function FlushStep({ draft, change, heater, judgements, usualMethod, measure, units }: StepProps) {
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
      {measure && (
        <Drawn text="Before the flush, put a rod through the drain or the anode’s port and read how deep the deposit lies. Grade what comes out as well.">
          <Measure label="Depth of the deposit" quantity="length_mm" units={units} value={flush.depth_before_mm} onChange={(depth_before_mm) => set({ depth_before_mm })} />
        </Drawn>
      )}
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
        {!measure && <Measure label="Depth measured before, if you did" quantity="length_mm" units={units} value={flush.depth_before_mm} onChange={(depth_before_mm) => set({ depth_before_mm })} />}
      </Sheet>
      <Skip text="Not flushed today" on={flush.skipped ?? false} onToggle={() => change({ flush: flush.skipped ? {} : { skipped: true } })} />
    </>
  )
}

export function DescaleStep({ draft, change, measure, units }: StepProps) {
  const descale = draft.descale
  const set = (part: Partial<Draft['descale']>) => change({ descale: { ...descale, skipped: false, ...part } })
  return (
    <>
      <Hazard>Energy off and proven, both valves shut, pressure let off at the ports. Never an acid after a chlorine product; gloves and eyes.</Hazard>
      {measure && (
        <Drawn text="Acid spent times its strength is what dissolved: 100 g of citric acid takes up 78 g of lime, a litre of vinegar of 5 % takes up 42 g. Grade it as well.">
          <Measure label="Lime dissolved, in grams" quantity={null} units={units} value={descale.dissolved_g} onChange={(dissolved_g) => set({ dissolved_g })} />
        </Drawn>
      )}
      <Sheet title="What did the acid bring out?">
        <Grades label="How much came out" columns={5} value={descale.skipped ? null : descale.removed} options={REMOVED.map((one) => ({ ...one, label: one.value === 'blocked' ? 'choked' : one.label, picture: <BucketPicture removed={one.value} /> }))} onChange={(removed) => set({ removed })} />
      </Sheet>
      <Skip text="Not descaled today" on={descale.skipped ?? false} onToggle={() => change({ descale: descale.skipped ? {} : { skipped: true } })} />
    </>
  )
}

export function RodStep({ draft, change, measure, units }: StepProps) {
  const rod = draft.rod
  const set = (part: Partial<Draft['rod']>) => change({ rod: { ...rod, skipped: false, ...part } })
  return (
    <>
      <Hazard>Pressure off, and the water below the port, before the rod is loosened.</Hazard>
      {measure && (
        <Drawn text="Put a calliper on the rod where it looks average, grit brushed off. Grade it as well.">
          <Measure label="Thickness of the rod" quantity="length_mm" units={units} value={rod.diameter_mm} onChange={(diameter_mm) => set({ diameter_mm })} />
        </Drawn>
      )}
      <Sheet title="How much of the rod is left?">
        <Grades label="What is left of the rod" columns={5} value={rod.skipped ? null : rod.grade} options={GRADES.map((one) => ({ ...one, picture: <RodPicture grade={one.value} /> }))} onChange={(grade) => set({ grade })} />
        <Measure label="Bare wire, if any shows" quantity="length_mm" units={units} value={rod.bare_wire_mm} onChange={(bare_wire_mm) => set({ bare_wire_mm })} />
      </Sheet>
      <Toggle text="I fitted a new rod" on={rod.replaced ?? false} onToggle={() => set({ replaced: !rod.replaced })} />
      <Toggle text="The port could not be opened" on={rod.could_not_open ?? false} onToggle={() => set({ could_not_open: !rod.could_not_open })} />
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

export function UpkeepStep({ draft, change, upkeep }: StepProps) {
  const hazards = [...new Set(upkeep.map((one) => UPKEEP_HAZARDS[one.item]).filter(Boolean))]
  return (
    <>
      {hazards.map((hazard) => (
        <Hazard key={hazard}>{hazard}</Hazard>
      ))}
      {upkeep.map(({ item, interval_months }) => (
        <Sheet key={item} title={UPKEEP[item].ask}>
          <Grades
            label={UPKEEP[item].name}
            columns={4}
            value={draft.upkeep[item]}
            options={FOUND.map((value) => ({ value, label: UPKEEP[item].found[value] ?? value }))}
            onChange={(fouling: Schema['Fouling']) => change({ upkeep: { ...draft.upkeep, [item]: fouling } })}
          />
          <p className="mt-2 text-body text-soft">Every {Math.round(interval_months)} months here so far.</p>
        </Sheet>
      ))}
    </>
  )
}

interface MeasureProps {
  label: string
  /** None where the figure is in the unit that its label says. */
  quantity: 'length_mm' | 'pressure_kpa' | 'temperature_c' | null
  unit?: string
  units: Units
  value: number | null | undefined
  onChange: (value: number | null) => void
}

export function Measure({ label: text, quantity, unit = 'g', units, value, onChange }: MeasureProps) {
  return (
    <Field
      className="mt-4 [&_input]:h-12"
      label={text}
      unit={quantity ? label(units, quantity) : unit}
      inputMode="decimal"
      defaultValue={quantity ? fieldText(units, quantity, value) : (value ?? '')}
      onChange={(event) => {
        const text = event.target.value.trim()
        const typed = quantity ? stored(units, quantity, text) : text === '' ? null : Number(text.replace(',', '.'))
        if (!Number.isNaN(typed)) onChange(typed)
      }}
    />
  )
}

export function Toggle({ text, on, onToggle }: { text: ReactNode; on: boolean; onToggle: () => void }) {
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
