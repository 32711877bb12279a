import { useQuery } from '@tanstack/react-query'
import { useForm } from 'react-hook-form'

import { ApiError, type Schema } from '../../api/client'
import { useCompany, zonesOptions } from '../../session/session'
import { fieldText, label, numberOf, stored } from '../../lib/units'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { DetailFields, useDetails } from '../../records/Details'
import { siteDetailsOptions, useChangeSite } from '../../records/placeQueries'
import { useVersion } from '../../records/version'

const BUSINESSES: Schema['Business'][] = [
  'office',
  'shop',
  'salon',
  'restaurant',
  'bakery',
  'school',
  'clinic',
  'lodging',
  'care_home',
  'laundry',
  'camping',
]

/** Who is there, how they live, and what was measured. */
export function SiteForm({ site, onDone }: { site: Schema['SiteOut']; onDone: () => void }) {
  const { units } = useCompany()
  // Until the waters are read its own is the choice: a list that comes later must not show another as chosen.
  const zones = useQuery(zonesOptions).data ?? [{ id: site.zone_id, name: site.zone }]
  const change = useChangeSite(site.id)
  const { version, onError } = useVersion(site.version)
  const faults = change.error instanceof ApiError ? change.error.fields : {}
  const specs = useQuery(siteDetailsOptions).data ?? []
  const details = useDetails(specs, site.details, units)
  const { register, handleSubmit } = useForm({
    defaultValues: {
      name: site.name,
      street: site.street,
      town: site.town,
      zone_id: String(site.zone_id),
      softened: site.softened,
      people: site.people === null ? '' : String(site.people),
      fixtures: site.fixtures === null ? '' : String(site.fixtures),
      hot_water: fieldText(units, 'volume_l', site.hot_water_l_per_day),
      occupied: site.occupied_share === null ? '' : String(Math.round(site.occupied_share * 100)),
      business: site.business,
      practice: site.practice,
      pressure: fieldText(units, 'pressure_kpa', site.static_pressure_kpa),
      closed_system: site.closed_system === null ? '' : site.closed_system ? 'yes' : 'no',
      dusty: site.dusty,
      hazard: site.hazard,
      access: site.access,
    },
  })
  const save = handleSubmit((typed) =>
    change.mutate(
      {
        name: typed.name,
        street: typed.street,
        town: typed.town,
        zone_id: Number(typed.zone_id),
        softened: typed.softened,
        people: numberOf(typed.people),
        fixtures: numberOf(typed.fixtures),
        hot_water_l_per_day: stored(units, 'volume_l', typed.hot_water),
        occupied_share: typed.occupied.trim() ? numberOf(typed.occupied)! / 100 : null,
        business: (typed.business || null) as Schema['Business'] | null,
        practice: (typed.practice || null) as Schema['Practice'] | null,
        static_pressure_kpa: stored(units, 'pressure_kpa', typed.pressure),
        closed_system: typed.closed_system ? typed.closed_system === 'yes' : null,
        dusty: typed.dusty,
        hazard: typed.hazard,
        access: typed.access,
        details: details.told(),
        version,
      },
      { onSuccess: onDone, onError },
    ),
  )
  return (
    <form className="mt-4 space-y-4" onSubmit={(event) => void save(event)} noValidate>
      <div className="grid grid-cols-3 gap-x-4 gap-y-3">
        <Field label="Name" needed fault={faults.name} {...register('name')} />
        <Field label="Street" needed fault={faults.street} {...register('street')} />
        <Field label="Town" fault={faults.town} {...register('town')} />
        <Choice label="Water zone" needed fault={faults.zone_id} {...register('zone_id')}>
          {zones.map((zone) => (
            <option key={zone.id} value={zone.id}>
              {zone.name}
            </option>
          ))}
        </Choice>
        <Field label="People" inputMode="decimal" fault={faults.people} {...register('people')} />
        <Choice label="Business" {...register('business')}>
          <option value="">a household</option>
          {BUSINESSES.map((one) => (
            <option key={one} value={one}>
              {one.replace('_', ' ')}
            </option>
          ))}
        </Choice>
        <Field
          label="Hot water"
          unit={`${label(units, 'volume_l')} a day, metered`}
          inputMode="decimal"
          fault={faults.hot_water_l_per_day}
          {...register('hot_water')}
        />
        <Field label="Hot fixtures" inputMode="numeric" fault={faults.fixtures} {...register('fixtures')} />
        <Field
          label="Lived in"
          unit="% of the year"
          inputMode="numeric"
          hint="empty: all year"
          fault={faults.occupied_share}
          {...register('occupied')}
        />
        <Field
          label="Static pressure"
          unit={label(units, 'pressure_kpa')}
          inputMode="decimal"
          fault={faults.static_pressure_kpa}
          {...register('pressure')}
        />
        <Choice label="System" {...register('closed_system')}>
          <option value="">not known</option>
          <option value="yes">closed: check valve or regulator</option>
          <option value="no">open to the street</option>
        </Choice>
        <Choice label="Practice by contract" {...register('practice')}>
          <option value="">the company’s</option>
          <option value="condition">by condition</option>
          <option value="annual">yearly</option>
          <option value="hard_water_half_yearly">half-yearly on hard water</option>
          <option value="long_service">long service</option>
        </Choice>
      </div>
      <div className="grid grid-cols-2 gap-4">
        <Field
          label="Hazard, in your own words"
          maxLength={240}
          hint="said first wherever the site appears"
          fault={faults.hazard}
          {...register('hazard')}
        />
        <Field
          label="Getting in"
          maxLength={240}
          placeholder="ring first, key with the caretaker"
          fault={faults.access}
          {...register('access')}
        />
      </div>
      <div className="grid grid-cols-2 gap-4">
        <DetailFields specs={specs} details={details} units={units} faults={faults} />
      </div>
      <div className="flex gap-6">
        <label className="flex items-center gap-2">
          <input type="checkbox" className="size-4" {...register('softened')} /> A softener stands before the heaters
        </label>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="size-4" {...register('dusty')} /> Heaters stand in dust or lint
        </label>
      </div>
      {change.error && (
        <p role="alert" className="font-semibold text-oxide">
          {change.error.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={change.isPending}>
          Save site
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
