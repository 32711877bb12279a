import clsx from 'clsx'
import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { client, unwrap } from '../../api/client'
import { useMay } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { ReviewNav } from './ReviewNav'

const stepPracticesOptions = queryOptions({
  queryKey: ['company', 'step-practices'],
  queryFn: () => unwrap(client.GET('/api/company/step-practices')),
})

const markedOptions = queryOptions({
  queryKey: ['visits', 'marked'],
  queryFn: () => unwrap(client.GET('/api/visits/marked')),
})

/** Where practitioners differ in how a step is done: the sides, and the one that this company takes. */
export function StepsPage() {
  const { data, error, refetch } = useQuery(stepPracticesOptions)
  const queries = useQueryClient()
  const choose = useMutation({
    // One after the other, each from what the one before it came to.
    scope: { id: 'company' },
    mutationFn: (chosen: Record<string, string>) => {
      const read = queries.getQueryData(stepPracticesOptions.queryKey)
      return unwrap(client.PUT('/api/company/step-practices', { body: { chosen, version: read?.version ?? null } }))
    },
    onSuccess: (answer) => queries.setQueryData(stepPracticesOptions.queryKey, answer),
    // What somebody else chose meanwhile is shown beside what is said of it.
    onError: () => void queries.invalidateQueries({ queryKey: stepPracticesOptions.queryKey }),
  })
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">How steps are done</h1>
      <ReviewNav />
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the company’s ways" />}
      {data && (
        <div className="min-h-0 flex-1 overflow-y-auto">
          <div className="mx-auto max-w-[1080px] px-5 py-5">
            <p className="max-w-[70ch] text-soft">
              Good plumbers differ here. Every side is safe in the guide: what may hurt is held in all of them. A visit
              that has begun goes on as it began.
              {!data.may_change && ' The lead takes the side.'}
            </p>
            {choose.error && (
              <p role="alert" className="mt-3 text-oxide">
                {choose.error.message}
              </p>
            )}
            <div className="mt-4 grid gap-x-10 gap-y-6 lg:grid-cols-2">
              {data.practices.map((one) => (
                <fieldset
                  key={one.name}
                  disabled={!data.may_change || choose.isPending}
                  className="border-t-2 border-line pt-3"
                >
                  <legend className="float-left mb-2 w-full text-lead font-bold">{one.question}</legend>
                  <div className="clear-both space-y-1.5">
                    {one.options.map((option) => (
                      <label
                        key={option.word}
                        className={clsx(
                          'flex cursor-pointer items-baseline gap-3 border-l-4 py-1 pl-3',
                          option.word === one.chosen ? 'border-copper' : 'border-transparent',
                        )}
                      >
                        <input
                          type="radio"
                          name={one.name}
                          value={option.word}
                          checked={option.word === one.chosen}
                          onChange={() => choose.mutate({ [one.name]: option.word })}
                          className="accent-copper"
                        />
                        <span className={option.word === one.chosen ? 'font-semibold' : ''}>
                          {option.says} {option.usual && <span className="font-normal text-soft">· most do</span>}
                        </span>
                      </label>
                    ))}
                  </div>
                </fieldset>
              ))}
            </div>
            <Marked />
          </div>
        </div>
      )}
    </div>
  )
}

/** Steps that were done otherwise than the guide allows: whom to speak with, or which step to write anew. */
function Marked() {
  const may = useMay('override')
  const { data } = useQuery({ ...markedOptions, enabled: may })
  if (!may || !data) return null
  return (
    <section aria-labelledby="marked" className="mt-8 border-t-2 border-line pt-3">
      <h2 id="marked" className="text-lead font-bold">
        Done otherwise than the guide allows, in twelve months
      </h2>
      {data.length === 0 ? (
        <p className="mt-1 text-soft">Nothing. Each such step is told here and on its heater.</p>
      ) : (
        <table className="mt-2 w-full max-w-[70ch]">
          <thead>
            <tr className="text-left text-soft">
              <th className="py-1 font-normal">Step</th>
              <th className="font-normal">What was amiss</th>
              <th className="text-right font-normal">Visits</th>
            </tr>
          </thead>
          <tbody>
            {data.map((one) => (
              <tr key={`${one.procedure} ${one.step} ${one.says}`} className="border-t border-line align-baseline">
                <td className="py-1.5 pr-4">
                  <span className="text-soft">{one.procedure}: </span>
                  {one.step}
                </td>
                <td className="pr-4">{one.says}</td>
                <td className="text-right tabular-nums">{one.visits}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
