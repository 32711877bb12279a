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
import { Plate } from './Plate'
import { DetailFields, detailFacts, useDetails } from '../../records/Details'
import { equipmentOptions, useCorrectPart, useFitPart } from '../../records/heaterQueries'

/** What is in it, since when, and what was in it before and why it went. */
export function Parts({ heater }: { heater: Schema['HeaterOut'] }) {
  const { today, units } = useCompany()
  const edits = useMay('edit_register')
  const specs = useQuery(equipmentOptions).data?.find((one) => one.kind === heater.kind)?.part_details
  const [fitting, setFitting] = useState(false)
  const [correcting, setCorrecting] = useState<number | null>(null)
  return (
    <div className="space-y-3 pt-3">
      <Plate heater={heater} />
      <ul className="space-y-2">
        {heater.parts.map((part) => (
          <li key={part.id}>
            <strong>{termOf(part.kind)}</strong>
            {edits && correcting !== part.id && (
              <Button
                look="quiet"
                className="float-right min-h-8"
                aria-label={`Correct the ${part.kind.replaceAll('_', ' ')}`}
                onClick={() => setCorrecting(part.id)}
              >
                Correct
              </Button>
            )}
            <span className="block text-soft">
              {[...partFacts(part, units), ...detailFacts(specs?.[part.kind] ?? [], part.details, units)].join(' · ') ||
                'nothing more on record'}
            </span>
            <span className="block text-fine text-soft">
              {part.fitted_on ? `fitted ${monthWords(part.fitted_on)}` : 'with the heater, as far as known'}
              {part.warranty_until && (
                <span className={part.warranty_until < today ? '' : 'font-semibold text-ink'}>
                  {part.warranty_until < today ? ' · our warranty ended ' : ' · we stand for it until '}
                  {dateWords(part.warranty_until, today)}
                </span>
              )}
            </span>
            {correcting === part.id && <PartForm heater={heater} part={part} onDone={() => setCorrecting(null)} />}
          </li>
        ))}
        {heater.parts.length === 0 && <li className="text-soft">No part is on record.</li>}
      </ul>
      {edits && !fitting && (
        <Button className="mt-3 min-h-8" onClick={() => setFitting(true)}>
          A part was fitted
        </Button>
      )}
      {fitting && <PartForm heater={heater} onDone={() => setFitting(false)} />}
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
    part.set_pressure_kpa ? `opens at ${shown(units, 'pressure_kpa', part.set_pressure_kpa)}` : '',
    part.set_temperature_c ? shown(units, 'temperature_c', part.set_temperature_c) : '',
    part.probe_length_mm ? `probe ${shown(units, 'length_mm', part.probe_length_mm)}` : '',
    part.rating_kw ? `passes ${shown(units, 'power_kw', part.rating_kw)}` : '',
    part.volume_l ? shown(units, 'volume_l', part.volume_l) : '',
    part.precharge_kpa ? `charged to ${shown(units, 'pressure_kpa', part.precharge_kpa)}` : '',
    part.build,
  ].filter(Boolean)
}

/** Under which of the form's texts each figure of a part is typed. */
const SHOWN_AS = {
  fitted_on: 'fitted_on',
  build: 'build',
  alloy: 'alloy',
  count: 'count',
  diameter_mm: 'diameter',
  length_mm: 'length',
  set_pressure_kpa: 'pressure',
  set_temperature_c: 'opens',
  probe_length_mm: 'probe',
  rating_kw: 'rating',
  volume_l: 'volume',
  precharge_kpa: 'precharge',
} as const

interface FormProps {
  heater: Schema['HeaterOut']
  /** One that is in place, to be put right; else one that was fitted. */
  part?: Schema['PartOut']
  onDone: () => void
}

function PartForm({ heater, part, onDone }: FormProps) {
  const { today, units } = useCompany()
  const asked = useQuery(equipmentOptions).data?.find((one) => one.kind === heater.kind)
  const kinds = asked?.parts ?? []
  const fit = useFitPart(heater.id)
  const correct = useCorrectPart(part?.id ?? 0)
  const saving = part ? correct : fit
  const [kind, setKind] = useState<string>(part?.kind ?? '')
  const [start] = useState({
    fitted_on: part ? (part.fitted_on ?? '') : today,
    why: '',
    build: part?.build ?? '',
    alloy: part?.alloy ?? '',
    count: part ? String(part.count) : '1',
    diameter: fieldText(units, 'length_mm', part?.diameter_mm),
    length: fieldText(units, 'length_mm', part?.length_mm),
    pressure: fieldText(units, 'pressure_kpa', part?.set_pressure_kpa),
    opens: fieldText(units, 'temperature_c', part?.set_temperature_c),
    probe: fieldText(units, 'length_mm', part?.probe_length_mm),
    rating: fieldText(units, 'power_kw', part?.rating_kw),
    volume: fieldText(units, 'volume_l', part?.volume_l),
    precharge: fieldText(units, 'pressure_kpa', part?.precharge_kpa),
  })
  const [typed, setTyped] = useState(start)
  const specs = asked?.part_details?.[kind] ?? []
  const details = useDetails(specs, part?.details, units)
  const faults = saving.error instanceof ApiError ? saving.error.fields : {}
  const old = part ? undefined : heater.parts.find((one) => one.kind === kind)
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  })
  const save = () => {
    const known = {
      build: typed.build,
      alloy: (typed.alloy || null) as Schema['Alloy'] | null,
      count: numberOf(typed.count) ?? 1,
      diameter_mm: stored(units, 'length_mm', typed.diameter),
      length_mm: stored(units, 'length_mm', typed.length),
      set_pressure_kpa: stored(units, 'pressure_kpa', typed.pressure),
      set_temperature_c: stored(units, 'temperature_c', typed.opens),
      probe_length_mm: stored(units, 'length_mm', typed.probe),
      rating_kw: stored(units, 'power_kw', typed.rating),
      volume_l: stored(units, 'volume_l', typed.volume),
      precharge_kpa: stored(units, 'pressure_kpa', typed.precharge),
    }
    if (part) {
      // A figure that nobody touched stays as it was read, and is not rounded by the unit in which it is shown.
      const now = { ...known, fitted_on: typed.fitted_on || null }
      const said = Object.entries(now).filter(([name]) => {
        const text = SHOWN_AS[name as keyof typeof now]
        return typed[text] !== start[text]
      })
      correct.mutate(
        {
          ...(Object.fromEntries(said) as Schema['PartPatch']),
          ...(details.told() ? { details: details.told() } : {}),
          version: part.version ?? null,
        },
        { onSuccess: onDone },
      )
    } else
      fit.mutate(
        {
          ...known,
          kind: kind as Schema['PartKind'],
          fitted_on: typed.fitted_on,
          why: typed.why,
          details: details.told(),
        },
        { onSuccess: onDone },
      )
  }
  return (
    <form
      className="mt-3 space-y-2 rounded-md border border-line p-3"
      aria-label={part ? `Correct the ${part.kind.replaceAll('_', ' ')}` : 'A part was fitted'}
      onSubmit={(event) => {
        event.preventDefault()
        save()
      }}
    >
      {!part && (
        <Choice label="Part" value={kind} onChange={(event) => setKind(event.target.value)} fault={faults.kind}>
          <option value="">Choose …</option>
          {kinds.map((one) => (
            <option key={one} value={one}>
              {named(one)}
            </option>
          ))}
        </Choice>
      )}
      <Field
        label="Fitted on"
        type="date"
        max={today}
        hint={part ? 'empty: with the heater' : undefined}
        {...set('fitted_on')}
        fault={faults.fitted_on}
      />
      {kind === 'anode' && (
        <>
          <Choice label="Alloy" {...set('alloy')}>
            <option value="">not known</option>
            <option value="magnesium">magnesium</option>
            <option value="aluminium">aluminium</option>
            <option value="aluminium_zinc">aluminium-zinc</option>
            <option value="powered">powered</option>
            <option value="none">none</option>
          </Choice>
          <div className="grid grid-cols-2 gap-2">
            <Field label="How many" inputMode="numeric" {...set('count')} fault={faults.count} />
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
          <Field
            label="… or"
            unit={label(units, 'temperature_c')}
            inputMode="decimal"
            {...set('opens')}
            fault={faults.set_temperature_c}
          />
          <Field
            label="Rating"
            unit={label(units, 'power_kw')}
            inputMode="decimal"
            {...set('rating')}
            fault={faults.rating_kw}
          />
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
      {specs.length > 0 && (
        <div className="grid grid-cols-2 gap-2">
          <DetailFields specs={specs} details={details} units={units} faults={faults} />
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
      {saving.error && (
        <p role="alert" className="font-semibold text-oxide">
          {saving.error.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={!kind || saving.isPending}>
          {part ? 'Save' : old ? 'Replace it' : 'Put on record'}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
