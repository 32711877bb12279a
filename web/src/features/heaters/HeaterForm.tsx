import { zodResolver } from '@hookform/resolvers/zod'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { isTank } from '../../drawing/HeaterSign'
import { fieldText, label, numberOf, stored, type Quantity, type Units } from '../../lib/units'
import { KINDS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { equipmentOptions, heaterOptions, useAddHeater, useChangeHeater } from '../../records/heaterQueries'
import { DetailFields, useDetails } from '../../records/Details'
import { SitePicker } from '../../records/SitePicker'

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
  install_margin_years: z.string(),
  flush_history: z.enum(['recorded', 'never', 'about', 'unknown']),
  last_flush_year: z.string(),
  bank: z.string(),
  practice: z.string(),
  ignition: z.string(),
  vent: z.string(),
  recirculated: z.boolean(),
  capacity_l: z.string(),
  setpoint_c: z.string(),
  input_kw: z.string(),
  height_mm: z.string(),
  diameter_mm: z.string(),
  drain_port_height_mm: z.string(),
  probe_height_mm: z.string(),
  lower_element_height_mm: z.string(),
  exchanger_area_m2: z.string(),
  burner_hours_per_day: z.string(),
  supply_volts: z.string(),
  boiler: z.string(),
  control_setting: z.string(),
  dip_tube: z.string(),
  anode_port: z.string(),
  note: z.string(),
  alloy: z.string(),
  anode_fitted_on: z.string(),
  relief_valve_fitted_on: z.string(),
})
type Typed = z.infer<typeof typed>

type Figure =
  | 'capacity_l'
  | 'setpoint_c'
  | 'input_kw'
  | 'height_mm'
  | 'diameter_mm'
  | 'drain_port_height_mm'
  | 'probe_height_mm'
  | 'lower_element_height_mm'
  | 'exchanger_area_m2'
  | 'burner_hours_per_day'
  | 'supply_volts'
type Remark = 'boiler' | 'control_setting' | 'dip_tube' | 'anode_port' | 'note'

/** Figures with the unit they are shown in; one without a quantity keeps the unit it is stored in. */
const FIGURES: { name: Figure; label: string; quantity?: Quantity; unit?: string }[] = [
  { name: 'capacity_l', label: 'Capacity', quantity: 'volume_l' },
  { name: 'setpoint_c', label: 'Set temperature', quantity: 'temperature_c' },
  { name: 'input_kw', label: 'Heat input', unit: 'kW' },
  { name: 'height_mm', label: 'Height', quantity: 'length_mm' },
  { name: 'diameter_mm', label: 'Diameter', quantity: 'length_mm' },
  { name: 'drain_port_height_mm', label: 'Drain port height', quantity: 'length_mm' },
  { name: 'probe_height_mm', label: 'Thermostat probe height', quantity: 'length_mm' },
  { name: 'lower_element_height_mm', label: 'Lower element height', quantity: 'length_mm' },
  { name: 'exchanger_area_m2', label: 'Exchanger or coil', unit: 'm²' },
  { name: 'burner_hours_per_day', label: 'Burner hours a day', unit: 'h' },
  { name: 'supply_volts', label: 'Supply', unit: 'V' },
]
const REMARKS: { name: Remark; label: string; placeholder: string }[] = [
  { name: 'boiler', label: 'Boiler that heats it', placeholder: 'gas boiler, in the cellar' },
  { name: 'control_setting', label: 'Control as left', placeholder: 'dial at B' },
  { name: 'dip_tube', label: 'Dip tube', placeholder: 'left, jets, sound' },
  { name: 'anode_port', label: 'Anode’s port', placeholder: 'own, 400 mm head room' },
  { name: 'note', label: 'Note', placeholder: 'in the attic, two people' },
]

const IGNITIONS: Record<Exclude<Schema['Ignition'], 'none'>, string> = {
  pilot: 'standing pilot',
  spark: 'spark',
  hot_surface: 'hot surface',
  battery: 'battery spark',
}
const VENTS: Record<Schema['Vent'], string> = {
  natural: 'natural draft',
  powered: 'powered',
  direct: 'direct, through the wall',
  none: 'none',
}

const NAMES: Record<string, string> = {
  location: 'where it stands',
  installed_on: 'installed on',
  install_certainty: 'how sure that is',
  ...Object.fromEntries([...FIGURES, ...REMARKS].map((one) => [one.name, one.label.toLowerCase()])),
  install_margin_years: 'how far off its age may be',
  flush_history: 'earlier flushes',
  last_flush_year: 'year of the last flush',
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
  const certainty = useWatch({ control, name: 'install_certainty' })
  const flushes = useWatch({ control, name: 'flush_history' })
  const asked = useQuery(equipmentOptions).data?.find((one) => one.kind === kind)
  const assumed = heater && heater.kind === kind ? heater.assumed : (asked?.assumed ?? {})
  const specs = asked?.details ?? []
  const details = useDetails(specs, heater?.details, units)
  const server = saving.error instanceof ApiError ? saving.error : null
  const fault = (name: string) =>
    (formState.errors as Record<string, { message?: string } | undefined>)[name]?.message ?? server?.fields[name]

  const save = handleSubmit((form) => {
    const body = { ...payload(form, site?.id ?? 0, units), details: details.told() }
    if (heater) change.mutate({ ...body, version }, { onSuccess: onDone })
    else add.mutate(body, { onSuccess: onDone })
  })
  const seeNewest = async () => {
    const newest = await queries.fetchQuery({ ...heaterOptions(heater!.id), staleTime: 0 })
    const now = initial(newest, units)
    setTheirs(
      (Object.keys(now) as (keyof Typed)[])
        .filter((name) => now[name] !== start[name])
        .map((name) => [name, String(now[name])]),
    )
    setVersion(newest.version)
    saving.reset()
  }
  return (
    <form className="mt-4 space-y-4" onSubmit={(event) => void save(event)} noValidate>
      {server && (
        <div ref={intoView} role="alert" className="border-l-4 border-oxide bg-sheet p-3">
          <p>{server.message}</p>
          {server.code === 'heater.changed_meanwhile' && (
            <Button className="mt-2" onClick={() => void seeNewest()}>
              Show what is on record now
            </Button>
          )}
        </div>
      )}
      <SitePicker chosen={site} onChoose={setSite} fault={server?.fields.site_id} />
      <div className="grid grid-cols-3 gap-x-4 gap-y-3">
        <Field label="Tag" needed fault={fault('tag')} {...register('tag')} />
        <Choice label="Kind" needed fault={fault('kind')} {...register('kind')}>
          {Object.entries(KINDS).map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </Choice>
        <Field
          label="Where it stands"
          placeholder="cellar, garage"
          fault={fault('location')}
          {...register('location')}
        />
        <Field label="Installed on" type="date" fault={fault('installed_on')} {...register('installed_on')} />
        <Choice label="How sure is that" {...register('install_certainty')}>
          <option value="known">known</option>
          <option value="estimated">estimated</option>
          <option value="unknown">unknown</option>
        </Choice>
        <Field label="Serial number" fault={fault('serial')} {...register('serial')} />
        <Field label="Maker" fault={fault('maker')} {...register('maker')} />
        <Field label="Model" fault={fault('model')} {...register('model')} />
        {certainty === 'estimated' && (
          <Field
            label="It may be off by"
            unit="years"
            inputMode="decimal"
            fault={fault('install_margin_years')}
            {...register('install_margin_years')}
          />
        )}
        <Choice label="Flushes before our record" {...register('flush_history')}>
          <option value="recorded">all are on record</option>
          <option value="never">never, as far as known</option>
          <option value="about">last one about …</option>
          <option value="unknown">nobody knows</option>
        </Choice>
        {flushes === 'about' && (
          <Field
            label="… in the year"
            inputMode="numeric"
            fault={fault('last_flush_year')}
            {...register('last_flush_year')}
          />
        )}
        <Field label="Bank" placeholder="for several run as one" fault={fault('bank')} {...register('bank')} />
        {FIGURES.filter((one) => asked?.fields.includes(one.name)).map((one) => (
          <Field
            key={one.name}
            label={one.label}
            unit={one.quantity ? label(units, one.quantity) : (one.unit ?? '')}
            inputMode="decimal"
            hint={
              assumed[one.name] === undefined || start[one.name]
                ? undefined
                : 'assumed as shown, until somebody reads it'
            }
            placeholder={placeholder(one, assumed, units)}
            fault={fault(one.name)}
            {...register(one.name)}
          />
        ))}
        {REMARKS.filter((one) => one.name === 'note' || asked?.fields.includes(one.name)).map((one) => (
          <Field
            key={one.name}
            label={one.label}
            placeholder={one.placeholder}
            maxLength={80}
            fault={fault(one.name)}
            {...register(one.name)}
          />
        ))}
        {asked?.fields.includes('ignition') && (
          <>
            <Choice label="How it is lit" {...register('ignition')}>
              <option value="">not looked at yet</option>
              {Object.entries(IGNITIONS).map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </Choice>
            <Choice label="Vent" {...register('vent')}>
              <option value="">not looked at yet</option>
              {Object.entries(VENTS).map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </Choice>
          </>
        )}
        <Choice label="Practice" {...register('practice')}>
          <option value="">as its site, water or company</option>
          <option value="condition">by condition</option>
          <option value="annual">yearly</option>
          <option value="hard_water_half_yearly">half-yearly on hard water</option>
          <option value="long_service">long service</option>
        </Choice>
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
            <Field
              label="Anode fitted on"
              type="date"
              hint="empty: with the heater"
              fault={fault('anode.fitted_on')}
              {...register('anode_fitted_on')}
            />
          </>
        )}
        <Field
          label="Relief valve fitted on"
          type="date"
          hint="empty: with the heater"
          fault={fault('relief_valve.fitted_on')}
          {...register('relief_valve_fitted_on')}
        />
      </div>
      {specs.length > 0 && (
        <details open={Object.keys(heater?.details ?? {}).length > 0}>
          <summary className="cursor-pointer font-semibold">Seen at it besides</summary>
          <div className="mt-2 grid grid-cols-3 gap-x-4 gap-y-3">
            <DetailFields specs={specs} details={details} units={units} faults={server?.fields ?? {}} />
          </div>
        </details>
      )}
      <label className="flex items-center gap-2">
        <input type="checkbox" className="size-4" {...register('recirculated')} /> A loop keeps its hot water moving
      </label>
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
      <div className="sticky -bottom-5 -mx-5 -mb-5 flex gap-3 border-t border-line bg-ground px-5 py-3">
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

/** What is said of a whole form stands at its top, and is brought there. */
const intoView = (element: HTMLElement | null) => element?.scrollIntoView?.({ block: 'center' })

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
    install_margin_years: plain(heater?.install_margin_years),
    flush_history: heater?.flush_history ?? 'recorded',
    last_flush_year: plain(heater?.last_flush_year),
    bank: heater?.bank ?? '',
    practice: heater?.practice ?? '',
    ignition: heater?.ignition ?? '',
    vent: heater?.vent ?? '',
    recirculated: heater?.recirculated ?? false,
    ...(Object.fromEntries(
      FIGURES.map((one) => [
        one.name,
        one.quantity ? fieldText(units, one.quantity, heater?.[one.name]) : plain(heater?.[one.name]),
      ]),
    ) as Record<Figure, string>),
    ...(Object.fromEntries(REMARKS.map((one) => [one.name, heater?.[one.name] ?? ''])) as Record<Remark, string>),
    alloy: part('anode')?.alloy ?? '',
    anode_fitted_on: part('anode')?.fitted_on ?? '',
    relief_valve_fitted_on: part('relief_valve')?.fitted_on ?? '',
  }
}

function payload(form: Typed, siteId: number, units: Units): Schema['HeaterIn'] {
  const tank = isTank(form.kind as Schema['HeaterKind'])
  const figures = Object.fromEntries(
    FIGURES.map((one) => [
      one.name,
      one.quantity ? stored(units, one.quantity, form[one.name]) : numberOf(form[one.name]),
    ]),
  ) as Record<Figure, number | null>
  return {
    ...figures,
    drain_port_height_mm: tank ? figures.drain_port_height_mm : null,
    lower_element_height_mm: tank ? figures.lower_element_height_mm : null,
    ...(Object.fromEntries(REMARKS.map((one) => [one.name, form[one.name]])) as Record<Remark, string>),
    install_margin_years: form.install_certainty === 'estimated' ? numberOf(form.install_margin_years) : null,
    flush_history: form.flush_history,
    last_flush_year: form.flush_history === 'about' ? numberOf(form.last_flush_year) : null,
    bank: form.bank,
    practice: (form.practice || null) as Schema['Practice'] | null,
    ignition: (form.ignition || null) as Schema['Ignition'] | null,
    vent: (form.vent || null) as Schema['Vent'] | null,
    recirculated: form.recirculated,
    tag: form.tag,
    site_id: siteId,
    kind: form.kind as Schema['HeaterKind'],
    location: form.location,
    maker: form.maker,
    model: form.model,
    serial: form.serial,
    installed_on: form.installed_on || null,
    install_certainty: form.install_certainty,
    anode: tank
      ? { alloy: (form.alloy || null) as Schema['Alloy'] | null, fitted_on: form.anode_fitted_on || null }
      : null,
    relief_valve: { fitted_on: form.relief_valve_fitted_on || null },
  }
}

function plain(figure: number | null | undefined): string {
  return figure === null || figure === undefined ? '' : String(figure)
}

/** What the forecast takes while nobody has read the figure. */
function placeholder(one: (typeof FIGURES)[number], assumed: Record<string, number>, units: Units): string {
  const figure = assumed[one.name]
  if (figure === undefined) return ''
  return one.quantity ? fieldText(units, one.quantity, figure) : String(figure)
}
