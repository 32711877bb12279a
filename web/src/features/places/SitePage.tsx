import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { HeaterSign } from '../../drawing/HeaterSign'
import { dueWords, monthWords } from '../../lib/dates'
import { shown, type Units } from '../../lib/units'
import { COMPONENTS, KINDS, sentence } from '../../lib/words'
import { Button } from '../../ui/Button'
import { PageTitle } from '../../ui/PageTitle'
import type { Term as Name } from '../../lib/glossary'
import { Term } from '../../ui/Term'
import { Dialog } from '../../ui/Dialog'
import { Failed, Hazards, Loading } from '../../ui/States'
import { Attachments } from '../../records/Attachments'
import { SiteContract } from '../../records/SiteContract'
import { OpenEndList } from '../../records/OpenEndList'
import { NextVisit } from '../../records/NextVisit'
import { CustomerContact } from './CustomerContact'
import { CustomerForm, HandOver } from './CustomerForm'
import { FeatureForm } from './FeatureForm'
import { History } from '../../records/History'
import { siteOptions } from '../../records/placeQueries'
import { Pin } from './Pin'
import { SiteForm } from './SiteForm'

const GROUPS: [Schema['FeatureGroup'], string][] = [
  ['shut_off', 'Shut-offs'],
  ['drain', 'Drains and discharge'],
  ['flame', 'Gas, flame and air'],
  ['electric', 'Electric'],
  ['water', 'Water side'],
  ['surroundings', 'Around it'],
]

interface Asked {
  kind: Schema['FeatureKind']
  name: string
  heaterId: number | null
  feature?: Schema['FeatureOut']
}

export function SitePage() {
  const id = Number(useParams().siteId)
  const { data, error, refetch } = useQuery(siteOptions(id))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="this site" />
  return <Loaded page={data} />
}

function Loaded({ page }: { page: Schema['SitePageOut'] }) {
  const { site } = page
  const { units } = useCompany()
  const edits = useMay('edit_register')
  const records = useMay('record_place')
  const [asked, ask] = useState<Asked | null>(null)
  const [editing, setEditing] = useState(false)
  const [past, setPast] = useState(false)
  const [pinning, setPinning] = useState(false)
  const [customer, setCustomer] = useState<'' | 'edit' | 'hand over'>('')
  return (
    <div className="flex h-full flex-col">
      <div
        className={clsx(
          'flex min-h-[46px] shrink-0 items-center gap-4 border-b border-line px-5',
          'narrow:flex-wrap narrow:gap-y-1 narrow:px-3 narrow:py-2',
        )}
      >
        <PageTitle of={site.name} />
        <h1 className="text-title whitespace-nowrap">{site.name}</h1>
        <p className="wrap-break-word text-soft narrow:w-full narrow:whitespace-normal">
          {[site.street, [site.town, site.postcode].filter(Boolean).join(' ')].filter(Boolean).join(', ')}
          {site.located_by === 'town' && ' (on the map: only its town)'}
          {site.latitude === null && ' (not on the map)'} · {site.customer}
          {[site.phone, site.second_phone].filter(Boolean).map((phone) => (
            <span key={phone}>
              {' '}
              ·{' '}
              <a href={`tel:${phone}`} className="text-copper-deep underline underline-offset-2">
                {phone}
              </a>
            </span>
          ))}
        </p>
        <div className="flex-1" />
        <Button look="quiet" onClick={() => setPast(true)}>
          History
        </Button>
        <Button look="quiet" asChild>
          <Link to={`/sites/${site.id}/call`}>On the telephone</Link>
        </Button>
        {edits && (
          <Button look="quiet" onClick={() => setPinning(true)}>
            On the map
          </Button>
        )}
        {edits && (
          <Button className="min-h-8" onClick={() => setEditing(true)}>
            Edit site
          </Button>
        )}
      </div>
      <Hazards hazards={site.hazards} />
      <div
        className={clsx(
          'grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)_320px]',
          'max-[1100px]:grid-cols-[260px_minmax(0,1fr)] max-[1100px]:overflow-y-auto',
          'narrow:block narrow:overflow-visible',
        )}
      >
        <section
          aria-label="Heaters and use"
          className="overflow-y-auto border-r border-line px-5 py-3 narrow:border-r-0 narrow:px-3"
        >
          <h2>Next visit</h2>
          <div className="mt-1 mb-5">
            <NextVisit siteId={site.id} />
          </div>
          <h2>Heaters here</h2>
          <ul className="mt-1">
            {page.heaters.map((heater) => (
              <li key={heater.id}>
                <Link
                  to={`/heaters/${heater.id}`}
                  className="-mx-2 flex items-center gap-3 rounded px-2 py-1.5 hover:bg-sheet"
                >
                  <HeaterSign
                    kind={heater.kind}
                    depthShare={heater.depth_share}
                    anodeLeft={heater.anode_left}
                    height={34}
                  />
                  <span className="min-w-0">
                    <strong className="block wrap-break-word">{sentence(heater.location || KINDS[heater.kind])}</strong>
                    <span className="block text-fine text-soft">
                      {heater.tag} · {KINDS[heater.kind]}
                      {heater.bank && ` · ${heater.bank}`}
                    </span>
                    <NextWords heater={heater} />
                  </span>
                </Link>
              </li>
            ))}
            {page.heaters.length === 0 && <li className="text-soft">None on record.</li>}
          </ul>
          <h2 className="mt-5">Water and use</h2>
          <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5">
            {facts(site, units).map(([name, value]) => (
              <div key={name} className="contents">
                <dt className="text-soft">{TERMS[name] ? <Term name={TERMS[name]}>{name}</Term> : name}</dt>
                <dd className={value === 'not known' ? 'text-soft italic' : ''}>{value}</dd>
              </div>
            ))}
          </dl>
          <Link
            to={`/water/${site.zone_id}`}
            className="mt-2 inline-block text-copper-deep underline underline-offset-2"
          >
            Water of {site.zone}
          </Link>
          <h2 className="mt-5">Customer</h2>
          <SiteContract siteId={site.id} />
          {edits && (
            <p className="flex gap-4">
              <Button look="quiet" className="min-h-7 px-0!" onClick={() => setCustomer('edit')}>
                Change name or numbers
              </Button>
              <Button look="quiet" className="min-h-7 px-0!" onClick={() => setCustomer('hand over')}>
                Moved or sold
              </Button>
            </p>
          )}
          <CustomerContact customerId={site.customer_id} />
        </section>
        <section aria-label="What stands here" className="overflow-y-auto px-6 py-3 narrow:px-3">
          <Features page={page} onAsk={records ? ask : null} />
        </section>
        <section
          aria-label="Open issues"
          className={clsx(
            'overflow-y-auto border-l border-line bg-sheet px-5 py-3 max-[1100px]:col-span-2',
            'max-[1100px]:border-l-0 narrow:px-3',
          )}
        >
          <h2>Open issues</h2>
          <OpenEndList openEnds={page.open_ends} at={{ site_id: site.id }} />
          <h2 className="mt-5">Photographs and papers</h2>
          <Attachments of={{ site_id: site.id }} />
        </section>
      </div>
      <Dialog
        open={asked !== null}
        onOpenChange={(open) => !open && ask(null)}
        title={asked ? sentence(asked.name) : ''}
        wide
      >
        {asked && (
          <FeatureForm
            siteId={site.id}
            kind={asked.kind}
            heaterId={asked.heaterId}
            feature={asked.feature}
            onDone={() => ask(null)}
          />
        )}
      </Dialog>
      <Dialog open={editing} onOpenChange={setEditing} title={`Edit ${site.name}`} wide>
        <SiteForm site={site} onDone={() => setEditing(false)} />
      </Dialog>
      <Dialog
        open={customer !== ''}
        onOpenChange={() => setCustomer('')}
        title={customer === 'edit' ? `Edit ${site.customer}` : `Who has ${site.name} now?`}
      >
        {customer === 'edit' && <CustomerForm customerId={site.customer_id} onDone={() => setCustomer('')} />}
        {customer === 'hand over' && <HandOver siteId={site.id} onDone={() => setCustomer('')} />}
      </Dialog>
      <Dialog open={pinning} onOpenChange={setPinning} title={`Where ${site.name} is`}>
        <Pin siteId={site.id} onDone={() => setPinning(false)} />
      </Dialog>
      <Dialog open={past} onOpenChange={setPast} title={`History of ${site.name}`}>
        <History of="sites" id={site.id} />
      </Dialog>
    </div>
  )
}

function NextWords({ heater }: { heater: Schema['HeaterRowOut'] }) {
  const { today } = useCompany()
  if (!heater.next_component) return null
  return (
    <span className="block text-fine">
      {COMPONENTS[heater.next_component as Schema['Component']]}: {dueWords(heater.next_due_on, today)}
    </span>
  )
}

/** Everything that stands here, by what it is for; what nobody has looked at is offered below its group. */
function Features({ page, onAsk }: { page: Schema['SitePageOut']; onAsk: ((asked: Asked) => void) | null }) {
  const { today } = useCompany()
  const named = (heaterId: number | null) => {
    const heater = page.heaters.length > 1 ? page.heaters.find((one) => one.id === heaterId) : undefined
    return heater ? `, ${heater.location || heater.tag}` : ''
  }
  return (
    <div className="columns-2 gap-8 max-[1180px]:columns-1">
      {GROUPS.map(([group, title]) => {
        const seen = page.features.filter((one) => one.group === group)
        const unseen = page.unseen.filter((one) => one.group === group)
        if (seen.length + unseen.length === 0) return null
        return (
          <section key={group} className="mb-5 break-inside-avoid">
            <h2 className="border-b border-ink pb-1">{title}</h2>
            <ul>
              {seen.map((one) => (
                <li key={one.id} className="border-b border-line">
                  <Row
                    onClick={
                      onAsk && (() => onAsk({ kind: one.kind, name: one.name, heaterId: one.heater_id, feature: one }))
                    }
                  >
                    <span className="flex items-baseline justify-between gap-3">
                      <span>
                        <strong>{sentence(one.name)}</strong>
                        <span className="text-soft">
                          {[named(one.heater_id), one.form && `, ${one.form}`, one.where && `, ${one.where}`]
                            .filter(Boolean)
                            .join('')}
                        </span>
                      </span>
                      <span className="shrink-0 text-fine text-soft">
                        {monthWords(one.seen_on).slice(0, 3)} {one.seen_on.slice(0, 4)}
                      </span>
                    </span>
                    <span
                      className={clsx(
                        'block',
                        one.severity === 'danger'
                          ? 'font-semibold text-oxide'
                          : one.severity === 'defect'
                            ? 'font-semibold text-copper-deep'
                            : 'text-soft',
                      )}
                    >
                      {one.do_not_operate
                        ? `Don’t touch: ${one.condition_words}. Use ${one.use_instead || 'the next valve up'}.`
                        : one.condition_words}
                      {[...(one.more ?? []), one.note].filter(Boolean).map((more) => (
                        <span key={more} className="font-normal text-soft">
                          {' '}
                          · {more}
                        </span>
                      ))}
                      {one.seen_on < yearsAgo(today, 3) && (
                        <span className="font-normal text-soft"> · long not looked at</span>
                      )}
                    </span>
                  </Row>
                </li>
              ))}
            </ul>
            {unseen.length > 0 && (
              <p className="mt-1.5 leading-relaxed text-soft">
                Nobody has looked at:{' '}
                {unseen.map((one, at) => (
                  <span key={`${one.kind}${one.heater_id}`}>
                    {at > 0 && ', '}
                    {onAsk ? (
                      <button
                        type="button"
                        className="border-b border-dotted border-rule hover:text-copper-deep"
                        onClick={() => onAsk({ kind: one.kind, name: one.name, heaterId: one.heater_id })}
                      >
                        {one.name}
                        {named(one.heater_id)}
                      </button>
                    ) : (
                      one.name + named(one.heater_id)
                    )}
                  </span>
                ))}
              </p>
            )}
          </section>
        )
      })}
    </div>
  )
}

function Row({ onClick, children }: { onClick: (() => void) | null; children: React.ReactNode }) {
  const look = 'block w-full py-1.5 text-left'
  return onClick ? (
    <button type="button" className={`${look} hover:bg-sheet`} onClick={onClick}>
      {children}
    </button>
  ) : (
    <div className={look}>{children}</div>
  )
}

function yearsAgo(today: string, years: number): string {
  return `${Number(today.slice(0, 4)) - years}${today.slice(4)}`
}

const TERMS: Record<string, Name> = { Pressure: 'static pressure', System: 'closed system', Water: 'hardness' }

/** A measured figure says when; a said one, only what. */
function pressureWords(site: Schema['SiteOut'], units: Units): string {
  const words = shown(units, 'pressure_kpa', site.static_pressure_kpa!)
  return site.pressure_measured ? `${words}, measured ${monthWords(site.pressure_on!)}` : words
}

const SITE_DETAILS = { owner: 'Owner', tenant: 'Tenant or operator', pays: 'Paid by', approves: 'Approved by' }

function facts(site: Schema['SiteOut'], units: Units): [string, string][] {
  const unknown = 'not known'
  return [
    ['Water', site.zone + (site.softened ? ', softened' : '')],
    [
      'People',
      site.business ? `a ${site.business.replace('_', ' ')}` : site.people === null ? unknown : String(site.people),
    ],
    [
      'Hot water',
      site.hot_water_l_per_day === null
        ? 'estimated'
        : `${shown(units, 'volume_l', site.hot_water_l_per_day)} a day, metered`,
    ],
    ['Hot fixtures', site.fixtures === null ? unknown : String(site.fixtures)],
    ['Lived in', site.occupied_share === null ? 'all year' : `${Math.round(100 * site.occupied_share)} % of the year`],
    ['Pressure', site.static_pressure_kpa === null ? unknown : pressureWords(site, units)],
    ['System', site.closed_system === null ? 'open or closed: not known' : site.closed_system ? 'closed' : 'open'],
    ['Access', site.access || 'nothing noted'],
    ...(['owner', 'tenant', 'pays', 'approves'] as const).flatMap((name): [string, string][] =>
      site.details?.[name] ? [[SITE_DETAILS[name], String(site.details[name])]] : [],
    ),
  ]
}
