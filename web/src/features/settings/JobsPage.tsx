import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../../api/client'
import { clockIn, dateWords, dayIn } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { jobsOptions, useJobAgain } from './queries'
import { SettingsShell } from './SettingsShell'

const CONCERNS: Record<string, string> = {
  database: 'Database',
  migrations: 'New version',
  worker: 'Worker',
  queue: 'Waiting',
  disk: 'Disk',
}

/** What the program does by itself: whether it does, what waits, what failed, and when the nights ran. */
export function JobsPage() {
  const { data, error, refetch } = useQuery(jobsOptions)
  return (
    <SettingsShell title="Jobs">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the jobs" />}
      {data && <Jobs data={data} />}
    </SettingsShell>
  )
}

function Jobs({ data }: { data: Schema['JobsOut'] }) {
  const { today, timezone } = useCompany()
  const when = (at: string) => `${dateWords(dayIn(timezone, at), today)}, ${clockIn(timezone, at)}`
  const troubles = Object.entries(data.troubles)
  return (
    <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
      <section aria-label="Now">
        {troubles.length === 0 ? (
          <p className="border-l-4 border-moss pl-3 text-lead">
            All is done as it comes up: {data.workers === 1 ? '1 worker' : `${data.workers} workers`},
            {` ${data.waiting} waiting.`}
          </p>
        ) : (
          <ul className="space-y-1 border-l-4 border-oxide pl-3">
            {troubles.map(([name, said]) => (
              <li key={name}>
                <span className="font-bold text-oxide">{CONCERNS[name] ?? name}</span> {said}
              </li>
            ))}
          </ul>
        )}
        {data.waiting > 0 && data.oldest && (
          <p className="mt-3 text-soft">The one that has waited longest waits since {when(data.oldest)}.</p>
        )}
        {data.at_work.length > 0 && (
          <>
            <h2 className="mt-6 text-lead font-bold">At work</h2>
            <ul>
              {data.at_work.map((one, at) => (
                <li key={at} className="border-t border-line py-1.5">
                  {one.says}
                  {one.since && <span className="text-soft"> since {when(one.since)}</span>}
                </li>
              ))}
            </ul>
          </>
        )}
        <h2 className="mt-6 text-lead font-bold">Every night</h2>
        <ul>
          {data.nights.map((one) => (
            <li key={one.says} className="flex gap-3 border-t border-line py-1.5">
              <span className="flex-1">{one.says}</span>
              <span className={one.last && !one.problem ? 'text-soft' : 'font-semibold text-ochre-deep'}>
                {one.problem || (one.last ? `went well ${when(one.last)}` : 'not lately')}
              </span>
            </li>
          ))}
        </ul>
      </section>
      <section aria-labelledby="failed">
        <h2 id="failed" className="text-lead font-bold">
          Failed in the last month
        </h2>
        {data.failed.length === 0 && <p className="mt-1 text-soft">Nothing.</p>}
        <ul>
          {data.failed.map((one) => (
            <Line key={one.id} one={one} when={when} />
          ))}
        </ul>
        {data.failed.length > 0 && (
          <p className="mt-3 text-fine text-soft">Why is in the worker’s log, under the job’s number.</p>
        )}
      </section>
    </div>
  )
}

function Line({ one, when }: { one: Schema['FailedOut']; when: (at: string) => string }) {
  const again = useJobAgain()
  return (
    <li className="border-t border-line py-1.5">
      <div className="flex items-baseline gap-3">
        <span className="flex-1">
          <span className="font-semibold">{one.says}</span>
          <span className="text-soft">
            {' '}
            · job {one.id}
            {one.at && ` · ${when(one.at)}`}
            {one.tries > 1 && ` · tried ${one.tries} times`}
          </span>
        </span>
        <Button look="quiet" disabled={again.isPending} onClick={() => again.mutate(one.id)}>
          Try it again
        </Button>
      </div>
      {again.error && (
        <p role="alert" className="font-semibold text-oxide">
          {again.error.message}
        </p>
      )}
    </li>
  )
}
