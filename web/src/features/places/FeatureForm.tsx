import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { featureKindsOptions, useKeepFeature } from '../../records/placeQueries'
import { DetailFields, useDetails } from '../../records/Details'
import { useVersion } from '../../records/version'
import { useCompany } from '../../session/session'

interface Props {
  siteId: number
  kind: Schema['FeatureKind']
  heaterId: number | null
  feature?: Schema['FeatureOut'] | undefined
  onDone: () => void
}

/** What is seen of one thing: mostly one tap on its condition. */
export function FeatureForm(props: Props) {
  const specs = useQuery(featureKindsOptions).data
  const spec = specs?.find((one) => one.kind === props.kind)
  return spec ? <Form {...props} spec={spec} /> : null
}

function Form({ siteId, kind, heaterId, feature, spec, onDone }: Props & { spec: Schema['FeatureSpecOut'] }) {
  const { units } = useCompany()
  const details = useDetails(spec.details, feature?.details, units)
  const keep = useKeepFeature(siteId)
  const { version, onError } = useVersion(feature?.version)
  const [form, setForm] = useState(feature?.form ?? '')
  const [where, setWhere] = useState(feature?.where ?? '')
  const [note, setNote] = useState(feature?.note ?? '')
  const [avoid, setAvoid] = useState(feature?.do_not_operate ?? false)
  const [instead, setInstead] = useState(feature?.use_instead ?? '')
  const [condition, setCondition] = useState(feature?.condition ?? '')
  const faults = keep.error instanceof ApiError ? keep.error.fields : {}
  const save = () =>
    keep.mutate(
      {
        id: feature?.id ?? null,
        body: {
          kind,
          heater_id: spec.of_site ? null : heaterId,
          form,
          condition,
          where,
          note,
          details: details.told(),
          do_not_operate: avoid,
          use_instead: avoid ? instead : '',
          version,
        },
      },
      { onSuccess: onDone, onError },
    )
  return (
    <form
      className="mt-3 space-y-4"
      onSubmit={(event) => {
        event.preventDefault()
        save()
      }}
    >
      <fieldset>
        <legend className="mb-1 font-semibold">How it is</legend>
        <div className="flex flex-wrap gap-2">
          {spec.conditions.map((one) => (
            <label
              key={one.value}
              className={clsx(
                'flex min-h-10 cursor-pointer items-center rounded-md border px-3 py-1.5',
                'has-focus-visible:outline-3 has-focus-visible:outline-water',
                condition === one.value ? 'border-copper bg-sheet font-bold' : 'border-rule bg-sheet',
                one.severity === 'danger' ? 'text-oxide' : '',
              )}
            >
              <input
                type="radio"
                name="condition"
                value={one.value}
                checked={condition === one.value}
                onChange={() => setCondition(one.value)}
                className="sr-only"
              />
              {one.words}
            </label>
          ))}
        </div>
        {faults.condition && <p className="mt-1 text-fine font-semibold text-oxide">{faults.condition}</p>}
        <p className="mt-1 min-h-5 text-soft">{spec.conditions.find((one) => one.value === condition)?.advice}</p>
      </fieldset>
      <div className="grid grid-cols-2 gap-3">
        {spec.forms.length > 0 && (
          <Choice label="Form" value={form} onChange={(event) => setForm(event.target.value)} fault={faults.form}>
            <option value="">not said</option>
            {spec.forms.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Choice>
        )}
        <Field
          label="Where"
          value={where}
          maxLength={120}
          onChange={(event) => setWhere(event.target.value)}
          fault={faults.where}
        />
      </div>
      {spec.details.length > 0 && (
        <div className="grid grid-cols-2 gap-3">
          <DetailFields specs={spec.details} details={details} units={units} faults={faults} />
        </div>
      )}
      {spec.is_valve && (
        <div>
          <label className="flex items-center gap-2 font-semibold text-oxide">
            <input
              type="checkbox"
              className="size-4"
              checked={avoid}
              onChange={(event) => setAvoid(event.target.checked)}
            />
            Not to be touched
          </label>
          {avoid && (
            <Field
              className="mt-2"
              label="What to use instead"
              value={instead}
              maxLength={120}
              placeholder="the house shut-off"
              onChange={(event) => setInstead(event.target.value)}
              fault={faults.use_instead}
            />
          )}
        </div>
      )}
      <Field label="Note" value={note} maxLength={240} onChange={(event) => setNote(event.target.value)} />
      {keep.error && (
        <p role="alert" className="font-semibold text-oxide">
          {keep.error.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={!condition || keep.isPending}>
          Keep as seen today
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
