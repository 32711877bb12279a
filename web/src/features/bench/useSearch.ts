import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { searchOptions } from './queries'

export type Deed = Schema['DeedIn']

/** A search under way: its deeds are all there is to it, and what each takes goes by with it. */
export function useSearch(trouble: string, seed: number, guided: boolean) {
  const [acts, setActs] = useState<Deed[]>([])
  const [known, setKnown] = useState(0)
  const at = acts.at(-1)?.at_s ?? 0
  const body = { trouble, seed, guided, acts, at_s: at }
  const { data, error } = useQuery(searchOptions(body))
  /** What is shown is from before the last deed. */
  const isStale = data !== undefined && data.acts !== acts.length
  const wrong = data && !isStale && data.harms.length > known ? data.harms[known]! : null
  const clock = data?.at_s ?? 0
  return {
    acts,
    body,
    data,
    error,
    isStale,
    wrong,
    clock,
    act: (handle: string, to: string) => {
      if (!wrong) setActs((now) => [...now, { at_s: Math.max(clock, now.at(-1)?.at_s ?? 0), handle, to }])
    },
    /** Back to before a deed, as if neither it nor anything after had been. */
    backBefore: (place: number) => {
      setActs(acts.slice(0, place))
      setKnown(data?.harms.filter((one) => one.act < place).length ?? 0)
    },
    letItHappen: () => setKnown(data?.harms.length ?? 0),
  }
}
