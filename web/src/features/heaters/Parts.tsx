import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { dateWords, monthWords } from '../../lib/dates'
import { fieldText, label, numberOf, shown, stored, type Units } from '../../lib/units'
import { sentence } from '../../lib/words'
import { Button } from '../../ui/Button'
import type { Term } from '../../lib/glossary'
import { Choice, Field } from '../../ui/Field'
import { Term as Explained } from '../../ui/Term'
import { equipmentOptions, useFitPart } from '../../records/heaterQueries'

/** What is in it, since when, and what was in it before and why it went. */
export function Parts({ heater }: { heater: Schema['HeaterOut'] }) {
  const { today, units } = useCompany()
  const edits = useMay('edit_register')
  const [fitting, setFitting] = useState(false)
  return (
    <div className="pt-3">
      <ul className="space-y-2">
        {heater.parts.map((part) => (
          <li key={part.id}>
            <strong>{termOf(part.kind)}</strong>
            <span className="block text-soft">{partFacts(part, units).join(' · ') || 'nothing more on record'}</span>
            <span className="block text-fine text-soft">
              {part.fitted_on ? `fitted ${monthWords(part.fitted_on)}` : 'with the heater, as far as known'}
            </span>
          </li>
        ))}
        {heater.parts.length === 0 && <li className="text-soft">No part is on record.</li>}
      </ul>
      {edits && !fitting && (
        <Button className="mt-3 min-h-8" onClick={() => setFitting(true)}>
          A part was fitted
        </Button>
      )}
      {fitting && <FitForm heater={heater} onDone={() => setFitting(false)} />}
      {heater.past_parts.length > 0 && (
        <section className="mt-4 border-t border-line pt-3">
          <h3>Taken out</h3>
          <ul className="mt-1 space-y-1.5 text-soft">
            {heater.past_parts.map((part) => (
              <li key={part.id} className="leading-snug">
                {named(part.kind)}
                {part.alloy && `, ${part.alloy.replace('_', '-')}`}:{' '}
                {part.fitted_on ? `${monthWords(part.fitted_on)} to ` : 'until '}
                {part.removed_on && dateWords(part.removed_on, today)}
                {part.why_removed && <span className="block text-fine">{part.why_removed}</span>}
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  )
}

const TERMS: Record<string, Term> = {
  anode: 'anode rod',
  relief_valve: 'relief valve',
  expansion_tank: 'expansion tank',
}

/** The name of a part, explained where a newcomer may not know it. */
function termOf(kind: string) {
  const term = TERMS[kind]
  return term ? <Explained name={term}>{sentence(term)}</Explained> : named(kind)
}

export function named(kind: string): string {
  return sentence(kind.replaceAll('_', ' '))
}

function partFacts(part: Schema['PartOut'], units: Units): string[] {
  return [
    part.count > 1 ? `${part.count} of them` : '',
    part.alloy.replace('_', '-'),
    part.diameter_mm ? `${shown(units, 'length_mm', part.diameter_mm)} thick` : '',
    part.length_mm ? `${shown(units, 'length_mm', part.length_mm)} long` : '',
    part.set_pressure_kpa ? shown(units, 'pressure_kpa', part.set_pressure_kpa) : '',
    part.set_temperature_c ? shown(units, 'temperature_c', part.set_temperature_c) : '',
    part.probe_length_mm ? `probe ${shown(units, 'length_mm', part.probe_length_mm)}` : '',
    part.rating_kw ? `${part.rating_kw} kW` : '',
    part.volume_l ? shown(units, 'volume_l', part.volume_l) : '',
    part.precharge_kpa ? `charged to ${shown(units, 'pressure_kpa', part.precharge_kpa)}` : '',
    part.build,
  ].filter(Boolean)
}

function FitForm({ heater, onDone }: { heater: Schema['HeaterOut']; onDone: () => void }) {
  const { today, units } = useCompany()
  const kinds = useQuery(equipmentOptions).data?.find((one) => one.kind === heater.kind)?.parts ?? []
  const fit = useFitPart(heater.id)
  const [kind, setKind] = useState('')
  const [typed, setTyped] = useState({
    fitted_on: today,
    why: '',
    build: '',
    alloy: '',
    diameter: '',
    length: '',
    pressure: '',
    probe: '',
    rating: '',
    volume: '',
    precharge: '',
  })
  const faults = fit.error instanceof ApiError ? fit.error.fields : {}
  const old = heater.parts.find((one) => one.kind === kind)
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  })
  const save = () =>
    fit.mutate(
      {
        kind: kind as Schema['PartKind'],
        fitted_on: typed.fitted_on,
        why: typed.why,
        build: typed.build,
        alloy: (typed.alloy || null) as Schema['Alloy'] | null,
        diameter_mm: stored(units, 'length_mm', typed.diameter),
        length_mm: stored(units, 'length_mm', typed.length),
        set_pressure_kpa: stored(units, 'pressure_kpa', typed.pressure),
        probe_length_mm: stored(units, 'length_mm', typed.probe),
        rating_kw: numberOf(typed.rating),
        volume_l: stored(units, 'volume_l', typed.volume),
        precharge_kpa: stored(units, 'pressure_kpa', typed.precharge),
      },
      { onSuccess: onDone },
    )
  return (
    <form
      className="mt-3 space-y-2 rounded-md border border-line p-3"
      onSubmit={(event) => {
        event.preventDefault()
        save()
      }}
    >
      <Choice label="Part" value={kind} onChange={(event) => setKind(event.target.value)} fault={faults.kind}>
        <option value="">Choose …</option>
        {kinds.map((one) => (
          <option key={one} value={one}>
            {named(one)}
          </option>
        ))}
      </Choice>
      <Field label="Fitted on" type="date" max={today} {...set('fitted_on')} fault={faults.fitted_on} />
      {kind === 'anode' && (
        <>
          <Choice label="Alloy" {...set('alloy')}>
            <option value="">not known</option>
            <option value="magnesium">magnesium</option>
            <option value="aluminium">aluminium</option>
            <option value="aluminium_zinc">aluminium-zinc</option>
            <option value="powered">powered</option>
          </Choice>
          <div className="grid grid-cols-2 gap-2">
            <Field
              label="Thickness"
              unit={label(units, 'length_mm')}
              inputMode="decimal"
              {...set('diameter')}
              fault={faults.diameter_mm}
            />
            <Field
              label="Length"
              unit={label(units, 'length_mm')}
              inputMode="decimal"
              placeholder={fieldText(units, 'length_mm', heater.assumed.rod_length_mm)}
              {...set('length')}
              fault={faults.length_mm}
            />
          </div>
        </>
      )}
      {kind === 'relief_valve' && (
        <div className="grid grid-cols-2 gap-2">
          <Field
            label="Opens at"
            unit={label(units, 'pressure_kpa')}
            inputMode="decimal"
            placeholder={fieldText(units, 'pressure_kpa', heater.assumed.relief_kpa)}
            {...set('pressure')}
            fault={faults.set_pressure_kpa}
          />
          <Field label="Rating" unit="kW" inputMode="decimal" {...set('rating')} fault={faults.rating_kw} />
          <Field
            label="Probe"
            unit={label(units, 'length_mm')}
            inputMode="decimal"
            {...set('probe')}
            fault={faults.probe_length_mm}
          />
        </div>
      )}
      {kind === 'expansion_tank' && (
        <div className="grid grid-cols-2 gap-2">
          <Field
            label="Size"
            unit={label(units, 'volume_l')}
            inputMode="decimal"
            {...set('volume')}
            fault={faults.volume_l}
          />
          <Field
            label="Charged to"
            unit={label(units, 'pressure_kpa')}
            inputMode="decimal"
            {...set('precharge')}
            fault={faults.precharge_kpa}
          />
        </div>
      )}
      <Field label="Build, as it looks" placeholder="black, closed actuator" maxLength={80} {...set('build')} />
      {old && (
        <Field
          label={`Why the old ${kind.replaceAll('_', ' ')} went`}
          placeholder="bare wire"
          maxLength={120}
          {...set('why')}
        />
      )}
      {fit.error && (
        <p role="alert" className="font-semibold text-oxide">
          {fit.error.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={!kind || fit.isPending}>
          {old ? 'Replace it' : 'Put on record'}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
