import { useMutation } from '@tanstack/react-query'

import { client, unwrap } from '../../api/client'
import { isTank } from '../../drawing/HeaterSign'
import { Button } from '../../ui/Button'
import type { Asked } from './queries'
import type { AskedLives } from './useAskedLives'

interface Props {
  lives: AskedLives
  year: number
  /** What the price book does not know. */
  unpriced: string[]
}

/** What a customer gets of it: a page on paper, and a link that needs no account. */
export function ForCustomer({ lives, year, unpriced }: Props) {
  const query = {
    ...lives.asked,
    at_year: year,
    ...(lives.energyPrice === null ? {} : { energy_price: lives.energyPrice }),
  }
  const tank = isTank(lives.kind)
  const link = useMutation({
    mutationFn: async () => {
      const { address } = await unwrap(
        tank
          ? client.GET('/api/bench/lives/link', { params: { query } })
          : client.GET('/api/bench/exchanger-lives/link', { params: { query } }),
      )
      return { address, isCopied: address !== '' && (await copied(address)) }
    },
  })
  return (
    <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
      <label className="flex items-center gap-2">
        What a kWh costs
        <input
          inputMode="decimal"
          value={lives.price}
          onChange={(event) => lives.say('kwh')(event.target.value)}
          className="h-9 w-20 rounded-md border border-rule bg-sheet px-2"
        />
      </label>
      {tank && (
        <a
          href={paperOf(query)}
          target="_blank"
          rel="noreferrer"
          className="inline-flex min-h-9 items-center text-copper-deep underline underline-offset-2"
        >
          Page for the customer, cut open after {year === 1 ? '1 year' : `${year} years`}
        </a>
      )}
      <Button look="quiet" className="min-h-9" disabled={link.isPending} onClick={() => link.mutate()}>
        Link for the customer
      </Button>
      {unpriced.length > 0 && <span className="text-soft">Without a price: {unpriced.join(', ')}.</span>}
      <span role="status">
        {link.data?.address ? (
          <>
            {link.data.isCopied ? 'Copied; good' : 'Good'} for a year, and it names nobody.{' '}
            <a href={link.data.address} target="_blank" rel="noreferrer" className="text-copper-deep underline">
              See what the customer sees
            </a>
          </>
        ) : link.data ? (
          'Nobody has said yet at which address customers reach you: Settings, Company.'
        ) : link.error ? (
          link.error.message
        ) : null}
      </span>
    </p>
  )
}

/** Whether the browser let it be copied. */
const copied = (text: string) =>
  navigator.clipboard
    ? navigator.clipboard.writeText(text).then(
        () => true,
        () => false,
      )
    : Promise.resolve(false)

/** Where these two lives are on paper. */
function paperOf(asked: Asked): string {
  const query = new URLSearchParams()
  for (const [name, value] of Object.entries(asked))
    for (const one of Array.isArray(value) ? value : [value]) query.append(name, String(one))
  return `/api/bench/lives.pdf?${query.toString()}`
}
