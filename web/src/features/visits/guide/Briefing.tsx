import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { client, unwrap, type Schema } from '../../../api/client'
import { phrase } from '../../../lib/phrases'
import { useCompany, useMe } from '../../../session/session'
import { beginVisit, syncVisit } from '../../../device/eventLog'
import { clockIn, dateWords } from '../../../lib/dates'
import { shown, type Units } from '../../../lib/units'
import { COMPONENTS, UPKEEP, WORK } from '../../../lib/words'
import { Button } from '../../../ui/Button'
import { Failed, Hazard, Loading } from '../../../ui/States'
import { duration } from '../../../records/roundWords'
import { heaterOptions, logOptions } from '../../../records/heaterQueries'
import { BeforeYouStart } from '../BeforeYouStart'
import { Toggle } from '../controls'
import { guideOptions } from '../queries'
import { SiteHazards, Sheet, VisitShell } from '../VisitShell'
import { valueOf } from './Calculator'
import type { Step } from './interlock'
import { straight } from './straight'
import { begun, toCome } from './visit'

const toolsOf = (steps: Step[]) => [...new Set(steps.flatMap((step) => step.tool.split(', ').filter(Boolean)))]

/** What is carried for where something goes otherwise, with how likely it is wanted; the likeliest first. */
export function carriedInCase(
  guide: Pick<Schema['GuideOut'], 'procedures' | 'chances'>,
  steps: Step[],
): { tool: string; chance: number | null }[] {
  const names = new Set(steps.flatMap((step) => step.deviations.flatMap((one) => one.then)))
  const without = new Map<string, number | null>()
  for (const name of names) {
    const chance = guide.chances?.[name]
    for (const tool of toolsOf(guide.procedures[name]?.steps ?? [])) {
      const so = without.get(tool) ?? 1
      without.set(tool, chance === undefined ? (without.get(tool) ?? null) : so * (1 - chance))
    }
  }
  return [...without]
    .map(([tool, none]) => ({ tool, chance: none === null ? null : 1 - none }))
    .sort((a, b) => (b.chance ?? 0) - (a.chance ?? 0))
}

interface Props {
  id: number
  name: string
  hazards: string[]
}

/** Before the first step: what is to be done, how long it takes, what to carry. */
export function Briefing({ id, name, hazards }: Props) {
  const [chosen, setChosen] = useState<Schema['Component'][] | null>(null)
  const [asked, setExtras] = useState<Schema['Extra'][] | null>(null)
  const [complaint, setComplaint] = useState('')
  const { units, today } = useCompany()
  const me = useMe()
  const navigate = useNavigate()
  const { data, error, refetch, isPlaceholderData } = useQuery(guideOptions(id, chosen, asked ?? [], complaint))
  const log = useQuery(logOptions(id)).data
  const heater = useQuery(heaterOptions(id)).data
  const head = (
    <div className="flex items-baseline gap-3">
      <h1 className="min-w-0 flex-1 wrap-break-word text-title">{name}</h1>
      <Link to="/visit" className="min-h-11 px-1 py-3 text-body text-soft underline">
        Leave
      </Link>
    </div>
  )
  // What is on the device is enough, whatever became of asking for it anew.
  if (error && !data)
    return (
      <VisitShell head={head}>
        <Failed error={error} onRetry={() => void refetch()} />
      </VisitShell>
    )
  if (!data)
    return (
      <VisitShell head={head}>
        <Loading what="the steps" />
      </VisitShell>
    )
  const todo = data.components
  const extras = asked ?? (data.extras as Schema['Extra'][])
  const steps = toCome(data, begun(data)).map((at) => at.step)
  const tools = toolsOf(steps)
  const inCase = carriedInCase(data, steps).filter((one) => !tools.includes(one.tool))
  const usual = straight(data).map((at) => at.step)
  const minutes = usual.reduce((sum, step) => sum + minutesOf(step, data.figures), 0)
  const licensed = [
    ...new Set(
      steps
        .filter((step) => step.licence && data.facts[`licence_${step.licence}`] !== 'yes')
        .map((step) => step.licence),
    ),
  ]
  const work: Schema['Component'][] = todo.length > 0 ? todo : ['tank']
  const underSupervision = work.filter((one) => data.supervision?.includes(one))
  const toggle = (one: Schema['Component']) => {
    setExtras(extras)
    setChosen(todo.includes(one) ? todo.filter((other) => other !== one) : [...todo, one])
  }
  const label = heater ? `${heater.site.name}, ${heater.tag}` : name
  const begin = () => beginVisit(id, data, me.id, label)
  return (
    <VisitShell
      head={head}
      bar={
        <div className="space-y-2">
          {/* Begun beside one that is under way, it joins that; what was read of it may be old. */}
          <Button
            look={data.session ? 'plain' : 'main'}
            className="min-h-13 w-full text-lead"
            disabled={isPlaceholderData}
            onClick={() => void begin()}
          >
            Begin: {usual.length} steps, about {duration(5 * Math.ceil(minutes / 5))}
          </Button>
          <Button
            className="min-h-11 w-full text-body"
            disabled={isPlaceholderData}
            onClick={() => void begin().then(() => navigate(`/visit/${id}/close`))}
          >
            Record without the steps
          </Button>
        </div>
      }
    >
      <SiteHazards hazards={hazards} />
      {data.left_as && <Hazard>{data.left_as}</Hazard>}
      {licensed.map((one) => (
        <Hazard key={one}>Some steps are for somebody with a {one} license, which you do not hold.</Hazard>
      ))}
      {underSupervision.length > 0 && (
        <Hazard>
          Under supervision, until you are signed off: {underSupervision.map((one) => WORK[one]).join(', ')}.
        </Hazard>
      )}
      {log && todo.includes('sediment') && <OldTank judgements={log.judgements} />}
      {data.session && (
        <UnderWay
          session={data.session}
          onJoin={(guide) => beginVisit(id, guide, me.id, label, data.session!.client_id)}
          heaterId={id}
        />
      )}
      {(data.to_know ?? []).length > 0 && (
        <Sheet title="To know">
          <ul className="list-disc space-y-1 pl-5">
            {data.to_know?.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </Sheet>
      )}
      {heater && <BeforeYouStart heater={heater} />}
      {data.possible.length > 0 && (
        <Sheet title="To be done">
          <div className="space-y-2">
            {data.possible.map((one) => (
              <Toggle key={one} text={COMPONENTS[one]} on={todo.includes(one)} onToggle={() => toggle(one)} />
            ))}
          </div>
          <details className="mt-3 text-body">
            <summary className="min-h-11 cursor-pointer py-2.5 text-soft">
              Add a service{extras.length > 0 && `: ${extras.map((one) => EXTRAS[one].toLowerCase()).join(', ')}`}
            </summary>
            <div className="space-y-2">
              {(Object.keys(EXTRAS) as Schema['Extra'][])
                .filter((one) => one !== 'partial_drain' || data.facts.store === 'tank')
                .map((one) => (
                  <Toggle
                    key={one}
                    text={EXTRAS[one]}
                    on={extras.includes(one)}
                    onToggle={() => {
                      setChosen(todo)
                      setExtras(extras.includes(one) ? extras.filter((other) => other !== one) : [...extras, one])
                    }}
                  />
                ))}
            </div>
          </details>
          <details className="mt-1 text-body">
            <summary className="min-h-11 cursor-pointer py-2.5 text-soft">
              The customer complains
              {complaint &&
                `: ${complaints(data)
                  .find((one) => one.name === complaint)
                  ?.says.toLowerCase()}`}
            </summary>
            <div className="grid grid-cols-2 gap-2">
              {complaints(data).map((one) => (
                <Button
                  key={one.name}
                  aria-pressed={complaint === one.name}
                  className={clsx(
                    'min-h-12 px-2 whitespace-normal!',
                    complaint === one.name ? 'border-2 bg-ground' : 'font-normal',
                  )}
                  onClick={() => setComplaint(complaint === one.name ? '' : one.name)}
                >
                  {one.says}
                </Button>
              ))}
            </div>
          </details>
          {data.upkeep.length > 0 && (
            <p className="mt-3">
              And due to be cleaned: {data.upkeep.map((one) => UPKEEP[one].name.toLowerCase()).join(', ')}.
            </p>
          )}
          {todo.length === 0 && data.upkeep.length === 0 && (
            <p className="mt-3 text-soft">Nothing is due: the steps are to look, measure and hand over.</p>
          )}
        </Sheet>
      )}
      {log && <Expected log={log} units={units} today={today} />}
      {tools.length + data.parts.length > 0 && (
        <Sheet title="To carry">
          {tools.length > 0 && <p>{tools.join(', ')}.</p>}
          {inCase.length > 0 && (
            <details className="mt-1 text-body">
              <summary className="min-h-11 cursor-pointer py-2.5 text-soft">
                If it goes otherwise: {inCase.length} more
              </summary>
              <ul className="pb-1">
                {inCase.map((one) => (
                  <li key={one.tool} className="flex justify-between gap-3">
                    {one.tool}
                    {one.chance !== null && (
                      <span className="whitespace-nowrap text-soft">
                        {one.chance < 0.005 ? 'seldom' : `${Math.round(100 * one.chance)} in 100`}
                      </span>
                    )}
                  </li>
                ))}
              </ul>
            </details>
          )}
          {data.parts.length > 0 && (
            <ul className="mt-2 text-body">
              {data.parts.map((one) => (
                <li key={one.part} className="flex justify-between gap-3 border-t border-line py-1.5">
                  {phrase(one.part, units)}
                  <span className="whitespace-nowrap text-soft">
                    {one.probability >= 0.995 ? 'needed' : `${Math.round(100 * one.probability)} in 100`}
                  </span>
                </li>
              ))}
            </ul>
          )}
        </Sheet>
      )}
      {data.prepare.length > 0 && (
        <details className="rounded-xl bg-sheet">
          <summary className="min-h-13 cursor-pointer px-4 py-3.5 font-bold">
            What the customer was asked to prepare
          </summary>
          <ul className="list-disc px-4 pb-4 pl-9 text-body">
            {data.prepare.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </details>
      )}
    </VisitShell>
  )
}

const complaints = (guide: Schema['GuideOut']) => guide.found.filter((one) => one.name.startsWith('complaint_'))

const EXTRAS: Record<Schema['Extra'], string> = {
  pressure_test: 'Pressure and creep test',
  replace_valve: 'New relief valve',
  partial_drain: 'Drain a few gallons',
}

/** Somebody began here already, or on another device. */
function UnderWay({
  session: other,
  heaterId,
  onJoin,
}: {
  session: Schema['VisitSessionOut']
  heaterId: number
  onJoin: (guide: Schema['GuideOut']) => Promise<void>
}) {
  const { timezone } = useCompany()
  const [trouble, setTrouble] = useState('')
  const join = async () => {
    try {
      const guide = await unwrap(
        client.GET('/api/heaters/{heater_id}/guide', {
          params: { path: { heater_id: heaterId }, query: { component: other.components } },
        }),
      )
      await onJoin({ ...guide, components: other.components })
      await syncVisit(other.client_id)
    } catch (error) {
      setTrouble((error as Error).message)
    }
  }
  return (
    <Sheet title="A visit is under way here">
      <p>
        {other.by} began it {clockIn(timezone, other.at)}; {other.events} taps so far.
      </p>
      <Button look="main" className="mt-3 min-h-13 w-full" onClick={() => void join()}>
        Go on with it on this device
      </Button>
      {trouble && (
        <p role="alert" className="mt-2 text-oxide">
          {trouble}
        </p>
      )}
    </Sheet>
  )
}

/** Where this tank is better left alone or flushed gently, before anybody opens its drain. */
function OldTank({ judgements }: { judgements: Schema['JudgementOut'][] }) {
  const told = judgements.find((one) => one.rule === 'flush_or_leave' && one.verdict !== 'flush')
  if (!told) return null
  return (
    <Hazard>
      {told.verdict === 'leave_alone' ? 'Better left alone: ' : 'Gently: '}
      {told.because.join('; ')}.{told.ask_lead && ' Ask the lead first.'}
    </Hazard>
  )
}

/** What the forecast expects to be found, and what was found last. */
function Expected({ log, units, today }: { log: Schema['LogOut']; units: Units; today: string }) {
  const of = (component: Schema['Component'], state: string) =>
    log.forecasts.find((one) => one.component === component)?.state[state]?.p50
  const [depth, left, stuck] = [
    of('sediment', 'depth_mm'),
    of('anode', 'fraction_left'),
    of('relief_valve', 'probability_stuck'),
  ]
  const last = log.entries.at(-1)
  const lines = [
    depth !== undefined &&
      (depth < 1
        ? 'hardly any deposit on the floor'
        : `about ${shown(units, 'length_mm', depth)} of deposit on the floor`),
    left !== undefined && `about ${Math.round(100 * left)} % of the rod left`,
    stuck !== undefined && stuck >= 0.02 && `the relief valve stuck, in ${Math.round(100 * stuck)} of 100 such`,
    log.measure && 'this visit was drawn for a measurement: depth or thickness is asked for',
  ].filter(Boolean)
  if (lines.length === 0 && !last) return null
  return (
    <Sheet title="To expect">
      <ul className="list-disc pl-5">
        {lines.map((one) => (
          <li key={String(one)}>{one}</li>
        ))}
      </ul>
      {last && (
        <p className="mt-2 text-body text-soft">
          Last time, {dateWords(last.on, today)}, {last.by}:{' '}
          {last.lines
            .slice(0, 5)
            .map((one) => one.words)
            .join('; ')}
          .
        </p>
      )}
    </Sheet>
  )
}

/** Minutes of a step: as computed for this heater where that is, else as usual. */
export function minutesOf(step: Step, figures: Schema['FigureOut'][]): number {
  const figure = figures.find((one) => one.name === step.figure)
  const minutes = figure?.unit === 'min' && step.minutes > 0 ? valueOf(figure, {}) : step.minutes
  return Number.isFinite(minutes) ? minutes : step.minutes
}
