import { useState } from 'react'
import { Link } from 'react-router'

import { useMe } from '../../session/session'
import { setAside, useEventLog } from '../../device/eventLog'
import type { VisitSession } from '../../device/store'
import { sendKept } from '../../device/unsent'
import { Button } from '../../ui/Button'
import { standOf } from './guide/events'
import { Left } from './guide/Left'
import { wasTouched } from './guide/visit'

const REASONS = ['Begun by mistake', 'Nobody let us in', 'Sent away', 'Wrong heater']

/** A visit that was begun here: gone on with, or set aside where there is nothing to record of it. */
export function UnderWayHere({ visit }: { visit: VisitSession }) {
  const [asked, setAsked] = useState(false)
  return (
    <div className="rounded-xl border-2 border-copper bg-sheet">
      <div className="flex items-stretch">
        <Link
          to={`/visit/${visit.heaterId}`}
          className="flex min-h-13 min-w-0 flex-1 items-center gap-3 px-4 font-bold"
        >
          <span className="wrap-break-word">Go on at {visit.name}</span>
          <span aria-hidden>→</span>
        </Link>
        <button
          type="button"
          aria-expanded={asked}
          onClick={() => setAsked(!asked)}
          className="min-h-13 px-4 text-body text-soft underline"
        >
          Set aside
        </button>
      </div>
      {asked && <SetAside visit={visit} />}
    </div>
  )
}

function SetAside({ visit }: { visit: VisitSession }) {
  const me = useMe()
  const eventLog = useEventLog(visit.heaterId, me.id)
  const [why, setWhy] = useState('')
  if (!eventLog) return null
  const stand = standOf(eventLog)
  const { guide } = eventLog.visit
  if (wasTouched(guide, stand)) {
    return (
      <div className="px-3 pb-3">
        <Left guide={guide} stand={stand} />
        <p className="mt-2 px-1 text-body">
          Something was done here already. Go on with it until the heater is as it should be left, or leave it off.
        </p>
      </div>
    )
  }
  const aside = () => void setAside(visit.clientId, why.trim()).then(() => sendKept(me.id))
  return (
    <form
      className="space-y-2 px-4 pb-4"
      onSubmit={(event) => {
        event.preventDefault()
        if (why.trim()) aside()
      }}
    >
      <p className="text-body">Nothing is recorded of it, and the forecast stays as it is. Why?</p>
      <div className="grid grid-cols-2 gap-2">
        {REASONS.map((reason) => (
          <Button
            key={reason}
            aria-pressed={why === reason}
            className={`min-h-11 px-2 text-body ${why === reason ? 'border-2 bg-ground' : 'font-normal'}`}
            onClick={() => setWhy(reason)}
          >
            {reason}
          </Button>
        ))}
      </div>
      <label className="block text-body">
        Why it is set aside
        <input
          value={why}
          maxLength={200}
          onChange={(event) => setWhy(event.target.value)}
          className="mt-1 block h-12 w-full rounded-lg border-2 border-rule bg-ground px-3"
        />
      </label>
      <Button type="submit" look="main" disabled={!why.trim()} className="min-h-12 w-full">
        Set this visit aside
      </Button>
    </form>
  )
}
