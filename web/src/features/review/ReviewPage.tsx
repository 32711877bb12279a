import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { Empty, Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { KeptAt } from './KeptAt'
import { heldOptions } from './queries'
import { ReviewNav } from './ReviewNav'
import { Taught } from './Taught'
import { Tracks } from './Tracks'

/** Whether the forecasts were right: what was measured, in the windows told before it, and what that taught. */
export function ReviewPage() {
  const { today } = useCompany()
  const { data, error, refetch } = useQuery(heldOptions)
  const [address, setAddress] = useSearchParams()
  const [frame, size] = useSize()
  const chosen = data?.components.find((one) => one.component === address.get('of')) ?? data?.components[0]
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Were the dates right?</h1>
      <ReviewNav />
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="what was measured" />}
      {data && !chosen && (
        <Empty>
          Nothing is calibrated yet: the forecast learns from the base tonight, and what was measured stands here then.
        </Empty>
      )}
      {data && chosen && (
        <div className="flex min-h-0 flex-1 narrow:flex-col">
          <section aria-label="Measurements" className="flex min-w-0 flex-1 flex-col">
            <p className="shrink-0 border-b border-line px-5 py-2 text-soft">
              Each mark is a measurement, at its height in the window told before it. Eight of ten should lie in the
              band. <Valves valves={data.valves} />
              <KeptAt at={data.kept_at} />
            </p>
            <div className="flex min-h-0 flex-1 narrow:flex-none narrow:overflow-x-auto">
              <div ref={frame} className="min-h-0 flex-1 overflow-hidden pt-2 narrow:h-[520px] narrow:min-w-[640px]">
                {size.width > 0 && (
                  <Tracks
                    components={data.components}
                    chosen={chosen.component}
                    onChoose={(component) => setAddress({ of: component }, { replace: true })}
                    today={today}
                    width={size.width}
                    height={size.height - 8}
                  />
                )}
              </div>
            </div>
          </section>
          <aside
            aria-label="What it taught"
            tabIndex={0}
            className={clsx(
              'w-[352px] shrink-0 overflow-y-auto border-l border-line bg-sheet p-5',
              'narrow:w-full narrow:border-l-0',
            )}
          >
            <Taught one={chosen} today={today} />
          </aside>
        </div>
      )}
    </div>
  )
}

function Valves({ valves: { tried, stuck } }: { valves: Schema['ValvesOut'] }) {
  if (tried === 0) return 'No relief valve was exercised in the last 12 months.'
  return (
    `Of ${tried} relief valves exercised in the last 12 months, ` +
    `${stuck === 0 ? 'all ran' : `${stuck} passed no water`}.`
  )
}
