import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../../api/client'
import { duration } from '../../records/roundWords'
import { useCompany } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { againstWords, assumedWords, promiseWords, strayWords, verdictWords, WORK } from './hoursWords'
import { hoursOptions } from './queries'
import { ReviewNav } from './ReviewNav'
import { percent } from './words'

type Row = Schema['WorkHoursOut']

const minutes = (hours: number) => duration(Math.round(60 * hours))

/** How long visits take by what they took, and whether what was planned by it held. */
export function HoursPage() {
  const { today } = useCompany()
  const { data, error, refetch } = useQuery(hoursOptions)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">How long visits take</h1>
      <ReviewNav />
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the visits’ hours" />}
      {data && (
        <div className="min-h-0 flex-1 overflow-auto px-5 py-4">
          <div className="max-w-[1100px]">
            <h2 className="text-title">{verdictWords(data.held)}</h2>
            <p className="mt-1 max-w-[90ch]">
              {againstWords(data, today)} {strayWords(data.held)}
            </p>
            {data.learned_from > 0 && <p className="mt-1 text-soft">{assumedWords(data.assumed_held)}</p>}
            {data.promises.visits + data.promises.promised > 0 && (
              <p className="mt-1 max-w-[90ch]">{promiseWords(data.promises)}</p>
            )}
            <Parts rows={data.rows} visits={data.visits} />
          </div>
        </div>
      )}
    </div>
  )
}

function Parts({ rows, visits }: { rows: Row[]; visits: number }) {
  const most = Math.max(...rows.flatMap((row) => [row.assumed, row.high]))
  const place = (hours: number) => `${(100 * hours) / most}%`
  return (
    <table className="mt-5 w-full table-fixed border-collapse">
      <caption className="pb-2 text-left text-soft">
        Each visit to come is planned for the sum of its parts,{' '}
        {visits > 0 ? `as ${visits} visits of the last two years taught them` : 'as assumed, since none was timed yet'}.
        A visit that the guide led is timed by its taps, pauses of over an hour and a half left out.
      </caption>
      <thead>
        <tr className="border-b-2 border-line text-left text-soft">
          <th scope="col" className="w-72 py-1 font-normal narrow:w-auto">
            Part
          </th>
          <th scope="col" className="w-28 py-1 font-normal narrow:w-20">
            Planned for
          </th>
          <th scope="col" className="py-1 font-normal narrow:hidden">
            Where its mean lies, eight of ten sure <span aria-hidden>(│ as assumed)</span>
          </th>
          <th scope="col" className="w-28 py-1 text-right font-normal narrow:w-20">
            As assumed
          </th>
          <th scope="col" className="w-24 py-1 text-right font-normal narrow:hidden">
            Times
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.work} className="border-b border-line align-middle">
            <th scope="row" className="py-2 pr-4 text-left font-semibold">
              {WORK[row.work]}
              {row.share !== null && row.times > 0 && (
                <span className="block font-normal text-soft">needed at {percent(row.share)} of them</span>
              )}
            </th>
            <td className="py-2 font-bold">{minutes(row.learned)}</td>
            <td className="py-2 pr-6 narrow:hidden">
              <span className="relative block h-5" aria-hidden>
                <span className="absolute top-2 h-1 w-full bg-ground" />
                <span
                  className="absolute top-1 h-3 bg-water-pale"
                  style={{ left: place(row.low), width: place(row.high - row.low) }}
                />
                <span className="absolute top-0 h-5 w-px bg-ink" style={{ left: place(row.assumed) }} />
                <span
                  className="absolute top-1 -ml-1.5 size-3 rounded-full bg-water"
                  style={{ left: place(row.learned) }}
                />
              </span>
              <span className="sr-only">
                {minutes(row.low)} to {minutes(row.high)}
              </span>
            </td>
            <td className="py-2 text-right text-soft">{minutes(row.assumed)}</td>
            <td className="py-2 text-right narrow:hidden">{row.times}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
