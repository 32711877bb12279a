import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { max } from 'd3-array'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { useMay } from '../../session/session'
import { Empty, Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { KeptAt } from './KeptAt'
import { PracticePlot, PracticeSign } from './PracticePlot'
import { practicesOptions } from './queries'
import { ReviewNav } from './ReviewNav'
import { PRACTICES } from './words'

const SMALL = { width: 236, height: 168 }

/** Which practice on which water: every school tried on the company's own heaters. */
export function PracticesPage() {
  const { data, error, refetch } = useQuery(practicesOptions)
  const sets = useMay('set_practice')
  const [frame, size] = useSize()
  const [whole, ...waters] = data?.rows ?? []
  const most = mostOf(waters)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Which practice on which water?</h1>
      <ReviewNav />
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="every practice, computed on all heaters" />}
      {data && !whole && <Empty>No heater is on record yet. Bring them in under Register, Files.</Empty>}
      {data && whole && (
        <div className="flex min-h-0 flex-1 narrow:flex-col">
          <section aria-label="The whole base" className="flex min-w-0 flex-1 flex-col px-5 py-4">
            <p className="text-lead">{inShort(whole)}</p>
            <p className="mt-1 text-soft">
              If all {data.heaters} heaters followed one practice for twelve months
              {data.asked_of < data.heaters && `, answered for by ${data.asked_of} of them`}. Lower leaves fewer days
              over a limit, further left is less work. Relief valves and rods keep their caps in all of them.
              <KeptAt at={data.kept_at} />
            </p>
            <div ref={frame} className="mt-2 min-h-0 flex-1 narrow:h-[300px] narrow:flex-none">
              {size.width > 0 && (
                <PracticePlot row={whole} most={mostOf([whole])} width={size.width} height={size.height} named />
              )}
            </div>
          </section>
          <aside
            aria-label="Water by water"
            tabIndex={0}
            className={clsx(
              'w-[556px] shrink-0 overflow-y-auto border-l border-line bg-sheet p-5',
              'narrow:w-full narrow:border-l-0',
            )}
          >
            <Signs />
            <ul className="mt-3 grid grid-cols-2 gap-x-6 gap-y-3 narrow:grid-cols-1">
              {waters.map((row) => (
                <li key={row.zone_id} className="border-t border-line pt-1.5">
                  <Link to={`/water/${row.zone_id}`} className="font-bold text-copper-deep hover:underline">
                    {row.name}
                  </Link>
                  <span className="text-soft"> · {row.heaters === 1 ? '1 heater' : `${row.heaters} heaters`}</span>
                  <PracticePlot row={row} most={most} {...SMALL} />
                </li>
              ))}
            </ul>
            {sets && (
              <p className="mt-4 text-soft">
                A water’s own practice is set on its page, the company’s in the sentence above the{' '}
                <Link to="/outlook" className="text-copper-deep underline underline-offset-2">
                  Outlook
                </Link>
                .
              </p>
            )}
          </aside>
        </div>
      )}
    </div>
  )
}

function mostOf(rows: Schema['WaterPracticesOut'][]) {
  const figures = rows.flatMap((row) => row.practices)
  return { cleanings: max(figures, (one) => one.cleanings) ?? 1, over_days: max(figures, (one) => one.over_days) ?? 1 }
}

function Signs() {
  return (
    <ul aria-label="Signs" className="flex flex-wrap gap-x-4 gap-y-1 text-fine">
      {(Object.keys(PRACTICES) as Schema['Practice'][]).map((practice) => (
        <li key={practice} className="flex items-center gap-1.5">
          <svg width="14" height="14" viewBox="-7 -7 14 14" aria-hidden>
            <PracticeSign practice={practice} size={5} />
          </svg>
          {PRACTICES[practice].name}
        </li>
      ))}
      <li className="flex items-center gap-1.5">
        <svg width="18" height="18" viewBox="-9 -9 18 18" aria-hidden>
          <circle r="7.5" className="fill-none stroke-copper" strokeWidth="2" />
        </svg>
        followed now
      </li>
    </ul>
  )
}

/** The practice that is followed against the yearly one, or against going by risk where it is the yearly one. */
function inShort(row: Schema['WaterPracticesOut']) {
  const ours = row.practices.find((one) => one.practice === row.followed)
  const yearly = row.practices.find((one) => one.practice === (row.followed === 'annual' ? 'condition' : 'annual'))
  if (!ours || !yearly) return null
  return (
    <>
      {PRACTICES[ours.practice].sentence} makes <strong>{ours.cleanings.toFixed(1)}</strong> cleanings a heater and
      leaves <strong>{Math.round(ours.over_days)}</strong> days over its limit.
      {` ${PRACTICES[yearly.practice].sentence} makes `}
      <strong>{yearly.cleanings.toFixed(1)}</strong> and leaves <strong>{Math.round(yearly.over_days)}</strong>.
    </>
  )
}
