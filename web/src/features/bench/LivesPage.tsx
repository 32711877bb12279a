import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { isTank } from '../../drawing/HeaterSign'
import { zoneMapOptions } from '../../records/waterQueries'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { ExchangerLives } from './ExchangerLives'
import { LivesAsked } from './LivesAsked'
import { livesOptions } from './queries'
import { TankLives } from './TankLives'
import { useAskedLives } from './useAskedLives'

/** Years in a minute: one heater lived twice with the same luck, cut open at any year. */
export function LivesPage() {
  const zones = useQuery(zoneMapOptions)
  const [at, setAt] = useState(44)
  const [many, setMany] = useState(false)
  const [asTable, setAsTable] = useState(false)
  const hardest = zones.data?.toSorted((one, other) => other.hardness_mg_l - one.hardness_mg_l)[0]
  const lives = useAskedLives(String(hardest?.id ?? ''))
  const tank = isTank(lives.kind)
  const { data, error, refetch } = useQuery({
    ...livesOptions(lives.asked),
    enabled: tank && zones.data !== undefined,
  })
  const wrong = error ?? zones.error
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Years in a minute</h1>
      <BenchNav />
      {wrong ? (
        <Failed error={wrong} onRetry={() => void refetch()} />
      ) : !zones.data || (tank && !data) ? (
        <Loading what="the years" />
      ) : (
        <>
          <div
            className={clsx(
              'flex min-h-[52px] shrink-0 flex-wrap items-center border-b border-line px-5 py-1.5',
              'narrow:px-3 narrow:py-2',
            )}
          >
            <LivesAsked lives={lives} zones={zones.data} />
            <div className="flex-1" />
            <Button look="quiet" aria-pressed={many} className="min-h-8 shrink-0" onClick={() => setMany(!many)}>
              {many ? 'One life' : '200 lives'}
            </Button>
            <Button
              look="quiet"
              aria-pressed={asTable}
              className="min-h-8 shrink-0"
              onClick={() => setAsTable(!asTable)}
            >
              {asTable ? 'Drawn' : 'As a table'}
            </Button>
          </div>
          {data && tank ? (
            <TankLives data={data} lives={lives} many={many} asTable={asTable} at={at} onChange={setAt} />
          ) : (
            <ExchangerLives lives={lives} many={many} asTable={asTable} at={at} onChange={setAt} />
          )}
        </>
      )}
    </div>
  )
}
