import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import type { Schema } from '../../api/client'
import { practiceOptions } from './queries'

export type Act = Schema['ActIn']

/** Seconds at the heater to each at the desk; 0 stands still. */
export const PACES = [0, 1, 10, 60] as const
export type Pace = (typeof PACES)[number]

const BEAT_MS = 500

/** A practice under way: its acts are all there is to it, and the server tells where they lead. */
export function usePractice(scenario: string, seed: number, guided: boolean, cut: boolean) {
  const [acts, setActs] = useState<Act[]>([])
  const [at, setAt] = useState(0)
  const [pace, setPace] = useState<Pace>(1)
  const [known, setKnown] = useState(0)
  const body = { scenario, seed, guided, cut, acts, at_s: at, harms: known }
  const { data, error, isFetching } = useQuery(practiceOptions(body))
  /** Something went wrong that nobody has looked at yet: the clock stands at that second. */
  const wrong = data && data.harms.length > known ? data.harms[known]! : null
  const clock = wrong ? data!.at_s : at
  const runs = pace > 0 && !wrong && !data?.is_over
  useEffect(() => {
    if (!runs || isFetching) return
    const timer = setTimeout(() => setAt((now) => now + Math.max(1, Math.round((pace * BEAT_MS) / 1000))), BEAT_MS)
    return () => clearTimeout(timer)
  }, [runs, isFetching, pace, at])
  const act = (handle: string, to: string) => {
    if (wrong) return
    setActs((now) => [...now, { at_s: at, handle, to }])
    // What an act does shows in the second after it.
    setAt(at + 1)
  }
  return {
    acts,
    body: { ...body, at_s: clock },
    data,
    error,
    /** What is shown is from before the last act. */
    isStale: data !== undefined && data.acts < acts.length,
    wrong,
    clock,
    pace,
    setPace,
    act,
    wait: (seconds: number) => !wrong && setAt(at + seconds),
    /** Back to before an act, as if neither it nor anything after had been. */
    backBefore: (place: number) => {
      const first = acts[place]
      setActs(acts.slice(0, place))
      setAt(first?.at_s ?? 0)
      setPace(0)
      setKnown(data?.harms.filter((one) => one.at_s < (first?.at_s ?? 0)).length ?? 0)
    },
    letItHappen: () => {
      setKnown(data?.harms.length ?? 0)
      setAt(clock)
    },
  }
}
