import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useCompany, useMay } from '../session/session'
import { dateWords } from '../lib/dates'
import { Dialog } from '../ui/Dialog'
import { Phrase } from '../ui/Phrase'
import { contractOptions, moneyOptions, useSetContract } from './moneyQueries'
import { PlanFit } from './PlanFit'

/** Which plan a site is on, and a way to put it on another from today. */
export function SiteContract({ siteId }: { siteId: number }) {
  const { today } = useCompany()
  const keeps = useMay('keep_prices')
  const now = useQuery(contractOptions(siteId))
  const money = useQuery(moneyOptions)
  const set = useSetContract(siteId)
  const [open, setOpen] = useState(false)
  if (!now.data || !money.data || (money.data.plans.length === 0 && !now.data.plan)) return null
  const plans = [
    { value: '', label: 'no plan: pays each visit' },
    ...money.data.plans.map((one) => ({ value: String(one.id), label: one.name })),
  ]
  return (
    <div>
      <span className="text-soft">Contract:</span>
      {keeps ? (
        <Phrase
          label="Plan"
          value={now.data.plan_id ? String(now.data.plan_id) : ''}
          options={plans}
          onChange={(id) => set.mutate({ plan_id: id ? Number(id) : null, on: today })}
        />
      ) : (
        <strong className="mx-1">{now.data.plan || 'no plan: pays each visit'}</strong>
      )}
      {now.data.begins_on && <span className="text-soft">since {dateWords(now.data.begins_on, today)}</span>}
      {money.data.plans.length > 0 && (
        <button
          type="button"
          onClick={() => setOpen(true)}
          className="ml-2 min-h-6 text-copper-deep underline underline-offset-2"
        >
          Which plan fits?
        </button>
      )}
      <Dialog wide open={open} onOpenChange={setOpen} title="Which plan fits?">
        <PlanFit siteId={siteId} />
      </Dialog>
      {set.error && (
        <span role="alert" className="block font-semibold text-oxide">
          {set.error.message}
        </span>
      )}
    </div>
  )
}
