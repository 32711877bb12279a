import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import { client, unwrap, type Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { dateWords } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { heaterOptions, logOptions, useRefresh } from '../../records/heaterQueries'
import { isAnything, told, type Answers } from './answers'
import { Moved } from './Moved'
import { guideOptions } from './queries'
import { groupsOf } from './questions'
import { Told } from './Told'
import { Sheet, VisitShell } from './VisitShell'

const WHYS = ['Read or tapped wrong at the visit.', 'Seen only afterwards.', 'Told by the customer later.']

/** What is put right in a record, or added to it, with why; what was recorded stays and is told with it. */
export function AmendPage() {
  const { heaterId, visitId } = useParams()
  const id = Number(heaterId)
  const { units, today } = useCompany()
  const heater = useQuery(heaterOptions(id))
  const log = useQuery(logOptions(id))
  const guide = useQuery(guideOptions(id))
  const refresh = useRefresh()
  const [client_id] = useState(() => crypto.randomUUID())
  const [answers, setAnswers] = useState<Answers>({})
  const [why, setWhy] = useState('')
  const [trouble, setTrouble] = useState('')
  const [moved, setMoved] = useState<Schema['MovedOut'][] | null>(null)
  const entry = log.data?.entries.find((one) => one.visit_id === Number(visitId))
  const head = (
    <div className="flex items-baseline gap-3">
      <h1 className="min-w-0 flex-1 wrap-break-word text-title">Amend{entry && `: ${dateWords(entry.on, today)}`}</h1>
      <Link to={`/heaters/${id}`} className="min-h-11 px-1 py-3 text-body text-soft underline">
        Leave
      </Link>
    </div>
  )
  const failed = heater.error ?? log.error ?? guide.error
  if (failed)
    return (
      <VisitShell head={head}>
        <Failed error={failed} onRetry={() => void Promise.all([heater.refetch(), log.refetch(), guide.refetch()])} />
      </VisitShell>
    )
  if (!heater.data || !log.data || !guide.data)
    return (
      <VisitShell head={head}>
        <Loading what="this visit" />
      </VisitShell>
    )
  if (!entry)
    return (
      <VisitShell head={head}>
        <Sheet>
          <p>There is no such visit at this heater.</p>
        </Sheet>
      </VisitShell>
    )
  if (moved) {
    return (
      <VisitShell
        head={head}
        bar={
          <Button look="main" className="min-h-13 w-full text-lead" asChild>
            <Link to={`/heaters/${id}`}>Open heater</Link>
          </Button>
        }
      >
        <Sheet title="It stands in the record as an amendment">
          <a
            href={`/api/visits/${entry.visit_id}/report.pdf`}
            target="_blank"
            rel="noreferrer"
            className="block min-h-11 py-2.5 text-copper-deep underline"
          >
            The report, with what was put right
          </a>
        </Sheet>
        <Moved moved={moved} today={today} />
      </VisitShell>
    )
  }
  const save = async () => {
    try {
      setMoved(
        await unwrap(
          client.POST('/api/visits/{visit_id}/amendments', {
            params: { path: { visit_id: entry.visit_id } },
            body: { client_id, findings: [], answers: told(answers), why },
          }),
        ),
      )
      void refresh()
    } catch (error) {
      setTrouble((error as Error).message)
    }
  }
  return (
    <VisitShell
      head={head}
      bar={
        <Button
          look="main"
          className="min-h-13 w-full text-lead"
          disabled={!isAnything(answers) || !why}
          onClick={() => void save()}
        >
          Add to the record
        </Button>
      }
    >
      <Sheet title="On record">
        <ul className="list-disc pl-5">
          {entry.lines.map((one) => (
            <li key={one.task + one.words}>{one.words}</li>
          ))}
        </ul>
        <p className="mt-2 text-body text-soft">
          {entry.by}. It stays; what you tell here is put beside it, whole for each thing that you tell of.
        </p>
      </Sheet>
      <section aria-label="What was found" className="overflow-hidden rounded-xl bg-sheet">
        {groupsOf(heater.data, log.data.upkeep, guide.data.observations).map((group) => (
          <Told
            key={group.of}
            group={{ ...group, skips: null }}
            isTank={heater.data.is_tank}
            observations={guide.data.observations ?? []}
            answers={answers}
            rules={[]}
            usual={guide.data.usual_readings}
            units={units}
            onAnswer={(field, value) => setAnswers((before) => ({ ...before, [field]: value }))}
          />
        ))}
      </section>
      <Sheet title="Why">
        <div className="space-y-2">
          {WHYS.map((one) => (
            <Button
              key={one}
              aria-pressed={why === one}
              className={`min-h-12 w-full text-body ${why === one ? 'ring-2 ring-copper' : ''}`}
              onClick={() => setWhy(one)}
            >
              {one}
            </Button>
          ))}
        </div>
      </Sheet>
      {trouble && (
        <p role="alert" className="border-l-4 border-oxide pl-3 font-semibold text-oxide">
          {trouble}
        </p>
      )}
    </VisitShell>
  )
}
