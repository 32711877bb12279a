import { queryOptions, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { SettingsShell } from './SettingsShell'

interface Operation {
  summary?: string
  description?: string
  tags?: string[]
  parameters?: { name: string; in: string; required?: boolean }[]
}
interface Described {
  info: { description: string }
  paths: Record<string, Record<string, Operation>>
}

export const describedOptions = queryOptions({
  queryKey: ['openapi'],
  queryFn: async () => {
    const answer = await fetch('/api/openapi.json')
    if (!answer.ok) throw new Error('The server does not tell its interface now; try again.')
    return (await answer.json()) as Described
  },
  staleTime: Infinity,
})

/** Every route that another program may ask, from the same document that programs read. */
export function InterfacePage() {
  const { data, error, refetch } = useQuery(describedOptions)
  const [asked, ask] = useState('')
  const wanted = asked.toLowerCase().split(/\s+/).filter(Boolean)
  const routes = Object.entries(data?.paths ?? {}).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, one]) => ({ path, method: method.toUpperCase(), ...one })),
  )
  const shown = routes.filter((one) =>
    wanted.every((word) => `${one.path} ${one.method} ${one.description ?? ''}`.toLowerCase().includes(word)),
  )
  return (
    <SettingsShell title="Other programs: the interface">
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the interface" />}
      {data && (
        <>
          <p className="max-w-[75ch] text-soft">
            {data.info.description} A program sends its token as <code>Authorization: Bearer …</code>; what is refused
            is told with a code, a sentence and the fields. The whole of it, with every field, is in the{' '}
            <a href="/api/openapi.json" className="text-copper-deep underline underline-offset-2">
              OpenAPI document
            </a>
            .
          </p>
          <Field
            label="Find a route"
            className="mt-3 w-72"
            value={asked}
            placeholder="sites, visits, quotes"
            onChange={(event) => ask(event.target.value)}
          />
          <table className="mt-3 w-full border-collapse">
            <thead className="text-left text-fine text-soft">
              <tr>
                <th className="w-20 py-1 font-normal">Asks</th>
                <th className="font-normal">Route</th>
                <th className="font-normal">What it does</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((one) => (
                <tr key={`${one.method} ${one.path}`} className="border-t border-line align-baseline">
                  <td className="py-1 font-bold">{one.method}</td>
                  <th scope="row" className="pr-4 text-left font-normal break-all">
                    <code>{one.path}</code>
                  </th>
                  <td className="text-soft">{one.description ?? one.summary}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {shown.length === 0 && <p className="mt-3 text-soft">No route is about that.</p>}
        </>
      )}
    </SettingsShell>
  )
}
