import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import { ApiError, type Schema } from '../../api/client'
import { useMay } from '../../session/session'
import { counted } from '../../lib/counted'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'
import { Phrase } from '../../ui/Phrase'
import { Empty, Failed, Loading } from '../../ui/States'
import { useAnnounce } from '../../ui/announce'
import { useRows } from '../../ui/useRows'
import { equipmentOptions } from '../../records/heaterQueries'
import { RegisterNav } from '../../records/RegisterNav'
import { Moves, OPEN_END_KINDS, OpenEndLines, SEVERITIES } from '../../records/OpenEndList'
import {
  buildsOptions,
  campaignsOptions,
  openEndsOptions,
  useEndCampaign,
  useStartCampaign,
} from '../../records/openEndQueries'

/** Everything that is not in order, the worst first, until somebody closes it. */
export function OpenEndsPage() {
  const [address, setAddress] = useSearchParams()
  const [starting, setStarting] = useState(false)
  const edits = useMay('edit_register')
  const records = useMay('record_place')
  const filters = Object.fromEntries(address) as {
    state?: Schema['OpenEndState']
    severity?: Schema['Severity']
    kind?: Schema['OpenEndKind']
  }
  const { data, error, refetch } = useQuery(openEndsOptions(filters))
  useAnnounce(data && counted(data.total, 'open issue'))
  const list = useRef<HTMLUListElement>(null)
  const onKeyDown = useRows(list, { count: data?.rows.length ?? 0 })
  const change = (name: string, value: string) =>
    setAddress(
      (now) => {
        if (value) now.set(name, value)
        else now.delete(name)
        return now
      },
      { replace: true },
    )
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Open issues</h1>
      <RegisterNav>
        {edits && (
          <Button className="min-h-8" onClick={() => setStarting(true)}>
            Start a campaign
          </Button>
        )}
      </RegisterNav>
      <div
        className={clsx(
          'grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_340px] max-[1100px]:grid-cols-1',
          'max-[1100px]:overflow-y-auto',
        )}
      >
        <section aria-label="List" className="flex min-h-0 flex-col">
          <p className="shrink-0 border-b border-line px-5 py-2 text-soft">
            {data ? data.total : ''}
            <Phrase
              label="State"
              value={filters.state ?? ''}
              options={[
                { value: '', label: 'not closed' },
                { value: 'open', label: 'open, nothing arranged' },
                { value: 'arranged', label: 'arranged' },
                { value: 'closed', label: 'closed' },
              ]}
              onChange={(value) => change('state', value)}
            />
            of
            <Phrase
              label="Severity"
              value={filters.severity ?? ''}
              options={[
                { value: '', label: 'any severity' },
                ...Object.entries(SEVERITIES).map(([value, label]) => ({ value, label })),
              ]}
              onChange={(value) => change('severity', value)}
            />
            and
            <Phrase
              label="Kind"
              value={filters.kind ?? ''}
              options={[
                { value: '', label: 'every kind' },
                ...Object.entries(OPEN_END_KINDS).map(([value, label]) => ({ value, label })),
              ]}
              onChange={(value) => change('kind', value)}
            />
          </p>
          {error && <Failed error={error} onRetry={() => void refetch()} />}
          {!data && !error && <Loading what="open issues" />}
          {data?.rows.length === 0 && <Empty>Nothing fits this sentence. All of it is closed, or never was.</Empty>}
          <ul
            ref={list}
            className="min-h-0 flex-1 overflow-y-auto px-5"
            tabIndex={0}
            aria-label="Open issues"
            aria-description="Arrows go from issue to issue."
            onKeyDown={onKeyDown}
          >
            {data?.rows.map((one, number) => (
              <li
                key={one.id}
                data-row={number}
                className="grid grid-cols-[minmax(0,1fr)_13rem_auto] items-center gap-x-6 border-b border-line py-1.5"
              >
                <div
                  className={clsx(
                    'border-l-4 pl-3',
                    one.severity === 'danger'
                      ? 'border-oxide'
                      : one.severity === 'defect'
                        ? 'border-copper'
                        : 'border-rule',
                  )}
                >
                  <OpenEndLines one={one} withHeater={false} />
                </div>
                <p className="min-w-0 leading-snug">
                  <Link
                    to={one.heater_id ? `/heaters/${one.heater_id}` : `/sites/${one.site_id}`}
                    className="block font-bold hover:underline"
                  >
                    {one.site}
                  </Link>
                  <span className="block text-fine text-soft">
                    {[one.street, one.location].filter(Boolean).join(', ')}
                  </span>
                </p>
                {records ? <Moves one={one} /> : <span />}
              </li>
            ))}
          </ul>
        </section>
        <section
          aria-label="Campaigns and failures"
          className="overflow-y-auto border-l border-line bg-sheet px-5 py-3 max-[1100px]:border-l-0"
        >
          <Campaigns edits={edits} />
          <Builds />
        </section>
      </div>
      <Dialog
        open={starting}
        onOpenChange={setStarting}
        title="Start a campaign"
        description="A build of a part is in doubt: every heater that may have it gets an open issue."
        wide
      >
        <CampaignForm onDone={() => setStarting(false)} />
      </Dialog>
    </div>
  )
}

function Campaigns({ edits }: { edits: boolean }) {
  const campaigns = useQuery(campaignsOptions).data ?? []
  const end = useEndCampaign()
  return (
    <>
      <h2>Campaigns</h2>
      <ul className="mt-1 space-y-3">
        {campaigns.map((one) => (
          <li key={one.id} className={one.closed ? 'text-soft' : ''}>
            <strong>{one.name}</strong>
            <span className="block text-soft">
              {[one.part, one.build && `as ${one.build}`, (one.maker || one.model) && `of ${one.maker} ${one.model}`]
                .filter(Boolean)
                .join(' ')}
            </span>
            <span className="block text-soft">
              In doubt if {one.doubtful_look}
              {one.sound_look && `; improved if ${one.sound_look}`}.
            </span>
            <span className="block">
              {one.closed ? 'over' : `${one.to_do} of ${one.heaters} heaters still to see`}
              {edits && (
                <a
                  href={`/api/campaigns/${one.id}.csv`}
                  download
                  className="ml-2 text-copper-deep underline underline-offset-2"
                >
                  For the maker
                </a>
              )}
              {edits && !one.closed && (
                <Button look="quiet" className="min-h-6" disabled={end.isPending} onClick={() => end.mutate(one.id)}>
                  End it
                </Button>
              )}
            </span>
          </li>
        ))}
        {campaigns.length === 0 && (
          <li className="text-soft">None. Start one when a build of a part turns out doubtful.</li>
        )}
      </ul>
    </>
  )
}

/**
 * Which builds fail more than all together: the length of the line is what was counted, the notch what was to expect.
 */
function Builds() {
  const builds = (useQuery(buildsOptions).data ?? []).slice(0, 12)
  const most = Math.max(1, ...builds.map((one) => Math.max(one.failures, one.expected)))
  return (
    <>
      <h2 className="mt-6">Failures by part and build</h2>
      <p className="text-fine text-soft">heaters that showed one; the notch is what all builds together would show</p>
      <ul className="mt-2 space-y-2">
        {builds.map((one) => (
          <li key={`${one.part}${one.maker}${one.model}`}>
            <span className="flex justify-between gap-2">
              <span>
                {one.part},{' '}
                <strong>
                  {one.maker} {one.model}
                </strong>
              </span>
              <span className="shrink-0 text-soft">
                {one.failures} of {one.heaters}
              </span>
            </span>
            <svg width="100%" height="8" aria-hidden className="block">
              <rect
                x="0"
                y="2"
                height="4"
                width={`${(100 * one.failures) / most}%`}
                className={one.failures > 1.5 * one.expected ? 'fill-copper' : 'fill-ash'}
              />
              <rect x={`${(100 * one.expected) / most}%`} y="0" width="2" height="8" className="fill-ink" />
            </svg>
          </li>
        ))}
        {builds.length === 0 && <li className="text-soft">No failure is on record.</li>}
      </ul>
    </>
  )
}

function CampaignForm({ onDone }: { onDone: () => void }) {
  const start = useStartCampaign()
  const [typed, setTyped] = useState({
    name: '',
    part: '',
    maker: '',
    model: '',
    part_kind: '',
    build: '',
    installed_from: '',
    installed_until: '',
    doubtful_look: '',
    sound_look: '',
    severity: 'defect',
  })
  const kinds = [...new Set((useQuery(equipmentOptions).data ?? []).flatMap((one) => one.parts))].sort()
  const faults = start.error instanceof ApiError ? start.error.fields : {}
  const set = (name: keyof typeof typed) => ({
    value: typed[name],
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
    fault: faults[name],
  })
  return (
    <form
      className="mt-4 space-y-3"
      onSubmit={(event) => {
        event.preventDefault()
        start.mutate(
          {
            ...typed,
            part_kind: (typed.part_kind || null) as Schema['PartKind'] | null,
            severity: typed.severity as Schema['Severity'],
            installed_from: typed.installed_from || null,
            installed_until: typed.installed_until || null,
          },
          { onSuccess: onDone },
        )
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <Field label="Name" needed {...set('name')} />
        <Field label="Which part" placeholder="mixing valve" {...set('part')} />
        <Field label="Heaters of the maker" hint="or the part’s kind and build" {...set('maker')} />
        <Field label="Model" hint="empty: all of the maker" {...set('model')} />
        <Choice label="Kind of part on record" {...set('part_kind')}>
          <option value="">not by the part</option>
          {kinds.map((one) => (
            <option key={one} value={one}>
              {one.replaceAll('_', ' ')}
            </option>
          ))}
        </Choice>
        <Field label="Build of the part" hint="any of its words" placeholder="black actuator" {...set('build')} />
        <Field label="Installed from" type="date" hint="empty: any year" {...set('installed_from')} />
        <Field label="Installed until" type="date" {...set('installed_until')} />
        <Field label="How the doubtful build looks" {...set('doubtful_look')} />
        <Field label="How the improved one looks" {...set('sound_look')} />
        <Choice label="How bad" {...set('severity')}>
          {Object.entries(SEVERITIES).map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </Choice>
      </div>
      {start.error && (
        <p role="alert" className="font-semibold text-oxide">
          {start.error.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="main" type="submit" disabled={start.isPending}>
          Start it
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
