import { useQuery } from '@tanstack/react-query'

import { useMay } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { Heaters, type Offered } from './Heaters'
import { peopleOptions, scenariosOptions, troublesOptions } from './queries'

/** Heaters that are nobody's, to do the whole job on, wrong as well as right. */
export function ScenariosPage() {
  const { data, error, refetch } = useQuery(scenariosOptions)
  const troubles = useQuery(troublesOptions)
  const seesPeople = useMay('keep_people')
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Practise a visit</h1>
      <BenchNav />
      {error ? (
        <Failed error={error} onRetry={() => void refetch()} />
      ) : !data ? (
        <Loading what="the heaters" />
      ) : (
        <div className="min-h-0 flex-1 overflow-auto px-5 pb-6">
          <p className="max-w-3xl py-4 text-soft">
            The whole job at a heater in software: valves, breaker, dial and hose are turned by hand, instruments are
            read by looking, and what goes wrong happens. <strong className="text-ink">Guided</strong> has the steps
            beside it, as in a visit; <strong className="text-ink">free</strong> has only you. Nothing here touches a
            record; local codes and licenses hold at the real one.
          </p>
          <Heaters title="Do a visit" all={data} at="/bench/practise" />
          {seesPeople && troubles.data && <People visits={data} troubles={troubles.data} />}
        </div>
      )}
    </div>
  )
}

/** Who passed what, for whoever decides what somebody may do alone. */
function People({ visits, troubles }: { visits: Offered[]; troubles: Offered[] }) {
  const { data } = useQuery(peopleOptions)
  if (!data?.length) return null
  const of = (passed: string[], all: Offered[]) =>
    `${all.filter((one) => passed.includes(one.name)).length} of ${all.length}`
  return (
    <section aria-label="Who passed what" className="mt-6 max-w-6xl">
      <h2 className="text-lead font-bold">Who passed what, without the guide</h2>
      <div tabIndex={0} role="region" aria-label="Scenarios passed" className="mt-2 overflow-x-auto">
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-left align-bottom text-fine">
              <th scope="col" className="pr-3">
                Name
              </th>
              <th scope="col" className="pr-3 text-right">
                Tries
              </th>
              <th scope="col" className="pr-3 text-right">
                Hurt in the last ten
              </th>
              <th scope="col" className="pr-3 text-right">
                Visits passed
              </th>
              <th scope="col" className="pr-3 text-right">
                Faults found
              </th>
              <th scope="col">Not passed yet</th>
            </tr>
          </thead>
          <tbody>
            {data.map((person) => (
              <tr key={person.user_id} className="border-b border-line">
                <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
                  {person.name} <span className="font-normal text-soft">{person.role}</span>
                </th>
                <td className="pr-3 text-right">{person.tries}</td>
                <td className="pr-3 text-right">{person.harms}</td>
                <td className="pr-3 text-right">{of(person.passed, visits)}</td>
                <td className="pr-3 text-right">{of(person.passed, troubles)}</td>
                <td className="text-soft">{missingWords(person.passed, [...visits, ...troubles])}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

/** What somebody has still to pass, the first few by name. */
function missingWords(passed: string[], all: Offered[]): string {
  const missing = all.filter((one) => !passed.includes(one.name)).map((one) => one.title)
  if (missing.length <= 3) return missing.join(', ')
  return `${missing.slice(0, 3).join(', ')} and ${missing.length - 3} more`
}
