import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { amountOf } from '../../records/moneyWords'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { ChoiceSetting, Group, NumberSetting, TextSetting } from './controls'
import { settingsOptions, useLogo, useSet, useSetMoney } from './queries'
import { SettingsShell } from './SettingsShell'

const LEAK_HINT =
  'where its water runs into finished rooms; elsewhere more or less, by what is on record of the place. ' +
  'With the price of a new heater it says from when on one is advised'

/** Who the company is, how it measures, where its days begin, what an hour costs. */
export function CompanyPage() {
  const { data, error, refetch } = useQuery(settingsOptions)
  return (
    <SettingsShell title="Company">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the settings" />}
      {data && <Company ours={data} />}
    </SettingsShell>
  )
}

/** Where something was wrong; under '' what concerns no field, or was changed by somebody else meanwhile. */
export function faultsOf(error: unknown): Record<string, string> {
  if (!(error instanceof ApiError)) return {}
  if (error.code === 'changed_meanwhile') return { ...error.fields, '': error.message }
  return Object.keys(error.fields).length > 0 ? error.fields : { '': error.message }
}

function Company({ ours }: { ours: Schema['SettingsOut'] }) {
  const set = useSet()
  const faults = faultsOf(set.error)
  const disabled = !ours.may_change
  const put = (body: Schema['SettingsPatch']) => set.mutate(body)
  return (
    <>
      {disabled && <p className="mb-4 text-soft">The lead changes these.</p>}
      {faults[''] && (
        <p role="alert" className="mb-3 font-semibold text-oxide">
          {faults['']}
        </p>
      )}
      <div className="grid gap-x-12 lg:grid-cols-2">
        <div>
          <Group title="The company">
            <TextSetting
              label="Name"
              value={ours.name}
              fault={faults.name}
              disabled={disabled}
              onSet={(name) => put({ name })}
            />
            <TextSetting
              label="Telephone"
              value={ours.phone}
              type="tel"
              hint="on reports and messages, so that customers can call back"
              fault={faults.phone}
              disabled={disabled}
              onSet={(phone) => put({ phone })}
            />
            <Logo address={ours.logo} disabled={disabled} />
          </Group>
          <Group title="The yard">
            <TextSetting
              label="Address"
              value={ours.yard}
              fault={faults.yard}
              disabled={disabled}
              onSet={(yard) => put({ yard })}
            />
            <TextSetting
              label="On the map"
              value={ours.yard_latitude === null ? '' : `${ours.yard_latitude}, ${ours.yard_longitude}`}
              hint="latitude, longitude: days begin and end here for whoever has no place of their own"
              fault={faults.yard_latitude ?? faults.yard_longitude}
              disabled={disabled}
              onSet={(text) => put(placeOf(text))}
            />
          </Group>
        </div>
        <div>
          <Group title="How it measures">
            <ChoiceSetting
              label="Units"
              value={ours.units}
              disabled={disabled}
              options={[
                ['metric', 'litres, °C, kPa'],
                ['us', 'gallons, °F, psi'],
              ]}
              hint="Records keep their figures; they are shown and typed in these."
              onSet={(units) => put({ units: units as Schema['System'] })}
            />
            <ChoiceSetting
              label="Hardness"
              value={ours.hardness_unit}
              disabled={disabled}
              options={[
                ['mg_l', 'mg/L or ppm'],
                ['gpg', 'grains per gallon'],
                ['dh', '°dH'],
                ['fh', '°fH'],
              ]}
              onSet={(unit) => put({ hardness_unit: unit as Schema['HardnessUnit'] })}
            />
            <ChoiceSetting
              label="Clock"
              value={ours.clock}
              disabled={disabled}
              options={[
                ['24', '15:30'],
                ['12', '3:30 pm'],
              ]}
              onSet={(clock) => put({ clock: clock as Schema['Clock'] })}
            />
            <ChoiceSetting
              label="Weeks begin on"
              value={ours.week_start}
              disabled={disabled}
              options={[
                ['monday', 'Monday'],
                ['saturday', 'Saturday'],
                ['sunday', 'Sunday'],
              ]}
              hint="visits that are planned move into the weeks that their days lie in"
              onSet={(week_start) => put({ week_start: week_start as Schema['WeekStart'] })}
            />
            <ChoiceSetting
              label="Time zone"
              value={ours.time_zone}
              disabled={disabled}
              options={[...new Set([ours.time_zone, ...ours.time_zones])].map((one) => [one, one.replaceAll('_', ' ')])}
              hint="by which days, promises and quiet hours are told"
              fault={faults.time_zone}
              onSet={(time_zone) => put({ time_zone })}
            />
          </Group>
          <Money ours={ours} disabled={disabled} />
        </div>
      </div>
    </>
  )
}

/**
 * "44.112, -112.871" as both coordinates; nothing as neither. What is neither is refused by the server at its field.
 */
function placeOf(text: string): Schema['SettingsPatch'] {
  if (!text) return { yard_latitude: null, yard_longitude: null }
  const [latitude, longitude] = text.split(/[,;\s]+/).map(Number)
  return { yard_latitude: latitude ?? NaN, yard_longitude: longitude ?? NaN }
}

function Money({ ours, disabled }: { ours: Schema['SettingsOut']; disabled: boolean }) {
  const set = useSetMoney()
  const faults = faultsOf(set.error)
  const put = (body: Partial<Schema['MoneySettingsIn']>) => set.mutate(body)
  return (
    <Group title="Money">
      {faults[''] && (
        <p role="alert" className="pb-2 font-semibold text-oxide">
          {faults['']}
        </p>
      )}
      <TextSetting
        label="Currency"
        value={ours.currency}
        wide={false}
        hint="as it stands beside an amount"
        fault={faults.currency}
        disabled={disabled}
        onSet={(currency) => put({ currency })}
      />
      <TextSetting
        label="An hour costs us"
        value={ours.hour_cost}
        wide={false}
        hint="of a technician with truck, without tax"
        fault={faults.hour_cost}
        disabled={disabled}
        onSet={(hour_cost) => put({ hour_cost: amountOf(hour_cost) ?? hour_cost })}
      />
      <NumberSetting
        label="A quote is good for"
        value={ours.quotes_last_days}
        unit="days"
        fault={faults.quotes_last_days}
        disabled={disabled}
        onSet={(quotes_last_days) => put({ quotes_last_days })}
      />
      <NumberSetting
        label="We stand for parts"
        value={ours.part_warranty_months}
        unit="months"
        hint="that we fitted: renewed without a charge, but for rods, which are there to be eaten; 0 is not at all"
        fault={faults.part_warranty_months}
        disabled={disabled}
        onSet={(part_warranty_months) => put({ part_warranty_months })}
      />
      <NumberSetting
        label="We stand for our work"
        value={ours.work_warranty_days}
        unit="days"
        hint="a call-back to where one of us was in these days is not charged"
        fault={faults.work_warranty_days}
        disabled={disabled}
        onSet={(work_warranty_days) => put({ work_warranty_days })}
      />
      <TextSetting
        label="A leak costs a house"
        value={ours.leak_damage}
        wide={false}
        hint={LEAK_HINT}
        fault={faults.leak_damage}
        disabled={disabled}
        onSet={(leak_damage) => put({ leak_damage: amountOf(leak_damage) ?? leak_damage })}
      />
    </Group>
  )
}

function Logo({ address, disabled }: { address: string; disabled: boolean }) {
  const logo = useLogo()
  const file = useRef<HTMLInputElement>(null)
  return (
    <div className="grid grid-cols-[minmax(0,11rem)_minmax(0,1fr)] items-start gap-x-4 border-t border-line py-2.5">
      <span className="pt-2 font-semibold">Logo</span>
      <div>
        {address && <img src={address} alt="The company’s logo" className="mb-2 max-h-14 max-w-60" />}
        {!disabled && (
          <div className="flex gap-2">
            <input
              ref={file}
              type="file"
              accept="image/png,image/jpeg,image/webp"
              aria-label="Picture of the logo"
              className="sr-only"
              tabIndex={-1}
              onChange={(event) => {
                if (event.target.files?.[0]) logo.mutate(event.target.files[0])
                event.target.value = ''
              }}
            />
            <Button disabled={logo.isPending} onClick={() => file.current?.click()}>
              {address ? 'Another picture' : 'Choose a picture'}
            </Button>
            {address && (
              <Button look="quiet" disabled={logo.isPending} onClick={() => logo.mutate(null)}>
                Show none
              </Button>
            )}
          </div>
        )}
        <p className={logo.error ? 'mt-1 text-fine font-semibold text-oxide' : 'mt-1 text-fine text-soft'}>
          {logo.error?.message ?? 'on reports, and on the page that customers answer on'}
        </p>
      </div>
    </div>
  )
}
