import { useEffect, useState } from 'react'
import { Link } from 'react-router'

import { client, unwrap, type Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { forgetVisit, type EventLog } from '../../device/eventLog'
import { sentence } from '../../lib/words'
import { Button } from '../../ui/Button'
import { useSecondTap } from '../../ui/useSecondTap'
import { answersOf, isAnything, told, type Answers } from './answers'
import { Moved } from './Moved'
import { Sheet, VisitShell } from './VisitShell'

interface Props {
  visit: Schema['VisitOut']
  /** What was answered here, of which some may not be in the record. */
  answers: Answers
}

/** After a visit is recorded: what moved, what follows, the report. */
export function Recorded({ visit, answers }: Props) {
  const onClick = useSecondTap()
  const { today } = useCompany()
  return (
    <VisitShell
      head={<h1 className="text-title">Visit saved: new due dates</h1>}
      bar={
        <div className="grid grid-cols-2 gap-3">
          <Button className="min-h-13 text-lead" asChild>
            <Link to={`/heaters/${visit.heater_id}`} onClick={onClick}>
              Open heater
            </Link>
          </Button>
          <Button look="main" className="min-h-13 text-lead" asChild>
            <Link to="/visit" onClick={onClick}>
              Next heater
            </Link>
          </Button>
        </div>
      }
    >
      {visit.already_recorded && (
        <p className="px-2 text-soft">This visit had reached the office already; it stands once.</p>
      )}
      {visit.not_in_record.length > 0 && <Beside visit={visit} answers={answers} />}
      {visit.left_off && (
        <p role="alert" className="rounded-xl border-2 border-oxide bg-sheet p-4">
          <strong className="text-oxide">Left off: {visit.left_off}.</strong> An open issue is raised. It is off for
          everybody until a visit proves it right.
        </p>
      )}
      <Moved moved={visit.moved} today={today} />
      {visit.follow_ups.length > 0 && (
        <Sheet title="What follows">
          <ul className="space-y-2">
            {visit.follow_ups.map((one) => (
              <li key={one.what}>
                <strong>{sentence(one.what)}</strong>
                {one.licensed && <span className="text-body text-soft"> for a licensed person</span>}
                <span className="block text-body text-soft">{sentence(one.why.join('; '))}.</span>
                {one.warranty_until && (
                  <span className="block text-body font-semibold text-moss-deep">
                    No charge: we fitted it and stand for it until {dateWords(one.warranty_until, today)}.
                  </span>
                )}
              </li>
            ))}
          </ul>
          <p className="mt-2 text-body text-soft">The office has a quote for each; the customer answers there.</p>
        </Sheet>
      )}
      <a
        href={`/api/visits/${visit.id}/report.pdf`}
        target="_blank"
        rel="noreferrer"
        className="block min-h-11 px-2 py-2.5 text-copper-deep underline"
      >
        The report for the customer, as PDF
      </a>
    </VisitShell>
  )
}

/** What this device has and the record, which another device saved, has not. */
function Beside({ visit, answers }: Props) {
  const [done, setDone] = useState(false)
  const [trouble, setTrouble] = useState('')
  const [id] = useState(() => crypto.randomUUID())
  const add = async () => {
    try {
      const body = {
        client_id: id,
        findings: [],
        answers: told(answers),
        why: 'From a second device at the same visit.',
      }
      await unwrap(client.POST('/api/visits/{visit_id}/amendments', { params: { path: { visit_id: visit.id } }, body }))
      setDone(true)
      setTrouble('')
    } catch (error) {
      setTrouble((error as Error).message)
    }
  }
  return (
    <Sheet title={`${visit.technician} saved this visit first`}>
      <p>Not in the record, and on this device:</p>
      <ul className="mt-1 list-disc pl-5">
        {visit.not_in_record.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
      {done ? (
        <p role="status" className="mt-3 font-semibold">
          It stands in the record as an amendment.
        </p>
      ) : (
        <Button className="mt-3 min-h-12 w-full" onClick={() => void add()}>
          Add it to the record
        </Button>
      )}
      {trouble && (
        <p role="alert" className="mt-2 text-oxide">
          {trouble}
        </p>
      )}
    </Sheet>
  )
}

/** Somebody saved the visit on another device while it was open on this one. */
export function RecordedElsewhere({ eventLog, recorded }: { eventLog: EventLog; recorded: Schema['VisitOut'] }) {
  const [compared, setCompared] = useState<Schema['VisitOut'] | null>(null)
  const answers = answersOf(eventLog.taps)
  const { clientId, heaterId } = eventLog.visit
  // It is here until it was seen; then the next one at this heater is another.
  const seen = compared !== null
  useEffect(() => () => void (seen && forgetVisit(clientId)), [seen, clientId])
  if (compared) return <Recorded visit={compared} answers={answers} />
  const compare = async () => {
    if (!isAnything(answers)) setCompared(recorded)
    else
      setCompared(
        await unwrap(
          client.POST('/api/visits', {
            body: {
              client_id: clientId,
              heater_id: heaterId,
              on: recorded.on,
              findings: [],
              note: '',
              supervised_by: null,
              signature: null,
            },
          }),
        ),
      )
  }
  return (
    <VisitShell
      head={<h1 className="text-title">{eventLog.visit.name}</h1>}
      bar={
        <Button look="main" className="min-h-13 w-full text-lead" onClick={() => void compare()}>
          See what is recorded
        </Button>
      }
    >
      <Sheet title="Saved on another device">
        <p>
          {recorded.technician} saved this visit. Whatever you tapped here is in its event log; what you found beside it
          can be added to the record.
        </p>
      </Sheet>
    </VisitShell>
  )
}
