import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { monthWords } from '../../lib/dates'
import { numberOf, shown } from '../../lib/units'
import { sentence } from '../../lib/words'
import { equipmentOptions, useTeachSerial } from '../../records/heaterQueries'
import { useVersion } from '../../records/version'
import { detailFacts } from '../../records/Details'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'

/** What its plate says, how its control was left, and what else was seen at it. */
export function Plate({ heater }: { heater: Schema['HeaterOut'] }) {
  const { units } = useCompany()
  const specs = useQuery(equipmentOptions).data?.find((one) => one.kind === heater.kind)?.details ?? []
  const rows: [string, string][] = [
    ['Maker', heater.maker],
    ['Model', heater.model],
    ['Serial', heater.serial],
    ['Heat input', heater.input_kw ? shown(units, 'power_kw', heater.input_kw) : ''],
    ['Supply', heater.supply_volts ? `${heater.supply_volts} V` : ''],
    ['Height', heater.height_mm ? shown(units, 'length_mm', heater.height_mm) : ''],
    ['Diameter', heater.diameter_mm ? shown(units, 'length_mm', heater.diameter_mm) : ''],
    ['Control', heater.control_setting],
    ['Dip tube', heater.dip_tube],
    ['Rod’s port', heater.anode_port],
    ['Boiler', heater.boiler],
    ['Lit by', heater.ignition.replace('_', ' ')],
    ['Vent', heater.vent],
  ]
  const known = rows.filter(([, value]) => value)
  const more = detailFacts(specs, heater.details, units)
  if (known.length === 0 && more.length === 0 && !heater.unlike?.length) return null
  return (
    <section className="border-b border-line pb-3">
      <h3>Plate and control</h3>
      <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3">
        {known.map(([name, value]) => (
          <div key={name} className="col-span-2 grid grid-cols-subgrid">
            <dt className="text-soft">{name}</dt>
            <dd className="wrap-anywhere">{value}</dd>
          </div>
        ))}
      </dl>
      <Made heater={heater} />
      {heater.unlike && heater.unlike.length > 0 && (
        <div className="mt-2 border-l-4 border-ochre pl-3">
          <strong>Not like the one before</strong>
          <ul>
            {heater.unlike.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
      {more.map((one) => (
        <p key={one}>{one[0]!.toUpperCase() + one.slice(1)}</p>
      ))}
    </section>
  )
}

/** When it was made, by its serial; where nobody has taught its maker's serials, the way to teach them. */
function Made({ heater }: { heater: Schema['HeaterOut'] }) {
  const edits = useMay('edit_register')
  const [teaching, setTeaching] = useState(false)
  if (heater.made)
    return (
      <p>
        Made {madeWords(heater.made)}, by its serial
        {heater.made.doubt && (
          <span className="block font-semibold text-copper-deep">{sentence(heater.made.doubt)}.</span>
        )}
      </p>
    )
  if (!edits || !heater.serial || !heater.maker) return null
  if (!teaching)
    return (
      <Button look="quiet" className="min-h-8" onClick={() => setTeaching(true)}>
        Say where its serial tells the date
      </Button>
    )
  return <Teach heater={heater} onDone={() => setTeaching(false)} />
}

function madeWords({ first, last }: Schema['MadeOut']): string {
  if (first.slice(0, 7) === last.slice(0, 7) || first.slice(0, 4) !== last.slice(0, 4)) return monthWords(first)
  return first.slice(5) === '01-01' ? `in ${first.slice(0, 4)}` : monthWords(first)
}

function Teach({ heater, onDone }: { heater: Schema['HeaterOut']; onDone: () => void }) {
  const teach = useTeachSerial(heater.id)
  // Nothing is known to be taught of it; whoever has taught it meanwhile is told of.
  const { version, onError } = useVersion(0)
  const [typed, setTyped] = useState({ year_at: '', year_digits: '2', besides: '', at: '' })
  const faults = teach.error instanceof ApiError ? teach.error.fields : {}
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  })
  return (
    <form
      aria-label="Where its serial tells the date"
      className="mt-2 space-y-2 rounded-md border border-line p-3"
      onSubmit={(event) => {
        event.preventDefault()
        const at = numberOf(typed.at)
        teach.mutate(
          {
            maker: heater.maker,
            version,
            year_at: numberOf(typed.year_at) ?? 0,
            year_digits: Number(typed.year_digits),
            week_at: typed.besides === 'week' ? at : null,
            month_at: typed.besides === 'month' ? at : null,
          },
          { onSuccess: onDone, onError },
        )
      }}
    >
      <p className="font-mono tracking-widest">{heater.serial}</p>
      <p className="text-fine text-soft">
        Of all serials of {heater.maker}. Places are counted from 1; look at one whose year you know.
      </p>
      <div className="grid grid-cols-2 gap-2">
        <Field label="The year stands at" inputMode="numeric" {...set('year_at')} fault={faults.year_at} />
        <Choice label="with" {...set('year_digits')}>
          <option value="2">2 digits</option>
          <option value="4">4 digits</option>
        </Choice>
        <Choice label="Besides it tells" {...set('besides')}>
          <option value="">nothing</option>
          <option value="week">the week</option>
          <option value="month">the month</option>
        </Choice>
        {typed.besides && (
          <Field label="at" inputMode="numeric" {...set('at')} fault={faults.week_at ?? faults.month_at} />
        )}
      </div>
      {teach.error && (
        <p role="alert" className="font-semibold text-oxide">
          {teach.error.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={!typed.year_at || teach.isPending}>
          Keep
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
