import { useEffect, useState } from 'react'

import type { Schema } from '../../api/client'

type Finding<Task extends string> = Extract<Schema['VisitIn']['findings'][number], { task: Task }>

export interface StepEvent {
  kind: Schema['StepEventIn']['kind']
  step: string
  choice: number
  at: string
  why: string
  tap_c?: number
}

/** What has been tapped so far. Kept on the device until the server has it: nothing is lost by leaving. */
export interface Draft {
  /** Chosen once for this visit, so that sending it twice records it once. */
  clientId: string
  step: number
  flush: Partial<Omit<Finding<'flush'>, 'task'>> & { skipped?: boolean }
  descale: Partial<Omit<Finding<'descale'>, 'task'>> & { skipped?: boolean }
  rod: Partial<Omit<Finding<'anode_inspection'>, 'task'>> & { skipped?: boolean; replaced?: boolean }
  vessel: Partial<Omit<Finding<'expansion_tank_check'>, 'task'>> & { skipped?: boolean; replaced?: boolean }
  look: Partial<Omit<Finding<'look_over'>, 'task'>>
  upkeep: Partial<Record<Schema['UpkeepItem'], Schema['Fouling']>>
  pressure: Partial<Omit<Finding<'pressure_test'>, 'task'>>
  /** The hottest water at a tap, measured. */
  tapC: number | null
  valve: { outcome?: Schema['ValveOutcome']; replaced?: boolean }
  supervisedBy: number | null
  /** The guide as it was given, so that it is here without a signal. */
  guide: Schema['GuideOut'] | null
  /** What was done step by step; where the visit stands follows from it. */
  events: StepEvent[]
}

function fresh(): Draft {
  return { clientId: crypto.randomUUID(), step: 0, flush: {}, descale: {}, rod: {}, vessel: {}, look: {}, upkeep: {}, valve: {}, pressure: {}, tapC: null, supervisedBy: null, guide: null, events: [] }
}

const key = (heaterId: number) => `aquifer.visit.${heaterId}`

function kept(heaterId: number): Draft {
  try {
    const found = JSON.parse(localStorage.getItem(key(heaterId)) ?? 'null') as Draft | null
    return found?.clientId ? { ...fresh(), ...found } : fresh()
  } catch {
    return fresh()
  }
}

export function useDraft(heaterId: number) {
  const [draft, setDraft] = useState(() => kept(heaterId))
  useEffect(() => localStorage.setItem(key(heaterId), JSON.stringify(draft)), [heaterId, draft])
  return { draft, change: (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part })) }
}

/** Once the server has the visit, the next one at this heater is another. */
export function forgetDraft(heaterId: number) {
  localStorage.removeItem(key(heaterId))
}

/** The findings of a draft as they are sent; what was skipped or not looked at is left out. */
export function findings(draft: Draft, usualMethod: Schema['FlushMethod']): Schema['VisitIn']['findings'] {
  const found: Schema['VisitIn']['findings'] = []
  if (Object.keys(draft.look).length > 0) found.push({ task: 'look_over', ...draft.look })
  const { skipped: noFlush, ...flush } = draft.flush
  if (!noFlush && Object.keys(flush).length > 0) found.push({ task: 'flush', ...flush, method: flush.method ?? usualMethod })
  const { skipped: noDescale, ...descale } = draft.descale
  if (!noDescale && Object.keys(descale).length > 0) found.push({ task: 'descale', ...descale })
  const { skipped: noRod, replaced, ...rod } = draft.rod
  if (!noRod && Object.keys(rod).length > 0) found.push({ task: 'anode_inspection', could_not_open: false, ...rod })
  if (!noRod && replaced) found.push({ task: 'anode_replacement' })
  const { skipped: noVessel, replaced: newVessel, ...vessel } = draft.vessel
  if (!noVessel && Object.keys(vessel).length > 0) found.push({ task: 'expansion_tank_check', ...vessel })
  if (!noVessel && newVessel) found.push({ task: 'expansion_tank_replacement' })
  if (Object.keys(draft.pressure).length > 0) found.push({ task: 'pressure_test', ...draft.pressure })
  if (draft.valve.outcome) found.push({ task: 'relief_valve_exercise', outcome: draft.valve.outcome })
  if (draft.valve.replaced) found.push({ task: 'relief_valve_replacement' })
  for (const [item, fouling] of Object.entries(draft.upkeep)) found.push({ task: 'upkeep', item: item as Schema['UpkeepItem'], fouling })
  return found
}
