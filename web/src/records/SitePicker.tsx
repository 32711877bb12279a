import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useId, useState } from 'react'

import { ApiError, type Schema } from '../api/client'
import { zonesOptions } from '../session/session'
import { numberOf } from '../lib/units'
import { Button } from '../ui/Button'
import { Choice, Field } from '../ui/Field'
import { sitesOptions, useAddSite } from './heaterQueries'

interface Props {
  chosen: Schema['SiteOut'] | null
  onChoose: (site: Schema['SiteOut'] | null) => void
  fault?: string | undefined
}

/** The site a heater stands on: one on record by a few letters, or a new one with its water zone. */
export function SitePicker({ chosen, onChoose, fault }: Props) {
  const [words, setWords] = useState('')
  const [adding, setAdding] = useState(false)
  const id = useId()
  const asked = useDeferredValue(words)
  const found = useQuery({ ...sitesOptions(asked), enabled: !chosen && !adding }).data ?? []
  if (chosen) {
    return (
      <p className="flex items-center justify-between rounded-md border border-line bg-sheet px-3 py-2">
        <span>
          <strong>{chosen.name}</strong>, {chosen.street} · water: {chosen.zone}
        </span>
        <Button look="quiet" onClick={() => onChoose(null)}>
          Choose another site
        </Button>
      </p>
    )
  }
  if (adding) return <NewSite name={words} onMade={onChoose} onBack={() => setAdding(false)} />
  return (
    <div>
      <Field
        label="Site"
        needed
        value={words}
        onChange={(event) => setWords(event.target.value)}
        placeholder="A few letters of its name or street"
        fault={fault}
        aria-controls={id}
      />
      <ul id={id} className="mt-1 max-h-40 overflow-y-auto rounded-md border border-line bg-sheet">
        {found.map((site) => (
          <li key={site.id}>
            <button
              type="button"
              className="w-full px-3 py-1.5 text-left hover:bg-ground"
              onClick={() => onChoose(site)}
            >
              <strong>{site.name}</strong>, {site.street} <span className="text-soft">· {site.zone}</span>
            </button>
          </li>
        ))}
        <li>
          <button
            type="button"
            className="w-full px-3 py-1.5 text-left font-semibold text-copper-deep hover:bg-ground"
            onClick={() => setAdding(true)}
          >
            It is not here: add a new site
          </button>
        </li>
      </ul>
    </div>
  )
}

function NewSite({
  name,
  onMade,
  onBack,
}: {
  name: string
  onMade: (site: Schema['SiteOut']) => void
  onBack: () => void
}) {
  const zones = useQuery(zonesOptions).data ?? []
  const add = useAddSite()
  const [site, setSite] = useState({ name, street: '', zone: '', people: '', softened: false })
  const faults = add.error instanceof ApiError ? add.error.fields : {}
  const save = () =>
    add.mutate(
      {
        name: site.name,
        customer_name: '',
        street: site.street,
        town: '',
        hazard: '',
        zone_id: Number(site.zone),
        softened: site.softened,
        people: numberOf(site.people),
      },
      { onSuccess: onMade },
    )
  return (
    <fieldset className="rounded-md border border-line p-3">
      <legend className="px-1 font-bold">New site</legend>
      <div className="grid grid-cols-2 gap-3">
        <Field
          label="Name"
          needed
          value={site.name}
          fault={faults.name}
          onChange={(e) => setSite({ ...site, name: e.target.value })}
        />
        <Field
          label="Street"
          needed
          value={site.street}
          fault={faults.street}
          onChange={(e) => setSite({ ...site, street: e.target.value })}
        />
        <Choice
          label="Water zone"
          needed
          value={site.zone}
          fault={faults.zone_id}
          onChange={(e) => setSite({ ...site, zone: e.target.value })}
        >
          <option value="">Choose …</option>
          {zones.map((zone) => (
            <option key={zone.id} value={zone.id}>
              {zone.name}, {zone.hardness_class}
            </option>
          ))}
        </Choice>
        <Field
          label="People"
          inputMode="numeric"
          value={site.people}
          fault={faults.people}
          onChange={(e) => setSite({ ...site, people: e.target.value })}
        />
        <label className="col-span-2 flex items-center gap-2">
          <input
            type="checkbox"
            className="size-4"
            checked={site.softened}
            onChange={(e) => setSite({ ...site, softened: e.target.checked })}
          />
          A softener stands before the heater
        </label>
      </div>
      {add.error && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {add.error.message}
        </p>
      )}
      <div className="mt-3 flex gap-2">
        <Button look="main" disabled={!site.name || !site.zone || add.isPending} onClick={save}>
          Add site
        </Button>
        <Button look="quiet" onClick={onBack}>
          Back
        </Button>
      </div>
    </fieldset>
  )
}
