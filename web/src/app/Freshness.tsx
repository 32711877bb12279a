import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { client, unwrap } from '../api/client'
import { onStale } from '../api/stale'

const ASK_MS = 800
/** A base of many thousand heaters takes minutes: it is asked less and less often, and then no more. */
const SLOWER = 1.3
const MOST_MS = 300_000
/** What no record moves. */
const FIXED = new Set(['me', 'company', 'equipment', 'featureKinds', 'roads', 'importColumns', 'tags'])

/** Keeps every page as new as the record: what was written says which dates are computed anew, and when they are. */
export function Freshness() {
  const queries = useQueryClient()
  const [asked, setAsked] = useState(0)
  useEffect(() => {
    const renew = () => void queries.invalidateQueries({ predicate: (one) => !FIXED.has(String(one.queryKey[0])) })
    onStale((when) => {
      renew()
      if (when === 'soon') setAsked((before) => before + 1)
    })
    return () => onStale(() => undefined)
  }, [queries])
  useEffect(() => {
    if (asked === 0) return
    let timer: ReturnType<typeof setTimeout>
    const until = Date.now() + MOST_MS
    const ask = (wait: number) => {
      timer = setTimeout(() => {
        void unwrap(client.GET('/api/forecasts/pending'))
          .then(({ pending }) => pending)
          // Without an answer nobody knows: it is asked again.
          .catch(() => true)
          .then((pending) => {
            if (pending && Date.now() < until) return ask(wait * SLOWER)
            setAsked(0)
            return queries.invalidateQueries({ predicate: (one) => !FIXED.has(String(one.queryKey[0])) })
          })
      }, wait)
    }
    ask(ASK_MS)
    return () => clearTimeout(timer)
  }, [asked, queries])
  if (asked === 0) return null
  return (
    <p role="status" className="text-body whitespace-nowrap text-soft">
      New dates are being computed
    </p>
  )
}
