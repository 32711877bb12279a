import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { day, isoDay } from '../../lib/dates'
import { Failed, Loading } from '../../ui/States'
import { PriceBook } from './PriceBook'
import { Quote } from './Quote'
import { moneyOptions, quotesOptions } from '../../records/moneyQueries'
import { amountWords, STAGES } from '../../records/moneyWords'

const ORDER = Object.keys(STAGES) as Schema['QuoteState'][]

/** Quotes by how far they are; the price book and the plans; what goes to the books. */
export function MoneyPage() {
  const { today } = useCompany()
  const keeps = useMay('keep_prices')
  const [address, setAddress] = useSearchParams()
  const asked = address.get('stage') as Schema['QuoteState'] | null
  const stage = asked && asked in STAGES ? asked : 'draft'
  const found = useQuery(quotesOptions(stage))
  const money = useQuery(moneyOptions)
  const error = found.error ?? money.error
  if (error)
    return (
      <>
        <h1 className="sr-only">Money</h1>
        <Failed error={error} onRetry={() => void found.refetch()} />
      </>
    )
  if (!found.data || !money.data)
    return (
      <>
        <h1 className="sr-only">Money</h1>
        <Loading what="quotes and prices" />
      </>
    )
  const { currency, stages, quotes } = found.data
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Money</h1>
      <div
        className={clsx(
          'flex min-h-[38px] shrink-0 flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-5',
          'narrow:px-3',
        )}
      >
        <p className="text-soft">
          What visits found asks for more: <strong className="text-ink">{stages.draft!.quotes}</strong> drafts to read,
          {` ${stages.sent!.quotes} with customers,`} {amountWords(stages.accepted!.total, currency)} accepted and to be
          done.
        </p>
        <div className="flex-1" />
        {keeps && <Books today={today} />}
        <Link to="/rounds" className="text-copper-deep underline underline-offset-2">
          The days
        </Link>
      </div>
      <Locks
        stages={stages}
        currency={currency}
        chosen={stage}
        onChoose={(next) => setAddress(next === 'draft' ? {} : { stage: next }, { replace: true })}
      />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_440px] narrow:grid-cols-1 border-t border-ink">
        <section aria-label={`Quotes ${STAGES[stage]}`} tabIndex={0} className="overflow-y-auto">
          {quotes.length === 0 && (
            <p className="p-5 text-soft">
              None is {STAGES[stage]}. A quote is raised when a visit finds what asks for more than the visit could do.
            </p>
          )}
          <ul>
            {quotes.map((one) => (
              <Quote key={`${one.id}-${one.version}`} one={one} currency={currency} today={today} may={keeps} />
            ))}
          </ul>
        </section>
        <PriceBook book={money.data} may={keeps} />
      </div>
    </div>
  )
}

/** The stages as the chambers of a flight of locks: how much stands in each, on its way down to done. */
function Locks({
  stages,
  currency,
  chosen,
  onChoose,
}: {
  stages: Schema['QuotesOut']['stages']
  currency: string
  chosen: Schema['QuoteState']
  onChoose: (stage: Schema['QuoteState']) => void
}) {
  const most = Math.max(...ORDER.map((one) => Number(stages[one]!.total)), 1)
  return (
    <div
      role="group"
      aria-label="Stages"
      className="flex min-h-[78px] shrink-0 items-end gap-1 px-5 narrow:overflow-x-auto pb-1.5 narrow:[&>*]:shrink-0"
    >
      {ORDER.map((one, at) => {
        const { quotes, total } = stages[one]!
        const aside = at > 3
        return (
          <button
            key={one}
            type="button"
            aria-pressed={one === chosen}
            onClick={() => onChoose(one)}
            className={clsx(
              'relative overflow-hidden rounded-b-lg border-2 border-t-0 px-2.5 text-left',
              one === chosen ? 'border-copper' : 'border-ink',
              aside ? 'w-[108px]' : 'w-[176px]',
              at === 4 ? 'ml-6' : '',
            )}
            style={{ minHeight: aside ? 52 : 66 - at * 4 }}
          >
            <span
              aria-hidden
              className={`absolute inset-x-0 bottom-0 ${one === chosen ? 'bg-water/45' : 'bg-water-pale'}`}
              style={{ height: `${(100 * Number(total)) / most}%` }}
            />
            <span className="relative block leading-tight font-bold">
              {quotes} {STAGES[one]}
            </span>
            <span className="relative block text-fine">{amountWords(total, currency)}</span>
          </button>
        )
      })}
    </div>
  )
}

/** The last whole month as a table for whoever keeps the books. */
function Books({ today }: { today: string }) {
  const first = today.slice(0, 8) + '01'
  const before = isoDay(day(first) - 86_400_000)
  const months: [string, string, string][] = [
    ['last month', before.slice(0, 8) + '01', before],
    ['this month', first, today],
  ]
  return (
    <p className="text-soft">
      For the books:
      {months.map(([name, from, to]) => (
        <a
          key={name}
          href={`/api/money/books.csv?first=${from}&last=${to}`}
          className="ml-2 text-copper-deep underline underline-offset-2"
        >
          {name}
        </a>
      ))}
    </p>
  )
}
