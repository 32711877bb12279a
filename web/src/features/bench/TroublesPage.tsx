import { useQuery } from '@tanstack/react-query'

import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { Heaters } from './Heaters'
import { troublesOptions } from './queries'

/** Heaters that do not do what they should: what is wrong is hidden, and shows to who looks in the right order. */
export function TroublesPage() {
  const { data, error, refetch } = useQuery(troublesOptions)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Find what is wrong</h1>
      <BenchNav />
      {error ? (
        <Failed error={error} onRetry={() => void refetch()} />
      ) : !data ? (
        <Loading what="the complaints" />
      ) : (
        <div className="min-h-0 flex-1 overflow-auto px-5 pb-6">
          <p className="max-w-3xl py-4 text-soft">
            Somebody called. Look, measure, mend, and say what it was: every reading follows from what is hidden, and
            haste hurts as it would. Parts that were sound cost a mark, a wrong cause costs the pass. Local codes and
            licenses hold at the real one.
          </p>
          <Heaters title="Find what is wrong" all={data} at="/bench/find" />
        </div>
      )}
    </div>
  )
}
