import { useState } from 'react'
import { useNavigate } from 'react-router'

import { ApiError, type Schema } from '../../../api/client'
import { stored, label } from '../../../lib/units'
import { KINDS } from '../../../lib/words'
import { useAddHeater } from '../../../records/heaterQueries'
import { useCompany } from '../../../session/session'
import { Button } from '../../../ui/Button'
import { Dialog } from '../../../ui/Dialog'
import { Choice, Field } from '../../../ui/Field'

interface Props {
  siteId: number
  site: string
}

/** A heater that stands there and is on no record: what can be seen of it, then its visit. */
export function FoundHeater({ siteId, site }: Props) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button type="button" className="min-h-11 w-full text-soft underline" onClick={() => setOpen(true)}>
        Another heater stands here
      </button>
      <Dialog open={open} onOpenChange={setOpen} title={`Another heater at ${site}`}>
        <What siteId={siteId} onCancel={() => setOpen(false)} />
      </Dialog>
    </>
  )
}

function What({ siteId, onCancel }: { siteId: number; onCancel: () => void }) {
  const { units } = useCompany()
  const navigate = useNavigate()
  const add = useAddHeater()
  const [told, setTold] = useState({ kind: 'gas_tank', tag: '', location: '', capacity: '', note: '' })
  const fields = add.error instanceof ApiError ? add.error.fields : {}
  const tell = (name: keyof typeof told) => (event: { target: { value: string } }) =>
    setTold({ ...told, [name]: event.target.value })
  const capacity = stored(units, 'volume_l', told.capacity)
  const badSize = capacity !== null && !Number.isFinite(capacity)
  return (
    <form
      className="mt-3 space-y-3 [&_input]:h-12 [&_select]:h-12"
      onSubmit={(event) => {
        event.preventDefault()
        if (badSize) return
        add.mutate(
          {
            site_id: siteId,
            kind: told.kind as Schema['HeaterKind'],
            tag: told.tag.trim(),
            location: told.location.trim(),
            note: told.note.trim(),
            capacity_l: capacity,
            // Nobody here knows how old it is, nor what was done to it.
            install_certainty: 'unknown',
            flush_history: 'unknown',
          },
          { onSuccess: (heater) => void navigate(`/visit/${heater.id}`) },
        )
      }}
    >
      <Choice label="What it is" value={told.kind} onChange={tell('kind')} fault={fields.kind}>
        {Object.entries(KINDS).map(([kind, words]) => (
          <option key={kind} value={kind}>
            {words}
          </option>
        ))}
      </Choice>
      <Field label="Tag that you put on it" required value={told.tag} onChange={tell('tag')} fault={fields.tag} />
      <Field label="Where it stands" value={told.location} onChange={tell('location')} fault={fields.location} />
      <Field
        label="Size on its plate"
        unit={label(units, 'volume_l')}
        inputMode="decimal"
        value={told.capacity}
        onChange={tell('capacity')}
        fault={badSize ? 'a number' : fields.capacity_l}
      />
      <Field label="Note" value={told.note} onChange={tell('note')} fault={fields.note} />
      <p className="text-soft">Its plate is photographed in the visit; the office fills in the rest from it.</p>
      {add.error && (
        <p role="alert" className="font-semibold text-oxide">
          {add.error.message}
        </p>
      )}
      <p className="flex gap-2">
        <Button type="submit" look="main" className="min-h-12 flex-1" disabled={add.isPending}>
          Put it on record and begin
        </Button>
        <Button className="min-h-12" onClick={onCancel}>
          Leave it
        </Button>
      </p>
    </form>
  )
}
