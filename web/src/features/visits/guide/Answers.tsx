import type { Schema } from '../../../api/client'
import { FOUND, UPKEEP } from '../../../lib/words'
import type { Units } from '../../../lib/units'
import type { Draft } from '../draft'
import { Grades } from '../Grades'
import { BucketPicture, RodPicture, ValvePicture } from '../pictures'
import { GRADES, Measure, NOISES, OUTCOMES, PINS, REMOVED, Toggle, WORDS } from '../steps'
import { Sheet } from '../VisitShell'

interface Props {
  asks: string[]
  draft: Draft
  change: (part: Partial<Draft>) => void
  isTank: boolean
  /** The program drew this visit for a measurement. */
  measure: boolean
  usual: Record<string, number[]>
  units: Units
}

const FLOWS: { value: Schema['DrainFlow']; label: string }[] = [
  { value: 'full', label: 'full' },
  { value: 'slow', label: 'slow' },
  { value: 'trickle', label: 'trickle' },
  { value: 'none', label: 'nothing' },
]

const isUnusual = (value: number, span: number[] | undefined) => span !== undefined && (value < span[0]! || value > span[1]!)

/** What a step asks for: by looking and comparing, or a reading. What it asks that has no answer here is told in its words. */
export function Answers({ asks, draft, change, isTank, measure, usual, units }: Props) {
  const asked = (name: string) => asks.includes(name)
  const { flush, descale, rod, valve, vessel, look, pressure } = draft
  const setFlush = (part: Partial<Draft['flush']>) => change({ flush: { ...flush, skipped: false, ...part } })
  const setDescale = (part: Partial<Draft['descale']>) => change({ descale: { ...descale, skipped: false, ...part } })
  const setRod = (part: Partial<Draft['rod']>) => change({ rod: { ...rod, skipped: false, ...part } })
  const setVessel = (part: Partial<Draft['vessel']>) => change({ vessel: { ...vessel, skipped: false, ...part } })
  const setLook = (part: Partial<Draft['look']>) => change({ look: { ...look, ...part } })
  const setPressure = (part: Partial<Draft['pressure']>) => change({ pressure: { ...pressure, ...part } })
  const items = asks.filter((one) => one.startsWith('upkeep:')).map((one) => one.slice(7) as Schema['UpkeepItem']).filter((one) => one in UPKEEP)
  return (
    <>
      {asked('noise') && (
        <Sheet title="What does it sound like when it fires?">
          <Grades label="What it sounds like" columns={3} value={look.noise} options={NOISES} onChange={(noise) => setLook({ noise })} />
          <div className="mt-3 space-y-3">
            <Grades label="Where rust shows" columns={3} value={look.corrosion} options={[{ value: 'none', label: 'no rust' }, { value: 'fittings', label: 'at fittings' }, { value: 'seams', label: 'at a seam' }]} onChange={(corrosion: Schema['Corrosion']) => setLook({ corrosion })} />
            <Toggle text="Relief outlet was dripping on arrival" on={look.valve_drips ?? false} onToggle={() => setLook({ valve_drips: !look.valve_drips })} />
          </div>
        </Sheet>
      )}
      {asked('removed') && (
        <Sheet title={isTank ? 'In the bucket' : 'What did the acid bring out?'}>
          <Grades
            label="How much came out"
            columns={5}
            value={isTank ? flush.removed : descale.removed}
            options={REMOVED.map((one) => ({ ...one, picture: <BucketPicture removed={one.value} /> }))}
            onChange={(removed) => (isTank ? setFlush({ removed }) : setDescale({ removed }))}
          />
          {isTank && (
            <div className="mt-3 space-y-3">
              <Grades label="Clarity of the water" columns={4} value={flush.clarity} options={WORDS<Schema['Clarity']>(['clear', 'cloudy', 'milky', 'murky'])} onChange={(clarity) => setFlush({ clarity })} />
              <Grades label="Kind of solids" columns={4} value={flush.texture} options={WORDS<Schema['Texture']>(['sand', 'flakes', 'stones', 'sludge'])} onChange={(texture) => setFlush({ texture })} />
            </div>
          )}
        </Sheet>
      )}
      {measure && isTank && asked('drain_flow') && (
        <Sheet title="This visit was drawn for a measurement">
          <p className="text-body text-soft">Before the flush, put a rod through the drain or the anode’s port and read how deep the deposit lies. It anchors what everybody grades by eye.</p>
          <Measure label="Depth of the deposit" quantity="length_mm" units={units} value={flush.depth_before_mm} onChange={(depth_before_mm) => setFlush({ depth_before_mm })} />
        </Sheet>
      )}
      {asked('drain_flow') && (
        <Sheet title="How did the drain run?">
          <Grades label="How the drain ran" columns={4} value={flush.drain_flow} options={FLOWS} onChange={(drain_flow) => setFlush({ drain_flow })} />
        </Sheet>
      )}
      {asked('dissolved_g') && (
        <Sheet>
          <Measure label="Lime dissolved, if measured" quantity={null} units={units} value={descale.dissolved_g} onChange={(dissolved_g) => setDescale({ dissolved_g })} />
        </Sheet>
      )}
      {asked('valve_outcome') && (
        <Sheet title="What did the relief valve do?">
          <Grades label="What the relief valve did" columns={1} value={valve.outcome} options={OUTCOMES.map((one) => ({ ...one, picture: <ValvePicture outcome={one.value} /> }))} onChange={(outcome) => change({ valve: { ...valve, outcome } })} />
        </Sheet>
      )}
      {asked('relief_valve_replacement') && <Toggle text="I fitted a new relief valve" on={valve.replaced ?? false} onToggle={() => change({ valve: { ...valve, replaced: !valve.replaced } })} />}
      {asked('rod_grade') && (
        <Sheet title="How much of the rod is left?">
          <Grades label="What is left of the rod" columns={5} value={rod.grade} options={GRADES.map((one) => ({ ...one, picture: <RodPicture grade={one.value} /> }))} onChange={(grade) => setRod({ grade })} />
          {measure && <Measure label="Thickness of the rod, by calliper" quantity="length_mm" units={units} value={rod.diameter_mm} onChange={(diameter_mm) => setRod({ diameter_mm })} />}
          <Measure label="Bare wire, if any shows" quantity="length_mm" units={units} value={rod.bare_wire_mm} onChange={(bare_wire_mm) => setRod({ bare_wire_mm })} />
        </Sheet>
      )}
      {asked('anode_replacement') && <Toggle text="I fitted a new rod" on={rod.replaced ?? false} onToggle={() => setRod({ replaced: !rod.replaced })} />}
      {asked('vessel_pin') && (
        <Sheet title="What came out of the air valve?">
          <Grades label="What came out of the air valve" columns={1} value={vessel.at_valve} options={PINS} onChange={(at_valve) => setVessel({ at_valve })} />
        </Sheet>
      )}
      {asked('precharge_kpa') && (
        <Sheet>
          <Measure label="Charge as you found it" quantity="pressure_kpa" units={units} value={vessel.precharge_kpa} onChange={(precharge_kpa) => setVessel({ precharge_kpa })} />
        </Sheet>
      )}
      {asked('expansion_tank_replacement') && <Toggle text="I fitted a new expansion tank" on={vessel.replaced ?? false} onToggle={() => setVessel({ replaced: !vessel.replaced })} />}
      {asked('static_kpa') && (
        <Sheet>
          <Measure label="Standing pressure" quantity="pressure_kpa" units={units} value={pressure.static_kpa} onChange={(static_kpa) => setPressure({ static_kpa })} />
        </Sheet>
      )}
      {asked('creep_kpa') && (
        <Sheet>
          <Measure label="Crept up by" quantity="pressure_kpa" units={units} value={pressure.creep_kpa} onChange={(creep_kpa) => setPressure({ creep_kpa })} />
        </Sheet>
      )}
      {asked('falls') && <Toggle text="It fell with the cold shut" on={pressure.falls ?? false} onToggle={() => setPressure({ falls: !pressure.falls })} />}
      {(['before', 'after'] as const).map(
        (when) =>
          asked(`flow_${when}`) && (
            <Sheet key={when}>
              <Measure label={`Flow at full draw, ${when}`} quantity={null} unit="L/min" units={units} value={descale[`flow_${when}_l_min`]} onChange={(value) => setDescale({ [`flow_${when}_l_min`]: value })} />
              <Measure label={`Rise of the temperature, ${when}`} quantity={null} unit="K" units={units} value={descale[`rise_${when}_k`]} onChange={(value) => setDescale({ [`rise_${when}_k`]: value })} />
            </Sheet>
          ),
      )}
      {asked('tap_c') && (
        <Sheet>
          <Measure label="Hottest water at the tap" quantity="temperature_c" units={units} value={draft.tapC} onChange={(tapC) => change({ tapC })} />
          {draft.tapC !== null && isUnusual(draft.tapC, usual.tap_c) && <p className="mt-2 text-ochre-deep">That is unusual for a tap: read it once more.</p>}
        </Sheet>
      )}
      {items.map((item) => (
        <Sheet key={item} title={UPKEEP[item].ask}>
          <Grades label={UPKEEP[item].name} columns={4} value={draft.upkeep[item]} options={FOUND.map((value) => ({ value, label: UPKEEP[item].found[value] ?? value }))} onChange={(fouling: Schema['Fouling']) => change({ upkeep: { ...draft.upkeep, [item]: fouling } })} />
        </Sheet>
      ))}
    </>
  )
}
