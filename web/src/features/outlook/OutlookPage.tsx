import clsx from 'clsx'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, zonesOptions } from '../../session/session'
import { counted } from '../../lib/counted'
import { addDays, day, isoDay, monthWords } from '../../lib/dates'
import { KINDS } from '../../lib/words'
import { Views } from '../../records/Views'
import { Phrase } from '../../ui/Phrase'
import { Empty, Failed, Loading } from '../../ui/States'
import { useAnnounce } from '../../ui/announce'
import { isNarrow } from '../../ui/narrow'
import { useLongRows } from '../../ui/useLongRows'
import { outlookAxis } from './axis'
import { HoursStrata, HoursTable, STRATA } from './HoursStrata'
import { LABEL_WIDTH, OutlookRow, ROW_HEIGHT } from './OutlookRow'
import { outlookOptions, trialOptions, weeksOptions, type OutlookFilters } from '../../records/outlookQueries'
import { PracticeWords, TrialStrip, type Tried } from './Trial'
import { WhyPanel } from '../../records/WhyPanel'

const STRATA_HEIGHT = 96
const NO_WEEKS: Schema['WeekOut'][] = []

export function OutlookPage() {
  const navigate = useNavigate()
  const { today, units, tolerance, practice } = useCompany()
  const [address, setAddress] = useSearchParams()
  const filters: OutlookFilters = {
    zone_id: Number(address.get('zone')) || undefined,
    kind: (address.get('kind') as Schema['HeaterKind'] | null) ?? undefined,
    until: address.get('until') ?? undefined,
    order: address.get('order') === 'benefit' ? 'benefit' : 'due',
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

  const found = useInfiniteQuery(outlookOptions(filters))
  const weeks = useQuery(weeksOptions(filters)).data ?? NO_WEEKS
  const tried: Tried = {
    practice: (address.get('practice') as Schema['Practice'] | null) ?? practice,
    tolerance: Number(address.get('risk')) || tolerance,
  }
  const isTrial = tried.practice !== practice || tried.tolerance !== tolerance
  const trial = useQuery({ ...trialOptions(tried), enabled: isTrial }).data
  const tryOut = (next: Tried | null) =>
    setAddress(
      (now) => {
        now.delete('practice')
        now.delete('risk')
        if (next && next.practice !== practice) now.set('practice', next.practice)
        if (next && next.tolerance !== tolerance) now.set('risk', String(next.tolerance))
        return now
      },
      { replace: true },
    )
  const rows = useMemo(() => found.data?.pages.flatMap((page) => page.rows) ?? [], [found.data])
  const panel = useRef<HTMLDivElement>(null)
  const total = found.data?.pages[0]?.total
  const chosen = rows.find((row) => row.id === Number(address.get('heater'))) ?? rows[0]
  useAnnounce(total === undefined ? undefined : counted(total, 'heater'))
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Outlook</h1>
      <Sentence
        filters={filters}
        total={total}
        tried={tried}
        onTry={tryOut}
        today={today}
        query={address.toString()}
        onChange={change}
      />
      {isTrial && <TrialStrip tried={tried} onBack={() => tryOut(null)} />}
      {found.isPending && <Loading what="the outlook" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {found.data && rows.length === 0 && (
        <Empty>Nothing falls due with these words. Widen the sentence above, or add heaters in the register.</Empty>
      )}
      {rows.length > 0 && (
        <div className="flex min-h-0 flex-1">
          <Field
            rows={rows}
            total={total ?? rows.length}
            weeks={isTrial && trial ? trial.tried.weeks : weeks}
            against={isTrial && trial ? trial.now.weeks : NO_WEEKS}
            today={today}
            units={units}
            chosen={chosen?.id}
            onChoose={(id, byKey) => {
              if (isNarrow()) return void navigate(`/heaters/${id}`)
              change('heater', String(id))
              // Who chose by a key goes on to what is told of it, and back by Escape.
              if (byKey) requestAnimationFrame(() => panel.current?.focus())
            }}
            onNearEnd={() => {
              if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage()
            }}
          />
          <div
            ref={panel}
            tabIndex={-1}
            role="group"
            aria-label="Why it is due"
            className={clsx(
              'w-[344px] shrink-0 outline-none',
              'narrow:hidden focus-visible:shadow-[inset_3px_0_0_var(--color-water)]',
            )}
            onKeyDown={(event) =>
              event.key === 'Escape' && document.querySelector<HTMLElement>('[data-row][aria-pressed=true]')?.focus()
            }
          >
            {chosen && <WhyPanel key={chosen.id} row={chosen} />}
          </div>
        </div>
      )}
    </div>
  )
}

interface SentenceProps {
  filters: OutlookFilters
  total: number | undefined
  tried: Tried
  onTry: (tried: Tried) => void
  today: string
  /** As it stands in the address, to keep it as a view. */
  query: string
  onChange: (name: string, value: string) => void
}

function Sentence({ filters, total, tried, onTry, today, query, onChange }: SentenceProps) {
  const zones = useQuery(zonesOptions).data ?? []
  const ends = [30, 91, 182, 365].map((days) => isoDay(addDays(today, days)))
  return (
    <div
      className={clsx(
        'flex min-h-[38px] shrink-0 flex-wrap items-center gap-y-1 border-b border-line px-5 text-soft',
        'narrow:py-1.5 narrow:px-3',
      )}
    >
      <p className="whitespace-nowrap narrow:whitespace-normal">
        Showing {total === undefined ? '' : total}
        <Phrase
          label="Kind of heater"
          value={filters.kind ?? ''}
          options={[
            { value: '', label: 'heaters of all kinds' },
            ...Object.entries(KINDS).map(([value, name]) => ({ value, label: `${name} heaters` })),
          ]}
          onChange={(value) => onChange('kind', value)}
        />
        on
        <Phrase
          label="Zone"
          value={filters.zone_id ? String(filters.zone_id) : ''}
          options={[
            { value: '', label: 'every water' },
            ...zones.map((zone) => ({ value: String(zone.id), label: zone.name })),
          ]}
          onChange={(value) => onChange('zone', value)}
        />
        , due
        <Phrase
          label="Until when"
          value={filters.until ?? ''}
          options={[
            { value: '', label: 'at any time' },
            ...ends.map((end, at) => ({
              value: end,
              label: ['within a month', 'within three months', 'within half a year', 'within a year'][at]!,
            })),
            ...(filters.until && !ends.includes(filters.until)
              ? [{ value: filters.until, label: `until ${monthWords(filters.until)}` }]
              : []),
          ]}
          onChange={(value) => onChange('until', value)}
        />
        , first
        <Phrase
          label="Order"
          value={filters.order}
          options={[
            { value: 'due', label: 'what is due first' },
            { value: 'benefit', label: 'where a visit is worth most' },
          ]}
          onChange={(value) => onChange('order', value)}
        />
        . <PracticeWords tried={tried} onTry={onTry} />
      </p>
      <div className="flex-1" />
      <Views place="outlook" path="/outlook" query={query} />
    </div>
  )
}

interface FieldProps {
  rows: Schema['OutlookRowOut'][]
  total: number
  weeks: Schema['WeekOut'][]
  /** As it is set, where another practice is tried. */
  against: Schema['WeekOut'][]
  today: string
  units: Schema['CompanyOut']['units']
  chosen: number | undefined
  onChoose: (id: number, byKey: boolean) => void
  onNearEnd: () => void
}

/** The axis with its strata above and a row a heater below; only the rows in view are drawn. */
function Field({ rows, total, weeks, against, today, units, chosen, onChoose, onNearEnd }: FieldProps) {
  const scroller = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(600)
  useLayoutEffect(() => {
    const element = scroller.current
    if (!element) return
    const observer = new ResizeObserver(() => setWidth(Math.max(element.clientWidth - LABEL_WIDTH, 320)))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  const axis = useMemo(() => outlookAxis(today, width), [today, width])
  const { virtual, items, onKeyDown } = useLongRows(scroller, { count: rows.length, height: ROW_HEIGHT, onNearEnd })
  return (
    <div className="flex min-w-0 flex-1 flex-col narrow:overflow-x-auto">
      <div className="flex shrink-0 narrow:min-w-[640px]">
        <div className="shrink-0 px-5 pt-3" style={{ width: LABEL_WIDTH }}>
          <h2 className="mb-1 font-bold">Hours falling due, by week</h2>
          <ul className="grid grid-cols-2 gap-x-3 text-fine text-soft">
            {STRATA.map((one) => (
              <li key={one.component} className="flex items-center gap-2">
                <svg width="14" height="9" aria-hidden>
                  <rect width="14" height="9" className={one.fill} />
                </svg>
                {one.name}
              </li>
            ))}
            <li className="flex items-center gap-2">
              <svg width="14" height="10" aria-hidden>
                <circle cx="7" cy="5" r="3.4" className="fill-sheet stroke-copper" strokeWidth="2" />
              </svg>
              our date
            </li>
            <li className="flex items-center gap-2">
              <svg width="14" height="10" aria-hidden>
                <rect x="3" y="1" width="8" height="8" className="fill-sheet stroke-water" strokeWidth="2" />
              </svg>
              new heater advised
            </li>
            <li className="flex items-center gap-2">
              <svg width="14" height="10" aria-hidden>
                <path d="M3 5l6-4v8z" className="fill-copper" />
              </svg>
              overdue
            </li>
            <li className="flex items-center gap-2">
              <svg width="14" height="10" aria-hidden>
                <rect
                  x="0.5"
                  y="1.5"
                  width="13"
                  height="7"
                  className="fill-ochre/25 stroke-ochre"
                  strokeDasharray="2 2"
                />
              </svg>
              estimated
            </li>
          </ul>
        </div>
        <HoursTable weeks={weeks} today={today} end={axis.end} />
        <svg width={width} height={STRATA_HEIGHT + 22} role="img" aria-label="Hours of work falling due by week">
          <HoursStrata weeks={weeks} against={against} today={today} axis={axis} height={STRATA_HEIGHT} />
          <line
            x1={axis.x(day(today))}
            x2={axis.x(day(today))}
            y1={4}
            y2={STRATA_HEIGHT + 22}
            className="stroke-water"
            strokeWidth="1.5"
          />
          <text x={axis.x(day(today)) - 5} y={14} textAnchor="end" className="fill-water text-[11px] font-bold">
            today
          </text>
          {axis.months.map((month) => (
            <g key={month.at} transform={`translate(${axis.x(month.at)} ${STRATA_HEIGHT})`}>
              <line y2={22} className="stroke-line" strokeWidth={month.isJanuary ? 1.6 : 0.7} />
              {axis.x(month.at) < width - 30 && (
                <text x={4} y={15} className="fill-soft text-[11px]">
                  {month.label}
                </text>
              )}
            </g>
          ))}
        </svg>
      </div>
      <div
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label="Heaters by urgency"
        aria-description="Arrows go from heater to heater, Enter tells why it is due."
        onKeyDown={onKeyDown}
        className={clsx(
          'min-h-0 flex-1 overflow-y-auto border-t border-line',
          'narrow:h-[60dvh] narrow:min-w-[640px] narrow:flex-none',
        )}
      >
        <div role="list" aria-label="Heaters" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const row = rows[item.index]!
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
                <OutlookRow
                  row={row}
                  number={item.index}
                  axis={axis}
                  today={today}
                  units={units}
                  chosen={row.id === chosen}
                  onChoose={onChoose}
                />
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}
