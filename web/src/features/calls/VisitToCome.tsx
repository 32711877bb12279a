import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { useStand } from '../../records/roundQueries'
import { duration, REASONS, serviceWords, STANDINGS, whenWords } from '../../records/roundWords'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'

interface Props {
  one: Schema['SiteVisitOut']
  isChosen: boolean
  may: boolean
  onChoose: () => void
}

/** One visit to come: when, who, what for, and what can be done about it while they are on the telephone. */
export function VisitToCome({ one, isChosen, may, onChoose }: Props) {
  const { today } = useCompany()
  const stand = useStand()
  const [ending, setEnding] = useState(false)
  const promised = one.standing === 'promised'
  const set = (standing: Schema['PromiseIn']['standing'], why = '') =>
    stand.mutate({ id: one.id, version: one.version, standing, why, agreed: true })
  return (
    <div className={`rounded-md border bg-sheet p-3 ${isChosen ? 'border-ink' : 'border-line'}`}>
      <p className="text-lead font-bold">{whenWords(one, today)}</p>
      <p>
        <span className={promised ? 'font-semibold text-moss-deep' : 'text-soft'}>{STANDINGS[one.standing]}</span>
        {one.technician ? ` · ${one.technician}` : ' · nobody chosen yet'}
      </p>
      <p className="text-soft">
        {[one.reason === 'due' ? '' : REASONS[one.reason], serviceWords(one.services), duration(one.minutes)]
          .filter(Boolean)
          .join(' · ')}
      </p>
      {one.said && <p>“{one.said}”</p>}
      {one.decides && <p className="text-soft">{one.decides} decides.</p>}
      {one.note && <p className="text-soft">{one.note}</p>}
      {may && !ending && (
        <p className="mt-1 flex flex-wrap gap-x-3">
          {one.begins !== null && !promised && (
            <Button look="plain" className="min-h-8 px-3" disabled={stand.isPending} onClick={() => set('promised')}>
              Confirm this time
            </Button>
          )}
          {!isChosen && (
            <Button look="quiet" className="min-h-8 px-0!" onClick={onChoose}>
              Move it
            </Button>
          )}
          <Button look="quiet" className="min-h-8 px-0!" onClick={() => setEnding(true)}>
            Call it off
          </Button>
          <Link
            to={`/rounds?visit=${one.id}&on=${one.on ?? one.week}`}
            className="self-center text-copper-deep underline underline-offset-2"
          >
            On the board
          </Link>
        </p>
      )}
      {ending && (
        <CallOff busy={stand.isPending} onSay={(why) => set('called_off', why)} onBack={() => setEnding(false)} />
      )}
      {stand.error && (
        <p role="alert" className="font-semibold text-oxide">
          {stand.error.message}
        </p>
      )}
    </div>
  )
}

function CallOff({ busy, onSay, onBack }: { busy: boolean; onSay: (why: string) => void; onBack: () => void }) {
  const [why, setWhy] = useState('')
  return (
    <form
      className="mt-2"
      onSubmit={(event) => {
        event.preventDefault()
        onSay(why)
      }}
    >
      <Field
        label="Why they call it off"
        autoFocus
        value={why}
        maxLength={160}
        onChange={(e) => setWhy(e.target.value)}
      />
      <p className="mt-2 flex gap-3">
        <Button type="submit" className="min-h-8 px-3" disabled={busy}>
          Call it off
        </Button>
        <Button look="quiet" className="min-h-8 px-0!" onClick={onBack}>
          Leave it
        </Button>
      </p>
    </form>
  )
}
