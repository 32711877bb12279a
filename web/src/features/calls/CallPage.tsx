import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../api/client'
import { siteOptions } from '../../records/placeQueries'
import { siteVisitsOptions, usualCallsOptions } from '../../records/roundQueries'
import { useCompany, useMay } from '../../session/session'
import { dueWords } from '../../lib/dates'
import { COMPONENTS, KINDS, sentence } from '../../lib/words'
import { PageTitle } from '../../ui/PageTitle'
import { Failed, Hazards, Loading } from '../../ui/States'
import { FreeTimes } from './FreeTimes'
import { VisitToCome } from './VisitToCome'

/** Somebody rings: when we come, what is due and why, what is free, and what to say first. */
export function CallPage() {
  const id = Number(useParams().siteId)
  const site = useQuery(siteOptions(id))
  const visits = useQuery(siteVisitsOptions(id))
  const error = site.error ?? visits.error
  if (error) return <Failed error={error} onRetry={() => void Promise.all([site.refetch(), visits.refetch()])} />
  if (!site.data || !visits.data) return <Loading what="this customer" />
  return <Loaded page={site.data} visits={visits.data} />
}

function Loaded({ page, visits }: { page: Schema['SitePageOut']; visits: Schema['SiteVisitOut'][] }) {
  const { site } = page
  const plans = useMay('plan')
  const usual = useQuery(usualCallsOptions).data ?? []
  const [call, setCall] = useState('')
  const [chosen, choose] = useState<number | 'new'>(visits[0]?.id ?? 'new')
  const about = usual.find((one) => one.name === call)
  const one = visits.find((visit) => visit.id === chosen)
  const [prepare, setPrepare] = useState<string[]>([])
  return (
    <div className="flex h-full flex-col narrow:h-auto">
      <PageTitle of={`${site.name}, on the telephone`} />
      <div className="flex min-h-[46px] shrink-0 flex-wrap items-center gap-x-4 border-b border-line px-5">
        <h1 className="text-title">
          <Link to={`/sites/${site.id}`} className="hover:underline">
            {site.name}
          </Link>
        </h1>
        <p className="text-soft">
          {[site.street, site.town].filter(Boolean).join(', ')} · {site.customer}
          {[site.phone, site.second_phone].filter(Boolean).map((phone) => (
            <span key={phone}>
              {' · '}
              <a href={`tel:${phone}`} className="text-copper-deep underline underline-offset-2">
                {phone}
              </a>
            </span>
          ))}
        </p>
      </div>
      <Hazards hazards={site.hazards} />
      <div
        role="group"
        aria-label="What they ring for"
        className="flex shrink-0 flex-wrap gap-1.5 border-b border-line px-5 py-2"
      >
        {usual.map((each) => (
          <button
            key={each.name}
            type="button"
            aria-pressed={each.name === call}
            onClick={() => {
              setCall(each.name === call ? '' : each.name)
              if (each.reason && each.name !== call) choose('new')
            }}
            className={clsx(
              'min-h-8 rounded-md border px-2.5',
              each.is_urgent ? 'border-oxide text-oxide' : 'border-rule',
              each.name === call ? 'bg-ink text-ground' : 'bg-sheet',
            )}
          >
            {each.says}
          </button>
        ))}
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[320px_minmax(0,1fr)_320px] narrow:grid-cols-1">
        <section aria-label="When we come" className="overflow-y-auto border-r border-line px-5 py-3 narrow:border-r-0">
          <h2>When we come</h2>
          {visits.length === 0 && <p className="mt-1 text-soft">No visit is planned here.</p>}
          <ol className="mt-1 space-y-2">
            {visits.map((visit) => (
              <li key={visit.id}>
                <VisitToCome
                  key={visit.version}
                  one={visit}
                  isChosen={visit.id === chosen}
                  may={plans}
                  onChoose={() => choose(visit.id)}
                />
              </li>
            ))}
          </ol>
          <DueHere heaters={page.heaters} />
        </section>
        {plans ? (
          <FreeTimes
            key={`${chosen}-${one?.version ?? 0}-${call}`}
            siteId={site.id}
            one={one}
            call={about}
            approves={String(site.details?.approves ?? '')}
            onNew={() => choose('new')}
            onBooked={choose}
            onPrepare={setPrepare}
          />
        ) : (
          <p className="px-5 py-3 text-soft">Whoever plans the rounds books and moves visits.</p>
        )}
        <ToSay about={about} prepare={one ? one.prepare : prepare} site={site} />
      </div>
    </div>
  )
}

/** What is due at each heater, the soonest first. */
function DueHere({ heaters }: { heaters: Schema['HeaterRowOut'][] }) {
  const { today } = useCompany()
  return (
    <>
      <h2 className="mt-5">What is due</h2>
      <ul className="mt-1">
        {heaters.map((heater) => (
          <li key={heater.id} className="border-b border-line py-1">
            <Link to={`/heaters/${heater.id}`} className="block hover:underline">
              <strong>{sentence(heater.location || KINDS[heater.kind])}</strong>{' '}
              <span className="text-soft">
                {heater.tag} · {KINDS[heater.kind]}
              </span>
              <span className="block">
                {heater.next_component
                  ? `${COMPONENTS[heater.next_component as Schema['Component']]}: ` +
                    `${dueWords(heater.next_due_on, today)}; why`
                  : 'nothing yet; why'}
              </span>
            </Link>
          </li>
        ))}
        {heaters.length === 0 && <li className="text-soft">No heater on record.</li>}
      </ul>
    </>
  )
}

interface Say {
  about: Schema['UsualCallOut'] | undefined
  prepare: string[]
  site: Schema['SiteOut']
}

/** What is said first, what is asked, and what to prepare. */
function ToSay({ about, prepare, site }: Say) {
  const { today } = useCompany()
  return (
    <section
      aria-label="Say to them"
      aria-live="polite"
      className="overflow-y-auto border-l border-line bg-sheet px-5 py-3 narrow:border-l-0"
    >
      {about && (
        <div className={`mb-4 border-l-4 pl-3 ${about.is_urgent ? 'border-oxide' : 'border-water'}`}>
          <h2>{about.is_urgent ? 'Say at once' : 'Say first'}</h2>
          <ul className="list-disc pl-4">
            {about.first.map((line) => (
              <li key={line} className={about.is_urgent ? 'font-semibold' : ''}>
                {line}
              </li>
            ))}
          </ul>
          {about.ask.length > 0 && <h2 className="mt-2">Ask</h2>}
          {about.ask.map((line) => (
            <p key={line}>{line}</p>
          ))}
          {about.is_urgent && (
            <p className="mt-2">
              <Link
                to={{
                  pathname: '/rounds',
                  search: new URLSearchParams({ on: today, emergency: String(site.id), said: about.says }).toString(),
                }}
                className="font-semibold text-copper-deep underline underline-offset-2"
              >
                Somebody today: Emergency, on the board
              </Link>
            </p>
          )}
          {about.name === 'moved' && (
            <p className="mt-2">
              <Link to={`/sites/${site.id}`} className="font-semibold text-copper-deep underline underline-offset-2">
                Write down who is there now
              </Link>
            </p>
          )}
        </div>
      )}
      <h2>Before we come</h2>
      {prepare.length === 0 && <p className="text-soft">Nothing is to be prepared yet.</p>}
      <ul className="mt-1 list-disc pl-4">
        {prepare.map((line) => (
          <li key={line} className="mb-1">
            {line}
          </li>
        ))}
      </ul>
    </section>
  )
}
