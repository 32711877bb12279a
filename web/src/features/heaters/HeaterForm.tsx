import { zodResolver } from '@hookform/resolvers/zod'
import { useQueryClient } from '@tanstack/react-query'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { useCompany } from '../../app/session'
import { isTank } from '../../drawing/HeaterSign'
import { fieldText, label, stored, type Quantity, type Units } from '../../lib/units'
import { KINDS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { heaterOptions, useAddHeater, useChangeHeater } from './queries'
import { SitePicker } from './SitePicker'

/** What is typed, as text: ranges are the server's business, here only what cannot be sent at all. */
const typed = z.object({
  tag: z.string().trim().min(1, 'Every heater needs a tag'),
  kind: z.string(),
  location: z.string(),
  maker: z.string(),
  model: z.string(),
  serial: z.string(),
  installed_on: z.string(),
  install_certainty: z.enum(['known', 'estimated', 'unknown']),
  capacity_l: z.string(),
  setpoint_c: z.string(),
  drain_port_height_mm: z.string(),
  lower_element_height_mm: z.string(),
  alloy: z.string(),
  anode_fitted_on: z.string(),
  relief_valve_fitted_on: z.string(),
})
type Typed = z.infer<typeof typed>

const MEASURES: { name: keyof Typed; label: string; quantity: Quantity; tankOnly?: boolean }[] = [
  { name: 'capacity_l', label: 'Capacity', quantity: 'volume_l', tankOnly: true },
  { name: 'setpoint_c', label: 'Set temperature', quantity: 'temperature_c' },
  { name: 'drain_port_height_mm', label: 'Drain port height', quantity: 'length_mm', tankOnly: true },
  { name: 'lower_element_height_mm', label: 'Lower element height', quantity: 'length_mm', tankOnly: true },
]

const NAMES: Record<string, string> = {
  location: 'where it stands',
  installed_on: 'installed on',
  install_certainty: 'how sure that is',
  capacity_l: 'capacity',
  setpoint_c: 'set temperature',
  drain_port_height_mm: 'drain port height',
  lower_element_height_mm: 'lower element height',
  alloy: 'anode',
  anode_fitted_on: 'anode fitted on',
  relief_valve_fitted_on: 'relief valve fitted on',
}

interface Props {
  heater?: Schema['HeaterOut']
  onDone: (saved: Schema['HeaterOut']) => void
  onCancel: () => void
}

export function HeaterForm({ heater, onDone, onCancel }: Props) {
  const { units } = useCompany()
  const queries = useQueryClient()
  const [site, setSite] = useState<Schema['SiteOut'] | null>(heater?.site ?? null)
  const [version, setVersion] = useState(heater?.version ?? 1)
  // What the form started from: the record may change beneath it, and then both are wanted.
  const [start] = useState(() => initial(heater, units))
  const [theirs, setTheirs] = useState<[name: string, value: string][] | null>(null)
  const add = useAddHeater()
  const change = useChangeHeater(heater?.id ?? 0)
  const saving = heater ? change : add
  const { register, handleSubmit, control, formState } = useForm<Typed>({
    resolver: zodResolver(typed),
    defaultValues: start,
  })
  const kind = useWatch({ control, name: 'kind' }) as Schema['HeaterKind']
  const server = saving.error instanceof ApiError ? saving.error : null
  const fault = (name: string) =>
    (formState.errors as Record<string, { message?: string } | undefined>)[name]?.message ?? server?.fields[name]

  const save = handleSubmit((form) => {
    const body = payload(form, site?.id ?? 0, units)
    if (heater) change.mutate({ ...body, version }, { onSuccess: onDone })
    else add.mutate(body, { onSuccess: onDone })
  })
  const seeNewest = async () => {
    const newest = await queries.fetchQuery({ ...heaterOptions(heater!.id), staleTime: 0 })
    const now = initial(newest, units)
    setTheirs((Object.keys(now) as (keyof Typed)[]).filter((name) => now[name] !== start[name]).map((name) => [name, now[name]]))
    setVersion(newest.version)
    saving.reset()
  }
  return (
    <form className="mt-4 space-y-4" onSubmit={(event) => void save(event)} noValidate>
      <SitePicker chosen={site} onChoose={setSite} fault={server?.fields.site_id} />
      <div className="grid grid-cols-3 gap-x-4 gap-y-3">
        <Field label="Tag" fault={fault('tag')} {...register('tag')} />
        <Choice label="Kind" fault={fault('kind')} {...register('kind')}>
          {Object.entries(KINDS).map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </Choice>
        <Field label="Where it stands" placeholder="cellar, garage" fault={fault('location')} {...register('location')} />
        <Field label="Installed on" type="date" fault={fault('installed_on')} {...register('installed_on')} />
        <Choice label="How sure is that" {...register('install_certainty')}>
          <option value="known">known</option>
          <option value="estimated">estimated</option>
          <option value="unknown">unknown</option>
        </Choice>
        <Field label="Serial number" fault={fault('serial')} {...register('serial')} />
        <Field label="Maker" fault={fault('maker')} {...register('maker')} />
        <Field label="Model" fault={fault('model')} {...register('model')} />
        {MEASURES.filter((one) => !one.tankOnly || isTank(kind)).map((one) => (
          <Field key={one.name} label={one.label} unit={label(units, one.quantity)} inputMode="decimal" fault={fault(one.name)} {...register(one.name)} />
        ))}
        {isTank(kind) && (
          <>
            <Choice label="Anode" {...register('alloy')}>
              <option value="">not known (magnesium assumed)</option>
              <option value="magnesium">magnesium</option>
              <option value="aluminium">aluminium</option>
              <option value="aluminium_zinc">aluminium-zinc</option>
              <option value="powered">powered</option>
              <option value="none">none</option>
            </Choice>
            <Field label="Anode fitted on" type="date" hint="empty: with the heater" fault={fault('anode.fitted_on')} {...register('anode_fitted_on')} />
          </>
        )}
        <Field label="Relief valve fitted on" type="date" hint="empty: with the heater" fault={fault('relief_valve.fitted_on')} {...register('relief_valve_fitted_on')} />
      </div>
      {server && (
        <div role="alert" className="border-l-4 border-oxide bg-sheet p-3">
          <p>{server.message}</p>
          {server.code === 'heater.changed_meanwhile' && (
            <Button className="mt-2" onClick={() => void seeNewest()}>
              Show what is on record now
            </Button>
          )}
        </div>
      )}
      {theirs && !server && (
        <div role="status" className="border-l-4 border-copper bg-sheet p-3">
          <p className="font-bold">On record now; saving puts your entries in their place:</p>
          {theirs.length === 0 && <p>nothing that this form shows was changed</p>}
          {theirs.map(([name, value]) => (
            <p key={name}>
              {NAMES[name] ?? name}: {value || 'empty'}
            </p>
          ))}
        </div>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={saving.isPending || !site}>
          {heater ? 'Save heater' : 'Add heater'}
        </Button>
        <Button look="quiet" onClick={onCancel}>
          Cancel
        </Button>
        {!site && <p className="self-center text-soft">Choose its site first: the site’s water sets the forecast.</p>}
      </div>
    </form>
  )
}

function initial(heater: Schema['HeaterOut'] | undefined, units: Units): Typed {
  const part = (kind: string) => heater?.parts.find((one) => one.kind === kind)
  return {
    tag: heater?.tag ?? '',
    kind: heater?.kind ?? 'gas_tank',
    location: heater?.location ?? '',
    maker: heater?.maker ?? '',
    model: heater?.model ?? '',
    serial: heater?.serial ?? '',
    installed_on: heater?.installed_on ?? '',
    install_certainty: heater?.install_certainty ?? 'known',
    capacity_l: fieldText(units, 'volume_l', heater?.capacity_l),
    setpoint_c: fieldText(units, 'temperature_c', heater?.setpoint_c),
    drain_port_height_mm: fieldText(units, 'length_mm', heater?.drain_port_height_mm),
    lower_element_height_mm: fieldText(units, 'length_mm', heater?.lower_element_height_mm),
    alloy: part('anode')?.alloy ?? '',
    anode_fitted_on: part('anode')?.fitted_on ?? '',
    relief_valve_fitted_on: part('relief_valve')?.fitted_on ?? '',
  }
}

function payload(form: Typed, siteId: number, units: Units): Schema['HeaterIn'] {
  const tank = isTank(form.kind as Schema['HeaterKind'])
  const measure = (name: keyof Typed, quantity: Quantity) => stored(units, quantity, form[name])
  return {
    tag: form.tag,
    site_id: siteId,
    kind: form.kind as Schema['HeaterKind'],
    location: form.location,
    maker: form.maker,
    model: form.model,
    serial: form.serial,
    installed_on: form.installed_on || null,
    install_certainty: form.install_certainty,
    capacity_l: measure('capacity_l', 'volume_l'),
    setpoint_c: measure('setpoint_c', 'temperature_c'),
    drain_port_height_mm: tank ? measure('drain_port_height_mm', 'length_mm') : null,
    lower_element_height_mm: tank ? measure('lower_element_height_mm', 'length_mm') : null,
    anode: tank ? { alloy: (form.alloy || null) as Schema['Alloy'] | null, count: 1, fitted_on: form.anode_fitted_on || null } : null,
    relief_valve: { count: 1, fitted_on: form.relief_valve_fitted_on || null },
  }
}
