import { useState } from 'react'

import { ApiError, type Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { label, stored } from '../../lib/units'
import { ENDS } from '../../lib/words'
import { useArchive } from '../../records/heaterQueries'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'

/** Out of service: why, when, and what came in its place. Only a tank that leaked tells how long tanks last. */
export function ArchiveDialog(props: {
  heater: Schema['HeaterOut']
  today: string
  open: boolean
  onOpenChange: (open: boolean) => void
}) {
  const { heater, open, onOpenChange } = props
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={`Archive ${heater.tag}?`}
      description={
        'It is forecast and planned no longer. Its visits, parts, photographs and open issues stay, ' +
        'and it can be put back in service.'
      }
    >
      <ArchiveForm heater={heater} today={props.today} onDone={() => onOpenChange(false)} />
    </Dialog>
  )
}

function ArchiveForm(props: { heater: Schema['HeaterOut']; today: string; onDone: () => void }) {
  const { heater, today, onDone } = props
  const { units } = useCompany()
  const archive = useArchive(heater.id)
  const [end, setEnd] = useState({ cause: '', on: today, successor_tag: '', note: '', weight: '' })
  const set = (name: keyof typeof end) => ({
    value: end[name],
    onChange: (event: { target: { value: string } }) => setEnd({ ...end, [name]: event.target.value }),
  })
  const faults = archive.error instanceof ApiError ? archive.error.fields : {}
  const renewed = end.cause === 'leaked' || end.cause === 'replaced_before'
  return (
    <form
      className="mt-3 space-y-3"
      onSubmit={(event) => {
        event.preventDefault()
        archive.mutate(
          {
            cause: end.cause as Schema['EndCause'],
            on: end.on,
            successor_tag: renewed ? end.successor_tag : '',
            note: end.note,
            weight_kg: renewed ? stored(units, 'mass_kg', end.weight) : null,
          },
          { onSuccess: onDone },
        )
      }}
    >
      <Choice label="Why does it go?" required {...set('cause')} fault={faults.cause}>
        <option value="">Choose …</option>
        {(['leaked', 'replaced_before', 'left'] as const).map((cause) => (
          <option key={cause} value={cause}>
            {ENDS[cause]}
          </option>
        ))}
      </Choice>
      <Field label="On" type="date" required max={today} {...set('on')} fault={faults.on} />
      {renewed && (
        <>
          <Field
            label="Tag of the new heater"
            hint="If it is on record already."
            {...set('successor_tag')}
            fault={faults.successor_tag}
          />
          <Field
            label="Weight of the old one, drained"
            unit={label(units, 'mass_kg')}
            inputMode="decimal"
            hint="What lies in it weighs: the best measurement there is."
            {...set('weight')}
            fault={faults.weight_kg}
          />
          <Field label="What it looked like inside" maxLength={500} {...set('note')} fault={faults.note} />
        </>
      )}
      {archive.error && (
        <p role="alert" className="font-semibold text-oxide">
          {archive.error.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={archive.isPending || !end.cause}>
          Archive it
        </Button>
        <Button look="quiet" type="button" onClick={onDone}>
          Leave it in service
        </Button>
      </div>
    </form>
  )
}
