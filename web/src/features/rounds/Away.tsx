import { useState } from 'react'

import type { Schema } from '../../api/client'
import { trueNow } from '../../api/clock'
import { day, minutesIn, shortDate } from '../../lib/dates'
import { useDisturb } from '../../records/roundQueries'
import { weekday } from '../../records/roundWords'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Field } from '../../ui/Field'
import { WhatChanged } from './WhatChanged'

interface Props {
  round: Schema['RoundOut']
  on: string
  onClose: () => void
}

/** Somebody cannot work: what is left of their day is dealt out to the others in one act. */
export function Away({ round, on, onClose }: Props) {
  const { today, timezone } = useCompany()
  const disturb = useDisturb(on)
  const [why, setWhy] = useState('ill')
  const when = on === today ? 'today' : `on ${weekday(on)} ${shortDate(day(on), today)}`
  const at = on === today ? minutesIn(timezone, trueNow()) : 0
  const visits = round.calls.length
  return (
    <Dialog
      open
      onOpenChange={(next) => !next && onClose()}
      title={`${round.name} is away ${when}`}
      description={
        `${visits === 1 ? 'One visit is' : `${visits} visits are`} dealt out to the others, promises first; what ` +
        'finds no place waits for another day. Who was promised a time that changes is told.'
      }
    >
      {disturb.data ? (
        <WhatChanged changes={disturb.data.changes} onClose={onClose} />
      ) : (
        <form
          className="mt-3 grid gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            disturb.mutate({
              kind: 'away',
              at,
              member_id: round.member_id,
              words: why,
              minutes: 0,
              needs: [],
              decides: '',
            })
          }}
        >
          <Field label="Why" maxLength={80} value={why} onChange={(event) => setWhy(event.target.value)} />
          {disturb.error && (
            <p role="alert" className="font-semibold text-oxide">
              {disturb.error.message}
            </p>
          )}
          <div className="flex gap-2">
            <Button look="main" type="submit" disabled={disturb.isPending}>
              {disturb.isPending ? 'Planning …' : 'Deal out the day'}
            </Button>
            <Button look="quiet" onClick={onClose}>
              Not now
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  )
}
