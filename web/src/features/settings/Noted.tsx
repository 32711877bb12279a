import { useQuery } from '@tanstack/react-query'

import { clockIn, dateWords, dayIn } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { notedOptions } from './queries'

/** Who came in from where, and who took records out. */
export function Noted() {
  const { today, timezone } = useCompany()
  const { data } = useQuery(notedOptions)
  if (!data?.length) return null
  return (
    <section aria-labelledby="noted">
      <h2 id="noted" className="text-lead font-bold">
        Who came in, and who took what out
      </h2>
      <table className="mt-2 w-full border-collapse">
        <thead className="text-left text-fine text-soft">
          <tr>
            <th className="py-1 font-normal">When</th>
            <th className="font-normal">Who</th>
            <th className="font-normal">What</th>
            <th className="font-normal">From</th>
          </tr>
        </thead>
        <tbody>
          {data.map((one, at) => (
            <tr key={at} className="border-t border-line align-baseline">
              <td className="py-1.5 pr-4 whitespace-nowrap tabular-nums">
                {dateWords(dayIn(timezone, one.at), today)}, {clockIn(timezone, one.at)}
              </td>
              <td className="pr-4">{one.name || 'nobody'}</td>
              <td className={`pr-4 ${one.deed === 'not_signed_in' ? 'font-semibold text-ochre-deep' : ''}`}>
                {one.says}
                {one.about && one.deed !== 'signed_in' && <span className="font-normal text-soft">: {one.about}</span>}
              </td>
              <td className="text-soft tabular-nums">{one.address}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
