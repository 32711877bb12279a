import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import { ApiError, type Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { dateWords } from '../../lib/dates'
import { label, numberOf, shown, stored, type Units } from '../../lib/units'
import { COMPONENTS, KINDS, sentence } from '../../lib/words'
import { Button } from '../../ui/Button'
import { PageTitle } from '../../ui/PageTitle'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { RegisterNav } from '../../records/RegisterNav'
import { DistrictMap } from '../../records/DistrictMap'
import { useAddTest, useFetchSupplier, zoneOptions } from '../../records/waterQueries'
import { History } from '../../records/History'
import { TestsChart } from './TestsChart'
import { ZoneForm } from './ZoneForm'

export function ZonePage() {
  const id = Number(useParams().zoneId)
  const { data, error, refetch } = useQuery(zoneOptions(id))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="this water" />
  return <Loaded zone={data} />
}

const FIGURES: Record<string, string> = {
  total_hardness_mg_l: 'hardness',
  calcium_hardness_mg_l: 'calcium hardness',
  alkalinity_mg_l: 'alkalinity',
  ph: 'pH',
  conductivity_us_cm: 'conductivity',
  source_temperature_c: 'temperature of the main',
  suspended_solids_mg_l: 'suspended solids',
  iron_mg_l: 'iron',
}

function Loaded({ zone }: { zone: Schema['ZonePageOut'] }) {
  const { today, units } = useCompany()
  const tests = useMay('record_place')
  const edits = useMay('edit_register')
  const [adding, setAdding] = useState(false)
  const [editing, setEditing] = useState(false)
  const [past, setPast] = useState(false)
  const [frame, size] = useSize()
  const fetch = useFetchSupplier(zone.id)
  const hardness = (value: number | null) => (value === null ? '' : shown(units, 'hardness_mg_l', value))
  // A figure that no test tells takes no room.
  const tested = [
    { label: 'Hardness', of: (one: Schema['TestOut']) => hardness(one.total_hardness_mg_l) },
    { label: 'Alkalinity', of: (one: Schema['TestOut']) => hardness(one.alkalinity_mg_l) },
    { label: 'pH', of: (one: Schema['TestOut']) => String(one.ph ?? '') },
    { label: 'Conductivity, µS/cm', of: (one: Schema['TestOut']) => String(one.conductivity_us_cm ?? '') },
    { label: 'Iron, mg/L', of: (one: Schema['TestOut']) => String(one.iron_mg_l ?? '') },
  ].filter((figure) => zone.tests_taken.some((one) => figure.of(one) !== ''))
  return (
    <div className="flex h-full flex-col">
      <RegisterNav>
        {fetch.data && (
          <span role="status" className="text-soft">
            {fetch.data.new ? `${fetch.data.new} new from the supplier` : 'The supplier has nothing newer'}
          </span>
        )}
        {edits && zone.supply === 'mains' && (
          <Button look="quiet" disabled={fetch.isPending} onClick={() => fetch.mutate()}>
            Fetch the supplier’s figures
          </Button>
        )}
        <Button look="quiet" onClick={() => setPast(true)}>
          History
        </Button>
        {edits && (
          <Button className="min-h-8" onClick={() => setEditing(true)}>
            Edit
          </Button>
        )}
        {tests && (
          <Button look="main" className="min-h-8" onClick={() => setAdding(true)}>
            Add a test
          </Button>
        )}
      </RegisterNav>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px] narrow:grid-cols-1">
        <section aria-label="Its water" className="overflow-y-auto px-6 py-4">
          <PageTitle of={`Water: ${zone.name}`} />
          <h1 className="text-title">{zone.name}</h1>
          <p className="text-soft">
            {sentence(zone.note)} · {shown(units, 'hardness_mg_l', zone.hardness_mg_l)}, {zone.hardness_class} · at{' '}
            {shown(units, 'temperature_c', 60)} saturation index {zone.saturation_index_60.toFixed(1)},{' '}
            {limeWords(zone.potential_60_mg_l, units)} can fall out
          </p>
          <p className="mt-2 text-lead">{zone.in_words}</p>
          {zone.softened_heaters > 0 && (
            <p className="mt-1 text-soft">
              {zone.softened_heaters} of {zone.heaters} heaters get it through a softener:{' '}
              {limeWords(zone.softened_potential_60_mg_l, units)} can fall out of that.
            </p>
          )}
          {zone.assumed.length > 0 && (
            <p className="mt-2 border-l-4 border-ochre pl-3 text-soft">
              Not tested, so assumed:{' '}
              {zone.assumed
                .map((one) => `${FIGURES[one.figure] ?? one.figure} ${Number(one.value.toPrecision(3))}`)
                .join(', ')}
              .
              {zone.log_sd > 0.05 && (
                <> That alone makes dates here unsure by a factor of {Math.exp(zone.log_sd).toFixed(1)}.</>
              )}
            </p>
          )}
          {zone.seasons.map((one) => (
            <p key={one.name} className="mt-2 text-soft">
              {sentence(one.name)}: for {Math.round(100 * one.share_of_year)} % of the year{' '}
              {Math.round(100 * one.other_share)} % of it is {one.other}.
            </p>
          ))}
          <h2 className="mt-5">
            Tests{' '}
            <span className="font-normal text-soft">
              ● hardness ◆ alkalinity, hollow where taken at one site’s own faucet
            </span>
          </h2>
          <div ref={frame} className="mt-1 h-[200px]">
            {size.width > 0 && <TestsChart tests={zone.tests_taken} units={units} width={size.width} height={200} />}
          </div>
          <table className="mt-3 w-full">
            <thead>
              <tr className="border-b border-ink text-left text-fine">
                <th scope="col" className="py-1">
                  Taken
                </th>
                <th scope="col">How</th>
                {tested.map((one) => (
                  <th key={one.label} scope="col" className="text-right">
                    {one.label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {zone.tests_taken.map((one) => (
                <tr key={one.id} className="border-b border-line">
                  <td className="py-1">{dateWords(one.taken_on, today)}</td>
                  <td>
                    {one.method}
                    {one.site_id && (
                      <>
                        {' at '}
                        <Link to={`/sites/${one.site_id}`} className="text-copper-deep underline underline-offset-2">
                          {one.site}
                        </Link>
                      </>
                    )}
                  </td>
                  {tested.map((figure) => (
                    <td key={figure.label} className="text-right">
                      {figure.of(one)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section aria-label="Its heaters" className="overflow-y-auto border-l border-line bg-sheet px-5 py-4">
          {zone.outline && <DistrictMap zones={[zone]} points={zone.points} width={360} height={170} />}
          <h2 className="mt-2">What it does to its heaters</h2>
          <p className="text-fine text-soft">
            how fast it goes by what was found, against what the water alone suggests: in the middle, and eight of ten
            such heaters (how many there are)
          </p>
          <ul className="mt-1">
            {zone.kinds.map((one) => (
              <li key={one.kind + one.component} className="flex justify-between gap-3 border-b border-line py-1">
                <span>
                  {KINDS[one.kind]}, {COMPONENTS[one.component].toLowerCase()}
                </span>
                <span className="text-right whitespace-nowrap">
                  <strong>{paceWords(one.pace)}</strong>{' '}
                  <span className="text-soft">
                    {rangeWords(one)} ({one.heaters})
                  </span>
                </span>
              </li>
            ))}
          </ul>
          <h2 className="mt-5">
            {zone.sites_total - zone.sites_with_a_test} of {zone.sites_total} sites have no test of their own
          </h2>
          <p className="text-soft">
            {zone.supply === 'well'
              ? 'Each well is a water of its own: these are forecast with what the others show.'
              : 'On the mains the zone’s tests stand for them; a softener or an old pipe may make a site differ.'}
          </p>
          <ul className="mt-1">
            {zone.without_a_test.map((one) => (
              <li key={one.id} className="flex justify-between gap-3">
                <Link to={`/sites/${one.id}`} className="wrap-break-word py-0.5 hover:underline">
                  {one.name}, {one.street}
                </Link>
                <span className="shrink-0 text-soft">
                  {one.softened && 'softened · '}
                  {one.heaters === 1 ? '1 heater' : `${one.heaters} heaters`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      </div>
      <Dialog open={adding} onOpenChange={setAdding} title={`A test of ${zone.name}`} wide>
        <TestForm zone={zone} onDone={() => setAdding(false)} />
      </Dialog>
      <Dialog open={editing} onOpenChange={setEditing} title={`Edit ${zone.name}`} wide>
        <ZoneForm zone={zone} onDone={() => setEditing(false)} />
      </Dialog>
      <Dialog open={past} onOpenChange={setPast} title={`History of ${zone.name}`}>
        <History of="zones" id={zone.id} />
      </Dialog>
    </div>
  )
}

/** "1.6 times faster", "as suggested". */
function paceWords(logPace: number): string {
  const factor = Math.exp(Math.abs(logPace))
  if (factor < 1.08) return 'as suggested'
  return `${factor.toFixed(1)} times ${logPace > 0 ? 'faster' : 'slower'}`
}

/** Below saturation nothing falls out. */
const limeWords = (potential: number, units: Units) =>
  potential > 0 ? `${shown(units, 'hardness_mg_l', potential)} of lime` : 'no lime'

/** Eight of ten, as times as fast or, where the middle is slower, as slow. */
function rangeWords({ pace, pace_low, pace_high }: Schema['KindOnWaterOut']): string {
  const [from, to] = pace < 0 ? [-pace_high, -pace_low] : [pace_low, pace_high]
  return `${Math.exp(from).toFixed(1)} to ${Math.exp(to).toFixed(1)}`
}

function TestForm({ zone, onDone }: { zone: Schema['ZonePageOut']; onDone: () => void }) {
  const { today, units } = useCompany()
  const add = useAddTest(zone.id)
  const [typed, setTyped] = useState({
    taken_on: today,
    method: 'drop test',
    site: '',
    hardness: '',
    calcium: '',
    alkalinity: '',
    ph: '',
    conductivity: '',
    iron: '',
    chlorine: '',
  })
  const faults = add.error instanceof ApiError ? add.error.fields : {}
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  })
  const hardness = label(units, 'hardness_mg_l')
  /** What was asked about once is taken when it is said again; another figure is asked about anew. */
  const [asked, setAsked] = useState<string | null>(null)
  const sure = asked !== null && asked === typed.hardness
  return (
    <form
      className="mt-4 space-y-4"
      onSubmit={(event) => {
        event.preventDefault()
        add.mutate(
          {
            sure,
            taken_on: typed.taken_on,
            method: typed.method,
            site_id: typed.site ? Number(typed.site) : null,
            total_hardness_mg_l: stored(units, 'hardness_mg_l', typed.hardness),
            calcium_hardness_mg_l: stored(units, 'hardness_mg_l', typed.calcium),
            alkalinity_mg_l: stored(units, 'hardness_mg_l', typed.alkalinity),
            ph: numberOf(typed.ph),
            conductivity_us_cm: numberOf(typed.conductivity),
            iron_mg_l: numberOf(typed.iron),
            free_chlorine_mg_l: numberOf(typed.chlorine),
          },
          {
            onSuccess: onDone,
            onError: (error) => error instanceof ApiError && 'sure' in error.fields && setAsked(typed.hardness),
          },
        )
      }}
    >
      <div className="grid grid-cols-3 gap-3">
        <Field label="Taken on" type="date" max={today} {...set('taken_on')} fault={faults.taken_on} />
        <Choice label="How" {...set('method')} fault={faults.method}>
          <option>strip</option>
          <option>drop test</option>
          <option>photometer</option>
          <option>laboratory</option>
          <option>supplier</option>
        </Choice>
        <Choice label="Where" {...set('site')} fault={faults.site_id}>
          <option value="">the zone’s water</option>
          {zone.without_a_test.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}, {one.street}
            </option>
          ))}
        </Choice>
        <Field
          label="Hardness"
          unit={hardness}
          inputMode="decimal"
          {...set('hardness')}
          fault={faults.total_hardness_mg_l}
        />
        <Field
          label="Calcium hardness"
          unit={hardness}
          inputMode="decimal"
          {...set('calcium')}
          fault={faults.calcium_hardness_mg_l}
        />
        <Field
          label="Alkalinity"
          unit={hardness}
          inputMode="decimal"
          {...set('alkalinity')}
          fault={faults.alkalinity_mg_l}
        />
        <Field label="pH" inputMode="decimal" {...set('ph')} fault={faults.ph} />
        <Field
          label="Conductivity"
          unit="µS/cm"
          inputMode="decimal"
          {...set('conductivity')}
          fault={faults.conductivity_us_cm}
        />
        <Field label="Iron" unit="mg/L" inputMode="decimal" {...set('iron')} fault={faults.iron_mg_l} />
        <Field
          label="Free chlorine"
          unit="mg/L"
          inputMode="decimal"
          {...set('chlorine')}
          fault={faults.free_chlorine_mg_l}
        />
      </div>
      {add.error && (
        <p role="alert" className="font-semibold text-oxide">
          {add.error.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={add.isPending}>
          {sure ? 'It is so: keep it' : 'Keep the test'}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
