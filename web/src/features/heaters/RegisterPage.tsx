import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import clsx from 'clsx'
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay, zonesOptions } from '../../session/session'
import { HeaterSign } from '../../drawing/HeaterSign'
import { counted } from '../../lib/counted'
import { dueWords, yearsBetween } from '../../lib/dates'
import { shown } from '../../lib/units'
import { COMPONENTS, KINDS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Phrase } from '../../ui/Phrase'
import { Empty, Failed, Loading } from '../../ui/States'
import { useAnnounce } from '../../ui/announce'
import { isNarrow } from '../../ui/narrow'
import { useLongRows } from '../../ui/useLongRows'
import { WhyPanel } from '../../records/WhyPanel'
import { BulkDialog } from './BulkDialog'
import { HeaterForm } from './HeaterForm'
import { registerOptions, type HeaterFilters } from '../../records/heaterQueries'
import { RegisterNav } from '../../records/RegisterNav'
import { Views } from '../../records/Views'

type Which = '' | 'guessed' | 'archived'
const WHICH: { value: Which; label: string }[] = [
  { value: '', label: 'in service' },
  { value: 'guessed', label: 'whose past is guessed' },
  { value: 'archived', label: 'in the archive' },
]
const ROW_HEIGHT = 46
const COLUMNS =
  'grid ' +
  'grid-cols-[minmax(13rem,1.6fr)_5.5rem_minmax(8.5rem,1fr)_minmax(7.5rem,1fr)_4rem_minmax(11rem,1fr)] ' +
  'items-center gap-x-4 narrow:grid-cols-[minmax(0,1fr)_8.5rem] narrow:px-3 ' +
  'narrow:[&>:nth-child(n+2):nth-child(-n+5)]:hidden'

export function RegisterPage() {
  const [address, setAddress] = useSearchParams()
  const navigate = useNavigate()
  const edits = useMay('edit_register')
  const which = (address.get('which') ?? '') as Which
  const [bulk, setBulk] = useState(false)
  const [adding, setAdding] = useState(false)
  const [words, setWords] = useState(address.get('q') ?? '')
  const asked = useDeferredValue(words.trim())
  const filters: HeaterFilters = {
    q: asked,
    ...(address.get('zone') ? { zone_id: Number(address.get('zone')) } : {}),
    ...(which === 'guessed' ? { guessed: true } : {}),
    ...(which === 'archived' ? { archived: true } : {}),
    ...(address.get('kind') ? { kind: address.get('kind') as Schema['HeaterKind'] } : {}),
  }
  const change = (name: string, value: string) =>
    setAddress(
      (now) => {
        if (value) now.set(name, value)
        else now.delete(name)
        return now
      },
      { replace: true },
    )
  useEffect(() => change('q', asked), [asked]) // eslint-disable-line react-hooks/exhaustive-deps
  const zones = useQuery(zonesOptions).data ?? []
  const found = useInfiniteQuery(registerOptions(filters))
  const rows = useMemo(() => found.data?.pages.flatMap((page) => page.rows) ?? [], [found.data])
  const total = found.data?.pages[0]?.total
  const chosen = rows.find((row) => row.id === Number(address.get('heater')))
  useAnnounce(total === undefined ? undefined : counted(total, 'heater'))
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Register</h1>
      <RegisterNav>
        {edits && (
          <Button look="main" className="min-h-8" onClick={() => setAdding(true)}>
            Add a heater
          </Button>
        )}
      </RegisterNav>
      <div
        className={clsx(
          'flex h-[42px] shrink-0 items-center border-b border-line px-5 text-soft',
          'narrow:h-auto narrow:flex-wrap narrow:px-3 narrow:py-1',
        )}
      >
        <p className="whitespace-nowrap narrow:whitespace-normal">
          Showing {total ?? ''}
          <Phrase
            label="Kind of heater"
            value={address.get('kind') ?? ''}
            options={[
              { value: '', label: 'heaters of all kinds' },
              ...Object.entries(KINDS).map(([value, name]) => ({ value, label: `${name} heaters` })),
            ]}
            onChange={(value) => change('kind', value)}
          />
          on
          <Phrase
            label="Zone"
            value={address.get('zone') ?? ''}
            options={[
              { value: '', label: 'every water' },
              ...zones.map((zone) => ({ value: String(zone.id), label: zone.name })),
            ]}
            onChange={(value) => change('zone', value)}
          />
          <Phrase label="Which ones" value={which} options={WHICH} onChange={(value) => change('which', value)} />
          with the words{' '}
          <input
            aria-label="Words to look for"
            value={words}
            onChange={(event) => setWords(event.target.value)}
            placeholder="any"
            className={clsx(
              'mx-1 w-44 border-b border-dotted border-ink bg-transparent px-1 font-bold text-ink',
              'placeholder:font-normal placeholder:text-soft',
            )}
          />
        </p>
        <div className="flex-1" />
        {edits && which !== 'archived' && total !== undefined && total > 0 && (
          <Button look="quiet" onClick={() => setBulk(true)}>
            Change all {total}
          </Button>
        )}
        <Button look="quiet" asChild>
          <a
            target="_blank"
            rel="noreferrer"
            href={`/api/labels.pdf?${new URLSearchParams(given(filters)).toString()}`}
          >
            Labels
          </a>
        </Button>
        <Views place="register" path="/register" query={address.toString()} />
      </div>
      {found.isPending && <Loading what="the register" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {found.data && rows.length === 0 && (
        <Empty>
          {asked || address.size
            ? 'No heater fits these words. Change the sentence above.'
            : 'No heater is on record yet. Add one, or bring in a file.'}
        </Empty>
      )}
      {rows.length > 0 && (
        <div className="flex min-h-0 flex-1">
          <Rows
            rows={rows}
            total={total ?? rows.length}
            chosen={chosen?.id}
            onChoose={(id) => (isNarrow() ? void navigate(`/heaters/${id}`) : change('heater', String(id)))}
            onNearEnd={() => {
              if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage()
            }}
          />
          {chosen && (
            <div className="w-[344px] shrink-0">
              <WhyPanel key={chosen.id} row={chosen} />
            </div>
          )}
        </div>
      )}
      {bulk && <BulkDialog filters={filters} total={total ?? 0} open={bulk} onOpenChange={setBulk} />}
      <Dialog open={adding} onOpenChange={setAdding} title="Add a heater" wide>
        <HeaterForm
          onCancel={() => setAdding(false)}
          onDone={(saved) => {
            setAdding(false)
            void navigate(`/heaters/${saved.id}`)
          }}
        />
      </Dialog>
    </div>
  )
}

/** The sentence as it stands in an address. */
function given(filters: HeaterFilters): Record<string, string> {
  return Object.fromEntries(Object.entries(filters).flatMap(([name, value]) => (value ? [[name, String(value)]] : [])))
}

interface RowsProps {
  rows: Schema['HeaterRowOut'][]
  total: number
  chosen: number | undefined
  onChoose: (id: number) => void
  onNearEnd: () => void
}

function Rows({ rows, total, chosen, onChoose, onNearEnd }: RowsProps) {
  const { today, units } = useCompany()
  const scroller = useRef<HTMLDivElement>(null)
  const { virtual, items, onKeyDown } = useLongRows(scroller, { count: rows.length, height: ROW_HEIGHT, onNearEnd })
  return (
    <div className="flex min-w-0 flex-1 flex-col">
      <div className={clsx(COLUMNS, 'border-b border-ink px-5 py-1.5 text-fine font-bold')}>
        <span>Heater and place</span>
        <span>Tag</span>
        <span>Kind</span>
        <span>Water</span>
        <span className="text-right">Age</span>
        <span>Next</span>
      </div>
      <div
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label="Heaters on record"
        aria-description="Arrows go from heater to heater."
        onKeyDown={onKeyDown}
        className="min-h-0 flex-1 overflow-y-auto narrow:h-[72dvh] narrow:flex-none"
      >
        <div role="list" aria-label="Heaters" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const row = rows[item.index]!
            const tank = row.kind.endsWith('_tank')
            return (
              <div
                key={row.id}
                ref={virtual.measureElement}
                data-index={item.index}
                role="listitem"
                aria-setsize={total}
                aria-posinset={item.index + 1}
                style={{ position: 'absolute', top: 0, left: 0, right: 0, transform: `translateY(${item.start}px)` }}
              >
                <button
                  type="button"
                  data-row={item.index}
                  aria-pressed={row.id === chosen}
                  onClick={() => onChoose(row.id)}
                  style={{ minHeight: ROW_HEIGHT }}
                  className={clsx(
                    COLUMNS,
                    'w-full border-b border-line px-5 text-left',
                    row.id === chosen ? 'bg-sheet shadow-[inset_4px_0_0_var(--color-copper)]' : 'hover:bg-sheet/60',
                  )}
                >
                  <span className="flex min-w-0 items-center gap-3">
                    <HeaterSign kind={row.kind} depthShare={row.depth_share} anodeLeft={row.anode_left} height={30} />
                    <span className="min-w-0">
                      <span className="block font-bold">
                        {row.hazard && (
                          <span className="text-oxide" title={row.hazard}>
                            <span aria-hidden>! </span>
                            <span className="sr-only">Hazard: {row.hazard} </span>
                          </span>
                        )}
                        {row.site}
                      </span>
                      <span className="block text-fine text-soft">
                        {row.street}
                        {row.location && `, ${row.location}`}
                      </span>
                    </span>
                  </span>
                  <span className="min-w-0 wrap-break-word">{row.tag}</span>
                  <span className="min-w-0 wrap-break-word">
                    {KINDS[row.kind]}
                    {tank && row.capacity_l !== null && `, ${shown(units, 'volume_l', row.capacity_l)}`}
                  </span>
                  <span className="min-w-0 wrap-break-word">{row.zone}</span>
                  <span className="text-right">
                    {row.installed_on
                      ? `${row.install_certainty === 'estimated' ? '~ ' : ''}${yearsBetween(row.installed_on, today)} y`
                      : 'not known'}
                  </span>
                  <span className="min-w-0 wrap-break-word">
                    {row.left_off ? (
                      <>
                        <strong className="block text-oxide">Left off</strong>
                        <span className="block text-fine text-soft">{row.left_off}</span>
                      </>
                    ) : row.next_component ? (
                      <>
                        <strong className="block">{COMPONENTS[row.next_component as Schema['Component']]}</strong>
                        <span className="block text-fine text-soft">{dueWords(row.next_due_on, today)}</span>
                      </>
                    ) : (
                      <span className="text-soft">no forecast yet</span>
                    )}
                  </span>
                </button>
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}
