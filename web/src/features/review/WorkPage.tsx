import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../../api/client'
import { Failed, Loading } from '../../ui/States'
import { workOptions } from './queries'
import { ReviewNav } from './ReviewNav'

const KINDS: [keyof Omit<Schema['WorkYearOut'], 'year' | 'so_far'>, string][] = [
  ['visits', 'Visits'],
  ['heaters', 'Heaters visited'],
  ['emergencies', 'Emergency calls'],
  ['flushes', 'Flushes'],
  ['descales', 'Descales'],
  ['rods', 'Rods fitted'],
  ['relief_valves', 'Relief valves fitted'],
  ['expansion_tanks', 'Expansion tanks fitted'],
  ['other_parts', 'Other parts fitted'],
  ['open_issues', 'Open issues raised'],
]

/** What the work was in each of the last years, kind by kind, each drawn against its own best year. */
export function WorkPage() {
  const { data, error, refetch } = useQuery(workOptions)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Work by year</h1>
      <ReviewNav />
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the years" />}
      {data && (
        <div className="min-h-0 flex-1 overflow-auto px-5 py-4">
          <table className="w-full max-w-[1100px] table-fixed border-collapse">
            <caption className="pb-2 text-left text-soft">
              Each bar is against the most of its own row; this year is not over. What is ahead stands under Outlook and
              Tanks near their end.
            </caption>
            <thead>
              <tr className="border-b-2 border-line text-left">
                <th className="w-48 py-1 font-normal text-soft">Kind</th>
                {data.map((one) => (
                  <th key={one.year} scope="col" className="py-1 pr-4">
                    {one.year}
                    {one.so_far && <span className="font-normal text-soft"> so far</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {KINDS.map(([kind, words]) => {
                const most = Math.max(1, ...data.map((one) => one[kind]))
                return (
                  <tr key={kind} className="border-b border-line">
                    <th scope="row" className="py-2 pr-4 text-left font-semibold">
                      {words}
                    </th>
                    {data.map((one) => (
                      <td key={one.year} className="py-2 pr-4">
                        <span className="block h-2 bg-ground">
                          <span
                            className={`block h-2 ${one.so_far ? 'bg-ochre' : 'bg-water'}`}
                            style={{ width: `${(100 * one[kind]) / most}%` }}
                          />
                        </span>
                        {one[kind]}
                      </td>
                    ))}
                  </tr>
                )
              })}
            </tbody>
          </table>
        </div>
      )}
    </div>
  )
}
