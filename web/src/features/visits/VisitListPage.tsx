import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'

import { useCompany, useMe } from '../../session/session'
import { useUnderWay } from '../../device/eventLog'
import { HeaterSign } from '../../drawing/HeaterSign'
import { day, dueWords, shortDate } from '../../lib/dates'
import { weekday } from '../../records/roundWords'
import { COMPONENTS, KINDS, ROLES } from '../../lib/words'
import { Failed, Loading } from '../../ui/States'
import { MyRound } from './day/MyRound'
import { TagScanner } from './day/TagScanner'
import { dueSoonOptions } from './queries'
import { UnderWayHere } from './SetAside'
import { VisitShell } from './VisitShell'

/** Which heater am I at? The most pressing first, or by its name, street or tag. */
export function VisitListPage() {
  const me = useMe()
  const { today } = useCompany()
  const underWay = useUnderWay(me.id)
  const [words, setWords] = useState('')
  const { data, error, isPending, refetch } = useQuery(dueSoonOptions(useDeferredValue(words.trim())))
  return (
    <VisitShell
      title="My day"
      head={
        <div className="flex items-center justify-between">
          <h1 className="text-title">
            My day, {weekday(today)} {shortDate(day(today), today)}
          </h1>
          <Link to="/outlook" className="min-h-11 px-2 py-2.5 text-soft underline">
            {me.name.split(' ')[0]}, {ROLES[me.role].toLowerCase()}
          </Link>
        </div>
      }
    >
      {words.trim() === '' && underWay.length > 0 && (
        <section aria-label="Under way" className="space-y-2">
          {underWay.map((one) => (
            <UnderWayHere key={one.clientId} visit={one} />
          ))}
        </section>
      )}
      {words.trim() === '' && <MyRound />}
      <h2 className="px-1">Which heater?</h2>
      <div>
        <label htmlFor="which" className="mb-1 block px-1 text-body text-soft">
          Name, street or tag
        </label>
        <div className="flex gap-2">
          <input
            id="which"
            value={words}
            onChange={(event) => setWords(event.target.value)}
            className="h-12 w-full min-w-0 rounded-lg border-2 border-rule bg-sheet px-4"
          />
          <TagScanner />
        </div>
      </div>
      {isPending && <Loading what="the heaters" />}
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {data?.rows.length === 0 && <p className="px-2 text-soft">No heater has that. Try the number on its tag.</p>}
      <ul className="space-y-2">
        {data?.rows.map((row) => (
          <li key={row.id}>
            <Link to={`/visit/${row.id}`} className="flex items-center gap-3 rounded-xl bg-sheet p-3">
              <HeaterSign kind={row.kind} depthShare={row.depth_share} anodeLeft={row.anode_left} height={44} />
              <span className="min-w-0 flex-1">
                <span className="block font-bold">
                  {row.site}, {row.street}
                </span>
                <span className="block text-body text-soft">
                  {KINDS[row.kind]} · {row.tag}
                  {row.location && ` · ${row.location}`}
                </span>
                <span className="block text-body">
                  {row.windows
                    .filter((one) => one.due_on)
                    .sort((a, b) => (a.due_on! < b.due_on! ? -1 : 1))
                    .slice(0, 1)
                    .map((one) => `${COMPONENTS[one.component]}: ${dueWords(one.due_on, today)}`)}
                </span>
                {row.hazard && <span className="block text-body font-semibold text-oxide">{row.hazard}</span>}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </VisitShell>
  )
}
