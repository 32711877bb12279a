import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords, day, shortDate } from '../../lib/dates'
import { sentence } from '../../lib/words'
import { Button } from '../../ui/Button'
import { useStep, useWriteQuote } from '../../records/moneyQueries'
import { amountOf, amountWords, FOLLOW_UPS, STEPS } from '../../records/moneyWords'

interface Props {
  one: Schema['QuoteOut']
  currency: string
  today: string
  may: boolean
}

/** One quote: what for and why, its lines, and where it goes next. */
export function Quote({ one, currency, today, may }: Props) {
  const step = useStep()
  const [open, setOpen] = useState(false)
  const lacks = one.lines.some((line) => line.price === null)
  return (
    <li className="border-b border-line px-5 py-2.5">
      <div className="flex items-baseline gap-3">
        <h2 className="text-lead">{FOLLOW_UPS[one.what]}</h2>
        <Link to={`/heaters/${one.heater_id}`} className="wrap-break-word hover:underline">
          {one.site} <span className="text-soft">{one.tag}</span>
        </Link>
        <div className="flex-1" />
        {lacks ? (
          <strong className="text-oxide">no price yet</strong>
        ) : (
          <strong className="text-lead whitespace-nowrap">{amountWords(one.total, currency)}</strong>
        )}
      </div>
      <p>{sentence(one.why.join('; '))}.</p>
      {one.warranty_until && (
        <p className="font-semibold">
          We fitted it and stand for it until {dateWords(one.warranty_until, today)}: no charge.
        </p>
      )}
      <div className="mt-0.5 flex items-center gap-1">
        <p className="text-soft">{dates(one, today)}</p>
        <div className="flex-1" />
        {one.phone && (
          <a href={`tel:${one.phone}`} className="mr-2 text-copper-deep underline underline-offset-2">
            {one.customer}, {one.phone}
          </a>
        )}
        {may && one.state === 'draft' && (
          <Button look="quiet" aria-expanded={open} className="min-h-8 px-2" onClick={() => setOpen(!open)}>
            Its lines
          </Button>
        )}
        {may &&
          one.steps.map((to, at) => (
            <Button
              key={to}
              {...(at === 0 ? {} : { look: 'quiet' as const })}
              className="min-h-8 px-2.5"
              disabled={step.isPending}
              onClick={() => step.mutate({ id: one.id, version: one.version, to })}
            >
              {one.state !== 'draft' && to === 'sent' ? 'Send it again' : STEPS[to]}
            </Button>
          ))}
      </div>
      {step.error && (
        <p role="alert" className="font-semibold text-oxide">
          {step.error.message}
        </p>
      )}
      {open && <Lines one={one} currency={currency} />}
    </li>
  )
}

function dates(one: Schema['QuoteOut'], today: string): string {
  const said = [`found ${shortDate(day(one.raised_on), today)}`]
  if (one.sent_on) said.push(`sent ${shortDate(day(one.sent_on), today)}`)
  if (one.state === 'sent' && one.valid_until) said.push(`holds until ${shortDate(day(one.valid_until), today)}`)
  if (one.answered_on) said.push(`answered ${shortDate(day(one.answered_on), today)}`)
  if (one.done_on) said.push(`done ${shortDate(day(one.done_on), today)}`)
  return said.join(' · ')
}

interface Typed {
  key: string
  words: string
  quantity: string
  price: string
}

/** The lines of a draft, to be changed and saved together. */
function Lines({ one, currency }: { one: Schema['QuoteOut']; currency: string }) {
  const write = useWriteQuote()
  const [lines, setLines] = useState<Typed[]>(
    one.lines.map((line) => ({ ...line, quantity: String(Number(line.quantity)), price: line.price ?? '' })),
  )
  const set = (at: number, part: Partial<Typed>) =>
    setLines(lines.map((line, number) => (number === at ? { ...line, ...part } : line)))
  const read = lines.map((line) => ({
    ...line,
    quantity: amountOf(line.quantity),
    price: line.price.trim() === '' ? null : amountOf(line.price),
  }))
  const wrong = read.some(
    (line, at) =>
      line.quantity === null ||
      Number(line.quantity) === 0 ||
      line.words.trim() === '' ||
      (lines[at]!.price.trim() !== '' && line.price === null),
  )
  const box = 'h-8 rounded-md border border-rule bg-sheet px-2'
  return (
    <form
      className="mt-2 border-l-4 border-line pl-3"
      onSubmit={(event) => {
        event.preventDefault()
        write.mutate({
          id: one.id,
          version: one.version,
          lines: read.map((line) => ({ ...line, quantity: line.quantity! })),
        })
      }}
    >
      {lines.map((line, at) => (
        <div key={at} className="mb-1 flex items-center gap-2">
          <input
            aria-label={`Line ${at + 1}`}
            value={line.words}
            onChange={(event) => set(at, { words: event.target.value })}
            className={`${box} flex-1`}
          />
          <input
            aria-label={`How many of line ${at + 1}`}
            inputMode="decimal"
            value={line.quantity}
            onChange={(event) => set(at, { quantity: event.target.value })}
            className={`${box} w-16 text-right`}
          />
          <span className="text-soft">at {currency}</span>
          <input
            aria-label={`Price of line ${at + 1}`}
            inputMode="decimal"
            value={line.price}
            onChange={(event) => set(at, { price: event.target.value })}
            className={`${box} w-24 text-right`}
          />
          <Button
            look="quiet"
            className="min-h-8 px-1.5"
            disabled={lines.length === 1}
            onClick={() => setLines(lines.filter((_, number) => number !== at))}
          >
            Remove
          </Button>
        </div>
      ))}
      <div className="flex items-center gap-2">
        <Button
          look="quiet"
          className="min-h-8 px-2"
          onClick={() => setLines([...lines, { key: 'other', words: '', quantity: '1', price: '' }])}
        >
          Another line
        </Button>
        <Button type="submit" className="min-h-8" disabled={wrong || write.isPending}>
          Save the lines
        </Button>
        {wrong && (
          <span className="text-soft">Each line needs words, how many, and an amount such as 38 or 37.40.</span>
        )}
        {write.error && (
          <span role="alert" className="font-semibold text-oxide">
            {write.error.message}
          </span>
        )}
      </div>
    </form>
  )
}
