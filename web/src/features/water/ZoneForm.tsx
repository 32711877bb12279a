import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { zonesOptions } from '../../session/session'
import { numberOf } from '../../lib/units'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { useVersion } from '../../records/version'
import { useKeepZone } from '../../records/waterQueries'

interface TypedSeason {
  name: string
  other: string
  year: string
  share: string
}

/** What a zone is called, where its water comes from, and what it is mixed with in which season. */
export function ZoneForm({ zone, onDone }: { zone: Schema['ZonePageOut'] | null; onDone: (id: number) => void }) {
  const others = (useQuery(zonesOptions).data ?? []).filter((one) => one.id !== zone?.id)
  const change = useKeepZone(zone?.id ?? null)
  const { version, onError } = useVersion(zone?.version)
  const faults = change.error instanceof ApiError ? change.error.fields : {}
  const [typed, setTyped] = useState({
    name: zone?.name ?? '',
    note: zone?.note ?? '',
    supply: zone?.supply ?? 'mains',
    practice: zone?.practice ?? '',
    places: zone?.places.join(', ') ?? '',
  })
  const [seasons, setSeasons] = useState<TypedSeason[]>(() =>
    (zone?.seasons ?? []).map((one) => ({
      name: one.name,
      other: String(one.other_id),
      year: percent(one.share_of_year),
      share: percent(one.other_share),
    })),
  )
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  })
  const setSeason = (at: number, part: Partial<TypedSeason>) =>
    setSeasons(seasons.map((one, number) => (number === at ? { ...one, ...part } : one)))
  return (
    <form
      className="mt-4 space-y-4"
      onSubmit={(event) => {
        event.preventDefault()
        change.mutate(
          {
            name: typed.name,
            note: typed.note,
            supply: typed.supply,
            places: typed.places
              .split(/[,;\n]+/)
              .map((one) => one.trim())
              .filter(Boolean),
            practice: (typed.practice || null) as Schema['Practice'] | null,
            seasons: seasons.map((one) => ({
              name: one.name,
              other_id: Number(one.other),
              share_of_year: share(one.year),
              other_share: share(one.share),
            })),
            version,
          },
          { onSuccess: (kept) => onDone(kept.id), onError },
        )
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <Field label="Name" needed maxLength={120} {...set('name')} fault={faults.name} />
        <Choice label="Supply" {...set('supply')} fault={faults.supply}>
          <option value="mains">mains</option>
          <option value="well">wells of their own</option>
        </Choice>
        <Field label="What is known of it" maxLength={240} {...set('note')} fault={faults.note} />
        <Choice label="Practice on this water" {...set('practice')} fault={faults.practice}>
          <option value="">the company’s</option>
          <option value="condition">by condition</option>
          <option value="annual">yearly</option>
          <option value="hard_water_half_yearly">half-yearly on hard water</option>
          <option value="long_service">long service</option>
        </Choice>
        <Field
          label="Supplies"
          className="col-span-2"
          placeholder="Quillmoor, 00021, 00022"
          hint={
            'Towns and postcodes, with commas between. Their sites belong to this zone, and those that ' +
            'come later too.'
          }
          {...set('places')}
          fault={faults.places}
        />
      </div>
      <fieldset>
        <legend className="font-bold">Seasons in which another water is mixed in</legend>
        {seasons.map((one, at) => (
          <div key={at} className="mt-2 grid grid-cols-[1.2fr_1.4fr_0.9fr_0.9fr_auto] items-end gap-3">
            <Field
              label="Season"
              placeholder="dry summer"
              value={one.name}
              maxLength={80}
              onChange={(event) => setSeason(at, { name: event.target.value })}
              fault={faults[`seasons.${at}.name`]}
            />
            <Choice
              label="Mixed with"
              value={one.other}
              onChange={(event) => setSeason(at, { other: event.target.value })}
              fault={faults[`seasons.${at}.other_id`]}
            >
              {others.map((other) => (
                <option key={other.id} value={other.id}>
                  {other.name}
                </option>
              ))}
            </Choice>
            <Field
              label="Of the year"
              unit="%"
              inputMode="decimal"
              value={one.year}
              onChange={(event) => setSeason(at, { year: event.target.value })}
              fault={faults[`seasons.${at}.share_of_year`]}
            />
            <Field
              label="Of the water"
              unit="%"
              inputMode="decimal"
              value={one.share}
              onChange={(event) => setSeason(at, { share: event.target.value })}
              fault={faults[`seasons.${at}.other_share`]}
            />
            <Button look="quiet" onClick={() => setSeasons(seasons.filter((_, number) => number !== at))}>
              Take out
            </Button>
          </div>
        ))}
        {others.length > 0 && (
          <Button
            look="quiet"
            className="mt-2 -ml-2"
            onClick={() => setSeasons([...seasons, { name: '', other: String(others[0]!.id), year: '', share: '' }])}
          >
            Add a season
          </Button>
        )}
      </fieldset>
      {change.error && (
        <p role="alert" className="font-semibold text-oxide">
          {change.error.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={change.isPending}>
          Save the zone
        </Button>
        <Button look="quiet" onClick={() => onDone(0)}>
          Cancel
        </Button>
      </div>
    </form>
  )
}

function percent(part: number): string {
  return String(Math.round(1000 * part) / 10)
}

function share(text: string): number {
  return (numberOf(text) ?? 0) / 100
}
