import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { Check } from 'lucide-react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { HeaterSign } from '../../drawing/HeaterSign'
import { useMay } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { peopleOptions, scenariosOptions } from './queries'

/** Heaters that are nobody's, to do the whole job on, wrong as well as right. */
export function ScenariosPage() {
  const { data, error, refetch } = useQuery(scenariosOptions)
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
          <ul className="grid max-w-6xl grid-cols-[repeat(auto-fill,minmax(330px,1fr))] gap-x-8">
            {data.map((one) => (
              <Scenario key={one.name} one={one} />
            ))}
          </ul>
          {seesPeople && <People scenarios={data} />}
        </div>
      )}
    </div>
  )
}

function Scenario({ one }: { one: Schema['ScenarioOut'] }) {
  return (
    <li className="flex gap-3 border-t border-line py-4">
      <HeaterSign kind={one.kind} depthShare={null} anodeLeft={null} height={48} />
      <div className="min-w-0">
        <h2 className="text-lead font-bold">{one.title}</h2>
        <p className="mt-0.5 min-h-10">{one.says}</p>
        <p className="mt-1 text-fine text-soft">{stoodWords(one)}</p>
        <p className="mt-1 flex gap-4">
          <Way one={one} way="guided" passed={one.passed_guided !== null} />
          <Way one={one} way="free" passed={one.passed_free !== null} />
        </p>
      </div>
    </li>
  )
}

function Way({ one, way, passed }: { one: Schema['ScenarioOut']; way: string; passed: boolean }) {
  return (
    <Link
      to={`/bench/practise/${one.name}?way=${way}&heater=${one.tries + 1}`}
      aria-label={`${one.title}, ${way}${passed ? ', passed' : ''}`}
      className={clsx(
        'inline-flex min-h-11 items-center gap-1.5 font-semibold text-copper-deep',
        'underline-offset-4 hover:underline',
      )}
    >
      {passed && <Check size={16} className="text-moss-deep" aria-hidden />}
      {way === 'guided' ? 'Guided' : 'Free'}
    </Link>
  )
}

function stoodWords(one: Schema['ScenarioOut']): string {
  if (one.tries === 0) return 'not tried yet'
  const best = `${Math.round(100 * (one.best_share ?? 0))} % at best`
  const passed = one.passed_free ? 'passed free' : one.passed_guided ? 'passed with the guide' : 'not passed yet'
  return `${passed}; ${one.tries} ${one.tries === 1 ? 'try' : 'tries'}, ${best}`
}

/** Who passed what, for whoever decides what somebody may do alone. */
function People({ scenarios }: { scenarios: Schema['ScenarioOut'][] }) {
  const { data } = useQuery(peopleOptions)
  if (!data?.length) return null
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
              {scenarios.map((one) => (
                <th key={one.name} scope="col" className="px-2 font-normal">
                  {one.title}
                </th>
              ))}
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
                {scenarios.map((one) => (
                  <td key={one.name} className="px-2">
                    {person.passed.includes(one.name) ? (
                      <Check size={16} className="text-moss-deep" aria-label="passed" />
                    ) : (
                      <span className="text-soft">–</span>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}
