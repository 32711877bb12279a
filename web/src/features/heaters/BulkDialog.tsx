import { useState } from 'react'

import type { Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { label, stored } from '../../lib/units'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'
import { useBulkChange, useBulkPreview } from '../../records/heaterQueries'

const FIELDS = {
  practice: 'Practice',
  setpoint_c: 'Set temperature',
  install_certainty: 'How sure their age is',
  bank: 'Bank',
  recirculated: 'A loop keeps them hot',
  maker: 'Maker',
  model: 'Model',
}
const CHOICES: Record<string, [string, string][]> = {
  practice: [
    ['', 'the company’s'],
    ['condition', 'by condition'],
    ['annual', 'yearly'],
    ['hard_water_half_yearly', 'half-yearly on hard water'],
    ['long_service', 'long service'],
  ],
  install_certainty: [
    ['known', 'known'],
    ['estimated', 'estimated'],
    ['unknown', 'unknown'],
  ],
  recirculated: [
    ['yes', 'yes'],
    ['no', 'no'],
  ],
}

/** One figure for all heaters of the sentence: first what it would do, then do it. */
export function BulkDialog({
  filters,
  total,
  open,
  onOpenChange,
}: {
  filters: Schema['HeaterFilters']
  total: number
  open: boolean
  onOpenChange: (open: boolean) => void
}) {
  const { units } = useCompany()
  const [field, setField] = useState<keyof typeof FIELDS>('practice')
  const [typed, setTyped] = useState('')
  const preview = useBulkPreview()
  const change = useBulkChange()
  const value =
    field === 'setpoint_c' ? stored(units, 'temperature_c', typed) : field === 'recirculated' ? typed === 'yes' : typed
  const seen = preview.data
  const failed = change.error ?? preview.error
  const forget = () => {
    preview.reset()
    change.reset()
  }
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={`Change all ${total}`}
      description="Every heater of the sentence behind this window, not only those on the screen."
    >
      <div className="mt-4 grid grid-cols-2 gap-3">
        <Choice
          label="What"
          value={field}
          onChange={(event) => {
            setField(event.target.value as keyof typeof FIELDS)
            setTyped(
              event.target.value === 'recirculated' ? 'no' : event.target.value === 'install_certainty' ? 'known' : '',
            )
            forget()
          }}
        >
          {Object.entries(FIELDS).map(([name, words]) => (
            <option key={name} value={name}>
              {words}
            </option>
          ))}
        </Choice>
        {CHOICES[field] ? (
          <Choice
            label="To"
            value={typed}
            onChange={(event) => {
              setTyped(event.target.value)
              forget()
            }}
          >
            {CHOICES[field].map(([name, words]) => (
              <option key={name} value={name}>
                {words}
              </option>
            ))}
          </Choice>
        ) : (
          <Field
            label="To"
            {...(field === 'setpoint_c' ? { unit: label(units, 'temperature_c') } : {})}
            value={typed}
            onChange={(event) => {
              setTyped(event.target.value)
              forget()
            }}
          />
        )}
      </div>
      {failed && (
        <p role="alert" className="mt-3 font-semibold text-oxide">
          {failed.message}
        </p>
      )}
      {seen && !change.data && (
        <div role="status" className="mt-4 border-l-4 border-copper pl-3">
          <p>
            <strong>{seen.changed}</strong> of {seen.total} would change
            {seen.refused.length > 0 && `; ${seen.refused.join('; ')}`}.
          </p>
          <ul className="mt-1 max-h-52 overflow-y-auto text-soft">
            {seen.shown.map((one) => (
              <li key={one.id}>
                {one.tag}, {one.site}: now {one.before === null || one.before === '' ? 'nothing' : String(one.before)}
              </li>
            ))}
            {seen.changed > seen.shown.length && <li>and {seen.changed - seen.shown.length} more</li>}
          </ul>
        </div>
      )}
      {change.data && (
        <p role="status" className="mt-4 font-bold">
          {change.data.changed} changed, and forecast anew. Each one’s history can take it back.
        </p>
      )}
      <div className="mt-4 flex gap-3">
        {!seen && (
          <Button look="main" disabled={preview.isPending} onClick={() => preview.mutate({ filters, field, value })}>
            See what it would do
          </Button>
        )}
        {seen && !change.data && (
          <Button
            look="main"
            disabled={seen.changed === 0 || change.isPending}
            onClick={() => change.mutate({ filters, field, value, expected: seen.changed })}
          >
            Change {seen.changed}
          </Button>
        )}
        <Button
          look="quiet"
          onClick={() => {
            onOpenChange(false)
            forget()
          }}
        >
          {change.data ? 'Done' : 'Cancel'}
        </Button>
      </div>
    </Dialog>
  )
}
