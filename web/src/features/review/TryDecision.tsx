import { useQuery } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { METHODS } from '../../lib/words'
import { fieldText, label, numberOf, stored, type Units } from '../../lib/units'
import { importsOptions } from '../../records/importQueries'
import { useCompany, useMay, zonesOptions } from '../../session/session'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'
import { useTry } from './queries'
import { PRACTICES } from './words'

type Kind = Schema['DecisionKind']

const KINDS: [Kind, string][] = [
  ['practice', 'Another practice'],
  ['tolerance', 'Another accepted risk'],
  ['method', 'Another usual flush'],
  ['crew', 'More or fewer people'],
  ['softeners', 'Softeners offered'],
  ['replace', 'The worst tanks replaced now'],
  ['prices', 'Other prices and plans'],
  ['water', 'A water that gets harder'],
  ['take_over', 'Heaters taken over'],
]
const FLUSHES: Schema['FlushMethod'][] = ['pressure_blowout', 'drain_and_pulse', 'jetting', 'acid_soak']

interface Draft {
  kind: Kind
  value: string
  word: string
  zone: string
  share: string
  /** Of a list whose heaters are taken over. */
  list: string
}

/** What each begins with; values as they are typed. */
const BEGINS: Record<Kind, Partial<Draft>> = {
  practice: { word: 'annual' },
  tolerance: { value: '10' },
  method: { word: 'jetting' },
  crew: { value: '1' },
  softeners: { share: '30' },
  replace: { value: '30' },
  prices: { value: '5' },
  water: { value: '20' },
  take_over: { value: '500' },
}
const ASKS: Partial<Record<Kind, { ask: string; unit?: string }>> = {
  tolerance: { ask: 'Accepted risk', unit: '%' },
  crew: { ask: 'More, or with a minus fewer' },
  softeners: { ask: 'Where water is harder than' },
  replace: { ask: 'How many' },
  prices: { ask: 'More, or with a minus less', unit: '%' },
  water: { ask: 'Harder, or with a minus softer', unit: '%' },
  take_over: { ask: 'How many' },
}
/** A share or a factor that is typed in per cent. */
const AS_SHARE: Kind[] = ['tolerance']
const AS_FACTOR: Kind[] = ['prices', 'water']
const SOMEWHERE: Kind[] = ['practice', 'tolerance', 'method', 'softeners', 'water']

const begun = (kind: Kind, units: Units): Draft => ({
  kind,
  value: kind === 'softeners' ? fieldText(units, 'hardness_mg_l', 250) : '',
  word: '',
  zone: '',
  share: '',
  list: '',
  ...BEGINS[kind],
})

/** What is sent of a draft; null where a figure is none. */
export function sent(draft: Draft, units: Units): Schema['DecisionIn'] | null {
  const typed = draft.kind === 'softeners' ? stored(units, 'hardness_mg_l', draft.value) : numberOf(draft.value)
  const share = numberOf(draft.share)
  if (draft.list) return { kind: draft.kind, list_id: Number(draft.list) }
  if (ASKS[draft.kind] && (typed === null || Number.isNaN(typed))) return null
  if (share !== null && Number.isNaN(share)) return null
  const value = AS_SHARE.includes(draft.kind) ? typed! / 100 : AS_FACTOR.includes(draft.kind) ? 1 + typed! / 100 : typed
  return {
    kind: draft.kind,
    ...(ASKS[draft.kind] ? { value } : {}),
    ...(draft.word ? { word: draft.word } : {}),
    ...(draft.zone ? { zone_id: Number(draft.zone) } : {}),
    ...(share === null ? {} : { share: share / 100 }),
  }
}

/** What is to be tried on the years ahead: one decision or several, under a name. */
export function TryDecision({ years, onClose, onAsked }: Props) {
  const { units } = useCompany()
  const [name, setName] = useState('')
  const [drafts, setDrafts] = useState<Draft[]>([begun('practice', units)])
  const asked = useTry()
  const decisions = drafts.map((draft) => sent(draft, units))
  const whole = decisions.filter((one): one is Schema['DecisionIn'] => one !== null)
  const isWhole = whole.length === drafts.length && drafts.every((one) => one.kind !== 'water' || one.zone !== '')
  const change = (at: number, to: Partial<Draft>) =>
    setDrafts(drafts.map((one, place) => (place === at ? { ...one, ...to } : one)))
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => !open && onClose()}
      title="Try a decision"
      description={
        `The next ${years === 1 ? 'year' : `${years} years`} are lived again with it, with the same luck, and ` +
        'stand beside the base as it is. Nothing is set.'
      }
    >
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault()
          if (!isWhole) return
          asked.mutate({ name: name.trim(), years, decisions: whole }, { onSuccess: (one) => onAsked(one.id) })
        }}
      >
        {drafts.map((draft, at) => (
          <fieldset key={at} className="grid grid-cols-[1fr_1fr_1fr_auto] items-start gap-3 border-b border-line pb-4">
            <legend className="sr-only">Decision {at + 1}</legend>
            <Choice
              label="What"
              value={draft.kind}
              onChange={(event) => change(at, begun(event.target.value as Kind, units))}
            >
              {KINDS.map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </Choice>
            <What draft={draft} units={units} onChange={(to) => change(at, to)} />
            {SOMEWHERE.includes(draft.kind) ? (
              <Where draft={draft} onChange={(zone) => change(at, { zone })} />
            ) : draft.kind === 'take_over' ? (
              <From draft={draft} onChange={(list) => change(at, { list })} />
            ) : (
              <span />
            )}
            <Button
              look="quiet"
              className="mt-7"
              disabled={drafts.length === 1}
              aria-label={`Leave out decision ${at + 1}`}
              onClick={() => setDrafts(drafts.filter((_, place) => place !== at))}
            >
              <X size={16} aria-hidden />
            </Button>
          </fieldset>
        ))}
        {drafts.length < 12 && (
          <Button className="self-start" onClick={() => setDrafts([...drafts, begun('crew', units)])}>
            And another
          </Button>
        )}
        <Field
          label="Name"
          hint="By which it is found again; without one it is called after what is tried."
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        {asked.error && (
          <p role="alert" className="text-oxide">
            {asked.error.message}
          </p>
        )}
        <div className="flex gap-3">
          <Button look="main" type="submit" disabled={!isWhole || asked.isPending}>
            {asked.isPending ? 'Asking …' : 'Live the years'}
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  )
}

interface Props {
  years: number
  onClose: () => void
  onAsked: (id: number) => void
}

function What({ draft, units, onChange }: { draft: Draft; units: Units; onChange: (to: Partial<Draft>) => void }) {
  const asks = ASKS[draft.kind]
  if (draft.kind === 'practice')
    return (
      <Choice label="Practice" value={draft.word} onChange={(event) => onChange({ word: event.target.value })}>
        {Object.entries(PRACTICES).map(([value, one]) => (
          <option key={value} value={value}>
            {one.name}
          </option>
        ))}
      </Choice>
    )
  if (draft.kind === 'method')
    return (
      <Choice label="Flush" value={draft.word} onChange={(event) => onChange({ word: event.target.value })}>
        {FLUSHES.map((value) => (
          <option key={value} value={value}>
            {METHODS[value]}
          </option>
        ))}
      </Choice>
    )
  if (draft.list) return <p className="pt-7 text-soft">As they stand in the list; nothing is brought in.</p>
  const fault = sent(draft, units) === null ? 'a number' : undefined
  return (
    <div className="flex flex-col gap-3">
      <Field
        label={asks!.ask}
        unit={draft.kind === 'softeners' ? label(units, 'hardness_mg_l') : asks!.unit}
        inputMode="decimal"
        fault={fault}
        value={draft.value}
        onChange={(event) => onChange({ value: event.target.value })}
      />
      {draft.kind === 'softeners' && (
        <Field
          label="Taken by"
          unit="%"
          inputMode="decimal"
          value={draft.share}
          onChange={(event) => onChange({ share: event.target.value })}
        />
      )}
    </div>
  )
}

/** Lists that were checked and wait: their own heaters are lived, in the place of so many like ours. */
function From({ draft, onChange }: { draft: Draft; onChange: (list: string) => void }) {
  const mayHaveThem = useMay('import')
  const { data } = useQuery({ ...importsOptions, enabled: mayHaveThem })
  const lists = (data ?? []).filter((one) => one.can_be_tried)
  return (
    <Choice label="From" value={draft.list} onChange={(event) => onChange(event.target.value)}>
      <option value="">heaters like ours</option>
      {lists.map((one) => (
        <option key={one.id} value={one.id}>
          {one.file_name}
        </option>
      ))}
    </Choice>
  )
}

function Where({ draft, onChange }: { draft: Draft; onChange: (zone: string) => void }) {
  const zones = useQuery(zonesOptions).data ?? []
  return (
    <Choice
      label="Where"
      value={draft.zone}
      onChange={(event) => onChange(event.target.value)}
      fault={draft.kind === 'water' && !draft.zone ? 'which water' : undefined}
    >
      <option value="">{draft.kind === 'water' ? 'Choose' : 'Everywhere'}</option>
      {zones.map((zone) => (
        <option key={zone.id} value={zone.id}>
          {zone.name}
        </option>
      ))}
    </Choice>
  )
}
