import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../api/client'
import { Failed, Loading } from '../ui/States'
import { planFitOptions } from './moneyQueries'
import { amountWords } from './moneyWords'

/** What a site would pay a year and what would be left of it, without a plan and on each. */
export function PlanFit({ siteId }: { siteId: number }) {
  const { data, error, refetch } = useQuery(planFitOptions(siteId))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="its years" />
  if (data.rows.length === 0) return <p className="text-soft">No heater in service stands there.</p>
  const whole = (amount: number) => amountWords(String(Math.round(amount)), data.currency)
  const span = (fan: Schema['MoneyFan']) => `${whole(fan.low)} to ${whole(fan.high)}`
  const fitting = data.rows.some((row) => row.fits)
  return (
    <div className="mt-3">
      <table className="w-full border-collapse">
        <caption className="pb-1 text-left text-soft">
          A year, over the coming {data.years}: the work here costs us {span(data.costs)}.
        </caption>
        <thead className="text-right text-fine text-soft">
          <tr>
            <th className="text-left font-normal">Plan</th>
            <th className="font-normal">customer pays</th>
            <th className="font-normal">is left of it</th>
            <th className="pl-4 text-left font-normal">So</th>
          </tr>
        </thead>
        <tbody>
          {data.rows.map((row) => (
            <tr key={row.plan} className="border-t border-line text-right">
              <th scope="row" className={`py-0.5 text-left ${row.is_now ? '' : 'font-normal'}`}>
                {row.plan || 'no plan: pays each visit'}
                {row.is_now && ', as now'}
              </th>
              <td>{span(row.pays)}</td>
              <td>{span(row.left)}</td>
              <td className="pl-4 text-left">
                {row.fits ? <strong>fits</strong> : <span className="text-soft">{soOf(row)}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="pt-1 text-fine text-soft">
        {fitting
          ? 'Eight of ten futures lie in a span. What fits costs the customer least of all that leave us something.'
          : 'On none of these is something left in most futures: the prices do not carry the work here.'}
        {data.missing.length > 0 && ' The price book lacks some of it, which is taken as nothing.'}
      </p>
    </div>
  )
}

function soOf(row: Schema['PlanFitRow']) {
  const chance = Math.round(100 * row.pays_off)
  if (row.pays_surely) return 'pays, dearer for the customer'
  return chance === 0 ? 'costs us money' : `pays in ${chance} of 100 futures`
}
