import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Tabs } from 'radix-ui'
import { Link, useParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { Section } from '../../drawing/Section'
import { dateWords, dueWords, monthWords } from '../../lib/dates'
import { shown } from '../../lib/units'
import { ASKING, VERDICTS } from '../../lib/verdicts'
import { ENDS, KINDS, UPKEEP, sentence } from '../../lib/words'
import { Button } from '../../ui/Button'
import { PageTitle } from '../../ui/PageTitle'
import { Dialog } from '../../ui/Dialog'
import { Failed, Hazards, Loading } from '../../ui/States'
import { History } from '../../records/History'
import { NextVisit } from '../../records/NextVisit'
import { useSize } from '../../ui/useSize'
import { Due } from '../../records/WhyPanel'
import { ArchiveDialog } from './ArchiveDialog'
import { HeaterForm } from './HeaterForm'
import { HeaterLog } from './HeaterLog'
import { Parts } from './Parts'
import { Readings } from './Readings'
import { Place } from './Place'
import { heaterOptions, logOptions, useRestore } from '../../records/heaterQueries'
import { VisitsOnRecord } from '../../records/VisitsOnRecord'
import { TenYears } from './TenYears'
import { WhatIf } from './WhatIf'

export function HeaterPage() {
  const id = Number(useParams().heaterId)
  const heater = useQuery(heaterOptions(id))
  const log = useQuery(logOptions(id))
  const failed = heater.error ?? log.error
  if (failed) return <Failed error={failed} onRetry={() => void Promise.all([heater.refetch(), log.refetch()])} />
  if (!heater.data || !log.data) return <Loading what="this heater" />
  return <Loaded heater={heater.data} log={log.data} />
}

function Loaded({ heater, log }: { heater: Schema['HeaterOut']; log: Schema['LogOut'] }) {
  const { units } = useCompany()
  const records = useMay('record_visit')
  const edits = useMay('edit_register')
  const [editing, setEditing] = useState(false)
  const [leaving, setLeaving] = useState(false)
  const restore = useRestore(heater.id)
  const [frame, size] = useSize()
  return (
    <div className="flex h-full flex-col">
      <div
        className={clsx(
          'flex min-h-[46px] shrink-0 items-center gap-4 border-b border-line px-5',
          'narrow:flex-wrap narrow:gap-y-1 narrow:px-3 narrow:py-2',
        )}
      >
        <PageTitle of={`${heater.tag}, ${heater.site.name}`} />
        <h1 className="text-title whitespace-nowrap narrow:whitespace-normal">
          <Link to={`/sites/${heater.site.id}`} className="hover:underline">
            {heater.site.name}
          </Link>
          , {heater.location || KINDS[heater.kind]}
        </h1>
        <p className="wrap-break-word text-soft narrow:w-full narrow:whitespace-normal">{facts(heater, units)}</p>
        <div className="flex-1" />
        {edits && !heater.archived && (
          <Button look="quiet" onClick={() => setLeaving(true)}>
            Archive
          </Button>
        )}
        {edits && !heater.archived && (
          <Button className="min-h-8" onClick={() => setEditing(true)}>
            Edit
          </Button>
        )}
        {records && !heater.archived && (
          <Button look="main" className="min-h-8" asChild>
            <Link to={`/visit/${heater.id}`}>Record a visit</Link>
          </Button>
        )}
      </div>
      <Hazards hazards={heater.site.hazards} />
      {heater.archived && (
        <p className="flex shrink-0 items-center gap-3 border-b border-line bg-sheet px-5 py-1.5">
          <strong>Archived: not forecast, not planned.</strong> {ended(heater, log.today)} Its record is kept whole.
          {edits && (
            <Button look="quiet" disabled={restore.isPending} onClick={() => restore.mutate()}>
              Put it back in service
            </Button>
          )}
          {restore.error && (
            <span role="alert" className="text-oxide">
              {restore.error.message}
            </span>
          )}
        </p>
      )}
      <div
        className={clsx(
          'grid min-h-0 flex-1 grid-cols-[336px_minmax(0,1fr)_292px] grid-rows-[minmax(0,1fr)]',
          'max-[1200px]:grid-cols-[336px_minmax(0,1fr)] max-[1200px]:grid-rows-[auto_auto]',
          'max-[1200px]:overflow-y-auto narrow:flex narrow:flex-col narrow:overflow-visible',
        )}
      >
        <section
          aria-label="As we believe it is today"
          className="overflow-x-hidden overflow-y-auto border-r border-line px-1 pt-3"
        >
          <h2 className="px-4">{heater.archived ? 'As it was built' : 'As we believe it is today'}</h2>
          <p className="px-4 text-fine text-soft">
            {heater.is_tank
              ? 'to scale; deposit drawn four times as deep, pale where it may reach'
              : 'not to scale; ochre is scale on the wall'}
          </p>
          <Section heater={heater} forecasts={log.forecasts} units={units} height={440} />
          <Judgements judgements={log.judgements} />
        </section>
        <section
          aria-label="Log"
          className={clsx(
            'min-w-0 px-4 pt-3 max-[1200px]:sticky max-[1200px]:top-0 max-[1200px]:row-span-2',
            'max-[1200px]:h-[calc(100dvh-93px)] narrow:static narrow:order-last narrow:h-[520px]',
            'narrow:overflow-x-auto narrow:px-3',
          )}
        >
          <div ref={frame} className="h-full narrow:min-w-[620px]">
            {size.width > 0 && <HeaterLog log={log} units={units} width={size.width} height={size.height - 10} />}
          </div>
        </section>
        <Tabs.Root
          key={String(heater.archived)}
          defaultValue={heater.archived ? 'past' : 'due'}
          className="flex min-h-0 flex-col border-l border-line bg-sheet max-[1200px]:border-l-0 max-[1200px]:border-r"
        >
          <Tabs.List aria-label="About this heater" className="flex shrink-0 justify-between border-b border-line px-3">
            {!heater.archived && <Tab value="due">Due</Tab>}
            <Tab value="place">Place{heater.open_ends.length > 0 && ` ${heater.open_ends.length}`}</Tab>
            <Tab value="parts">Parts</Tab>
            {!heater.archived && <Tab value="what-if">What if</Tab>}
            <Tab value="past">History</Tab>
          </Tabs.List>
          <Panel value="due">
            <h2 className="sr-only">What is due, and why</h2>
            {heater.guessed.length > 0 && (
              <p className="mt-3 border-l-4 border-ochre pl-3 text-soft">
                Rests on a guess: {heater.guessed.join('; ')}.
              </p>
            )}
            {heater.note && <p className="mt-3 border-l-4 border-rule pl-3 text-soft">{heater.note}</p>}
            {!heater.archived && (
              <section aria-label="Next visit" className="mt-3">
                <NextVisit siteId={heater.site.id} />
              </section>
            )}
            <Due heaterId={heater.id} forecasts={log.forecasts} />
            <AlsoDue upkeep={log.upkeep} />
          </Panel>
          <Panel value="place">
            <Place heater={heater} />
          </Panel>
          <Panel value="parts">
            <Parts heater={heater} />
          </Panel>
          <Panel value="what-if">
            <WhatIf heater={heater} />
            {heater.is_tank && <TenYears heaterId={heater.id} />}
          </Panel>
          <Panel value="past">
            <VisitsOnRecord heaterId={heater.id} entries={log.entries} />
            <Readings readings={log.readings} until={log.today} units={units} />
            <div className="pt-3">
              <History of="heaters" id={heater.id} />
            </div>
          </Panel>
        </Tabs.Root>
      </div>
      <Dialog open={editing} onOpenChange={setEditing} title={`Edit ${heater.tag}`} wide>
        <HeaterForm heater={heater} onCancel={() => setEditing(false)} onDone={() => setEditing(false)} />
      </Dialog>
      <ArchiveDialog heater={heater} today={log.today} open={leaving} onOpenChange={setLeaving} />
    </div>
  )
}

function Tab({ value, children }: { value: string; children: React.ReactNode }) {
  return (
    <Tabs.Trigger
      value={value}
      className={clsx(
        'border-b-[3px] border-transparent px-1 pt-2.5 pb-1.5 text-soft hover:text-ink',
        'data-[state=active]:border-copper data-[state=active]:font-bold',
        'data-[state=active]:text-ink',
      )}
    >
      {children}
    </Tabs.Trigger>
  )
}

function Panel({ value, children }: { value: string; children: React.ReactNode }) {
  return (
    <Tabs.Content value={value} className="min-h-0 flex-1 overflow-y-auto px-4 pb-4">
      {children}
    </Tabs.Content>
  )
}

function facts(heater: Schema['HeaterOut'], units: Schema['CompanyOut']['units']): string {
  const said = [
    sentence(KINDS[heater.kind]),
    heater.is_tank && heater.capacity_l ? shown(units, 'volume_l', heater.capacity_l) : '',
    heater.installed_on
      ? `fitted ${heater.install_certainty === 'estimated' ? 'about ' : ''}${monthWords(heater.installed_on)}`
      : 'age not known',
    heater.site.zone + (heater.site.softened ? ', softened' : ''),
    heater.tag,
  ]
  return said.filter(Boolean).join(' · ')
}

/** What the company's rules of judgement say, those that ask for something first. */
export function Judgements({ judgements }: { judgements: Schema['JudgementOut'][] }) {
  const told = judgements.filter((one) => ASKING.has(one.verdict) && VERDICTS[one.verdict])
  if (told.length === 0) return null
  return (
    <ul className="space-y-3 mx-4 border-t border-line py-3">
      {told.map((one) => (
        <li key={one.rule}>
          <strong>{VERDICTS[one.verdict]}.</strong>{' '}
          <span className="text-soft">
            {sentence(one.because.join('; '))}.{one.ask_lead && ' Ask the lead.'}
            {one.licensed && ' Licensed work.'}
          </span>
        </li>
      ))}
    </ul>
  )
}

/** Screens, filters, sensors: what a visit does besides, with what its interval rests on. */
export function AlsoDue({ upkeep }: { upkeep: Schema['UpkeepOut'][] }) {
  const { today } = useCompany()
  if (upkeep.length === 0) return null
  return (
    <section className="mt-4 border-t border-line pt-3">
      <h3>Also on a visit</h3>
      <ul className="mt-1 space-y-1.5">
        {upkeep.map((one) => (
          <li key={one.item}>
            <strong>{UPKEEP[one.item].name}:</strong> {dueWords(one.due_on, today)}
            <span className="block text-fine text-soft">
              {one.because.join('; ')}: every {Math.round(one.interval_months)} months
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** Why and when it went, as far as anybody says. */
function ended(heater: Schema['HeaterOut'], today: string): string {
  if (!heater.ended_on || !heater.end_cause) return ''
  const after = heater.successor ? `, now ${heater.successor.tag}` : ''
  return `${sentence(ENDS[heater.end_cause as Schema['EndCause']])}, ${dateWords(heater.ended_on, today)}${after}.`
}
