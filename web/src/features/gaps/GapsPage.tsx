import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { scaleSqrt } from 'd3-scale'
import { Link, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { spanWords } from '../../lib/dates'
import { Phrase } from '../../ui/Phrase'
import { Empty, Failed, Loading } from '../../ui/States'
import { RegisterNav } from '../../records/RegisterNav'
import { gapsOptions } from '../../records/heaterQueries'

const GAPS: Record<Schema['Gap'], { name: string; ask: string }> = {
  age: { name: 'its age', ask: 'Read the plate, or ask when it was put in' },
  flushes: { name: 'earlier flushes', ask: 'Ask who looked after it before, and when it was last flushed' },
  use: { name: 'how much hot water is used', ask: 'Ask how many people live there, or read the meter' },
  reading: { name: 'how much lies in it', ask: 'Measure what lies in it at the next visit' },
  water: { name: 'its water', ask: 'Test hardness and alkalinity at the cold tap' },
}

/** What nobody knows, by the days of uncertainty that knowing it would take away: whom to ring first. */
export function GapsPage() {
  const [address, setAddress] = useSearchParams()
  const kind = (address.get('kind') ?? '') as Schema['Gap'] | ''
  const { data, error, refetch } = useQuery(gapsOptions(kind || undefined))
  const longest = Math.max(1, ...(data?.rows.map((one) => one.days) ?? []))
  const width = scaleSqrt().domain([0, longest]).range([0, 100])
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">What is not known</h1>
      <RegisterNav />
      <p className="shrink-0 border-b border-line px-5 py-2 text-soft">
        Showing
        <Phrase
          label="Kind of gap"
          value={kind}
          options={[
            { value: '', label: 'everything that nobody knows' },
            ...Object.entries(GAPS).map(([value, gap]) => ({
              value,
              label: `${gap.name} (${data?.by_kind[value] ?? 0})`,
            })),
          ]}
          onChange={(value) => setAddress(value ? { kind: value } : {}, { replace: true })}
        />
        by what it is worth: so much narrower would the window of the next flush or descale be
      </p>
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="what is not known" />}
      {data?.rows.length === 0 && <Empty>Nothing that would narrow a window by a week is unknown.</Empty>}
      <ul className="min-h-0 flex-1 overflow-y-auto px-5" tabIndex={0} aria-label="Gaps">
        {data?.rows.map((one) => (
          <li
            key={one.id}
            className={clsx(
              'grid grid-cols-[minmax(14rem,1fr)_minmax(18rem,1.3fr)_minmax(12rem,1fr)_8rem]',
              'items-center gap-x-6 border-b border-line py-1.5',
            )}
          >
            <span className="min-w-0">
              <Link to={`/heaters/${one.heater_id}`} className="block font-bold hover:underline">
                {one.site}, {one.location}
              </Link>
              <span className="block text-fine text-soft">
                {one.street} · {one.tag}
              </span>
            </span>
            <span>{GAPS[one.kind].ask}</span>
            <span>
              <span className="block">
                <strong>{spanWords(one.days)}</strong> narrower
              </span>
              <span className="block h-1.5 bg-water" style={{ width: `${width(one.days)}%` }} />
            </span>
            <span className="text-right">
              {one.phone && (
                <a href={`tel:${one.phone}`} className="text-copper-deep underline underline-offset-2">
                  {one.phone}
                </a>
              )}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}
