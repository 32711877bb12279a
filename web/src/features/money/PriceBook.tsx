import { useState } from 'react'

import type { Schema } from '../../api/client'
import { COMPONENTS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { useSetPlan, useSetPrice } from '../../records/moneyQueries'
import { amountOf, amountWords } from '../../records/moneyWords'
import { useTyped } from '../../ui/typed'

/** Prices as customers read them, with what each costs the company; below, the plans. */
export function PriceBook({ book, may }: { book: Schema['MoneyOut']; may: boolean }) {
  const { currency } = book.settings
  return (
    <section aria-label="Price book" tabIndex={0} className="overflow-y-auto border-l border-line px-5 py-3">
      <h2>Plans</h2>
      <ul className="mb-4">
        {book.plans.map((plan) => (
          <Plan key={plan.id} plan={plan} currency={currency} may={may} />
        ))}
        {book.plans.length === 0 && <li className="text-soft">None yet; customers pay each visit.</li>}
      </ul>
      <h2>Price book</h2>
      <p className="text-fine text-soft">
        Without tax, in {currency}. An hour of a technician with truck costs{' '}
        {amountWords(book.settings.hour_cost, currency)}.
      </p>
      <table className="mt-1 w-full border-collapse">
        <thead className="text-left text-fine text-soft">
          <tr>
            <th className="font-normal">As the customer reads it</th>
            <th className="pr-2 text-right font-normal">price</th>
            <th className="text-right font-normal">costs us</th>
          </tr>
        </thead>
        <tbody>
          {book.prices.map((one) => (
            <tr key={one.key} className="border-b border-line">
              <th scope="row" className="py-0.5 pr-2 text-left font-normal" title={one.key}>
                {one.words}
              </th>
              <td className="pr-2 text-right">{may ? <Amount one={one} field="price" /> : one.price}</td>
              <td className="text-right text-soft">{may ? <Amount one={one} field="cost" /> : one.cost}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {may && book.missing.map((key) => <Missing key={key} name={key} />)}
    </section>
  )
}

/** An amount in place, saved when it is left. What is no amount stays as it was typed, and is said. */
function Amount({ one, field }: { one: Schema['PriceOut']; field: 'price' | 'cost' }) {
  const set = useSetPrice()
  const { key, words, price, cost } = one
  const typed = useTyped(one[field], set.error, (text) => {
    const amount = amountOf(text)
    if (amount !== null) set.mutate({ key, words, price, cost, [field]: amount })
  })
  const wrong = amountOf(typed.value) === null
  return (
    <>
      <input
        aria-label={`${field === 'price' ? 'Price' : 'Cost'} of ${one.words}`}
        aria-invalid={wrong || undefined}
        inputMode="decimal"
        {...typed}
        onFocus={(event) => event.target.select()}
        className={`h-7 w-20 rounded border bg-sheet px-1 text-right ${wrong ? 'border-oxide' : 'border-line'}`}
      />
      {set.error && (
        <span role="alert" className="block text-fine text-oxide">
          {set.error.message}
        </span>
      )}
    </>
  )
}

/** Something that visits ask for and that has no price. */
function Missing({ name }: { name: string }) {
  const set = useSetPrice()
  const plain = name.replaceAll('_', ' ').replace('/', ', ')
  const [words, setWords] = useState(plain.charAt(0).toUpperCase() + plain.slice(1))
  const [price, setPrice] = useState('')
  const amount = amountOf(price)
  return (
    <form
      className="mt-2 flex items-center gap-2 border-l-4 border-ochre pl-2.5"
      onSubmit={(event) => {
        event.preventDefault()
        if (amount !== null) set.mutate({ key: name, words, price: amount, cost: '0' })
      }}
    >
      <input
        aria-label={`Words for ${plain}`}
        value={words}
        onChange={(event) => setWords(event.target.value)}
        className="h-8 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2"
      />
      <input
        aria-label={`Price of ${plain}`}
        placeholder="no price"
        inputMode="decimal"
        value={price}
        onChange={(event) => setPrice(event.target.value)}
        className="h-8 w-20 rounded-md border border-rule bg-sheet px-2 text-right placeholder:text-soft"
      />
      <Button
        type="submit"
        className="min-h-8 px-2.5"
        disabled={amount === null || words.trim() === '' || set.isPending}
      >
        Add
      </Button>
      {set.error && (
        <span role="alert" className="text-oxide">
          {set.error.message}
        </span>
      )}
    </form>
  )
}

const SERVICES = ['sediment', 'scale', 'anode', 'relief_valve', 'expansion_tank'] as const

/** A plan: what it costs by the year, and what that includes, to be ticked. */
function Plan({ plan: kept, currency, may }: { plan: Schema['ContractPlanOut']; currency: string; may: boolean }) {
  const set = useSetPlan()
  const { name, yearly, includes, call_out, parts_off, sites } = set.isPending
    ? { ...kept, ...(set.variables as Partial<Schema['ContractPlanOut']>) }
    : kept
  const change = (part: Partial<Schema['ContractPlanIn']>) =>
    set.mutate({ name, yearly, includes, call_out, parts_off, ...part })
  const off = Math.round(100 * Number(parts_off))
  return (
    <li className="border-b border-line py-1.5">
      <p>
        <strong>{name}</strong>, {amountWords(yearly, currency)} a year, {sites} {sites === 1 ? 'site' : 'sites'}
        {off > 0 && `, parts ${off} % off`}
      </p>
      <p className="flex flex-wrap gap-x-3">
        <Tick words="call-out fee" on={call_out} may={may} onChange={(call_out) => change({ call_out })} plan={name} />
        {SERVICES.map((one) => (
          <Tick
            key={one}
            words={COMPONENTS[one].toLowerCase()}
            on={includes.includes(one)}
            may={may}
            onChange={(on) => change({ includes: on ? [...includes, one] : includes.filter((other) => other !== one) })}
            plan={name}
          />
        ))}
      </p>
      {set.error && (
        <p role="alert" className="text-oxide">
          {set.error.message}
        </p>
      )}
    </li>
  )
}

function Tick({
  words,
  on,
  may,
  onChange,
  plan,
}: {
  words: string
  on: boolean
  may: boolean
  onChange: (on: boolean) => void
  plan: string
}) {
  return (
    <label className={on ? '' : 'text-soft'}>
      <input
        type="checkbox"
        aria-label={`${plan} includes ${words}`}
        checked={on}
        disabled={!may}
        onChange={(event) => onChange(event.target.checked)}
        className="mr-1 align-[-2px] accent-(--color-moss)"
      />
      {words}
    </label>
  )
}
