import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { day, shortDate } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'
import { shifted } from './Basins'
import { Dialog } from '../../ui/Dialog'
import { calendarsOptions, callsOptions, messagesOptions, useCalled, useRecall } from '../../records/roundQueries'
import { OfferList } from './OfferList'

const STATES: Record<Schema['MessageState'], string> = {
  waiting: 'waits to be sent',
  sent: 'sent',
  delivered: 'delivered, no answer yet',
  answered: 'answered',
  failed: 'not delivered',
  dropped: 'not sent, no longer needed',
  to_call: 'to be called',
  told: 'told by telephone',
}

const KINDS: Record<Schema['MessageKind'], string> = {
  offer: 'The offer',
  reminder: 'The reminder',
  moved: 'Their time is another',
  again: 'Another day is needed',
  called_off: 'Called off',
  late: 'We come later',
}

const ANSWERS: Record<Schema['Answered'], string> = {
  accepted: 'said yes',
  chose: 'chose another time',
  other_time: 'asks for another time',
  declined: 'declined',
}

/** Who is still to be called and what to say; what was written and what became of it. */
export function CustomersPage() {
  const { today, messages_are_sent } = useCompany()
  const plans = useMay('plan')
  const calls = useQuery(callsOptions)
  const messages = useQuery(messagesOptions)
  const [offering, setOffering] = useState(false)
  const error = calls.error ?? messages.error
  if (error)
    return (
      <>
        <h1 className="sr-only">Customers</h1>
        <Failed error={error} onRetry={() => void calls.refetch()} />
      </>
    )
  if (!calls.data || !messages.data)
    return (
      <>
        <h1 className="sr-only">Customers</h1>
        <Loading what="the messages" />
      </>
    )
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Customers</h1>
      <div
        className={clsx(
          'flex h-[38px] shrink-0 items-center gap-4 border-b border-line px-5 narrow:h-auto',
          'narrow:flex-wrap narrow:px-3 narrow:py-1',
        )}
      >
        <p className="text-soft">
          {calls.data.length} to call,{' '}
          {messages.data.filter((one) => one.state === 'delivered' || one.state === 'sent').length} offers without an
          answer.
        </p>
        {!messages_are_sent && (
          <p role="status" className="font-semibold text-oxide">
            Messages are not sent: no mail server is set up.
          </p>
        )}
        <div className="flex-1" />
        <Link to="/rounds" className="text-copper-deep underline underline-offset-2">
          The days
        </Link>
        {plans && (
          <Button className="min-h-8" onClick={() => setOffering(true)}>
            Offer the coming fortnight …
          </Button>
        )}
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-2 narrow:block">
        <section aria-label="To call" className="min-h-0 overflow-y-auto border-r border-line">
          <h2 className="px-5 pt-3 pb-1">To call</h2>
          {calls.data.length === 0 && (
            <p className="px-5 text-soft">Nobody: who was written to has been reached, and has time to answer.</p>
          )}
          <ul>
            {calls.data.map((one) => (
              <Call key={`${one.message_id}-${one.appointment_id}`} one={one} today={today} may={plans} />
            ))}
          </ul>
          {plans && <Calendars />}
        </section>
        <section aria-label="Written" className="min-h-0 overflow-y-auto">
          <h2 className="px-5 pt-3 pb-1">Written</h2>
          {messages.data.length === 0 && (
            <p className="px-5 text-soft">
              Nothing yet. Offer the coming fortnight: each customer gets the time that is planned, what to prepare, and
              a link to answer.
            </p>
          )}
          <ul>
            {messages.data.map((one) => (
              <Written key={one.id} one={one} today={today} may={plans} />
            ))}
          </ul>
        </section>
      </div>
      <Dialog open={offering} onOpenChange={setOffering} title="Offer the coming fortnight" wide>
        <OfferList first={today} last={shifted(today, 14)} onDone={() => setOffering(false)} />
      </Dialog>
    </div>
  )
}

const SAID: [Schema['CalledIn']['said'], string][] = [
  ['accepted', 'They said yes'],
  ['told', 'They know'],
  ['other_time', 'Another time'],
  ['declined', 'No visit'],
]

function Call({ one, today, may }: { one: Schema['ToCallOut']; today: string; may: boolean }) {
  const [open, setOpen] = useState(false)
  const called = useCalled()
  const id = one.message_id
  return (
    <li className="border-b border-line px-5 py-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <strong className="wrap-break-word">{one.site || one.customer}</strong>
        <a href={`tel:${one.phone}`} className="text-copper-deep underline underline-offset-2">
          {one.phone || 'no telephone on record'}
        </a>
        <span className="min-w-0 flex-1 wrap-break-word text-soft">{one.why}</span>
        {one.appointment_id && (
          <Link
            to={`/rounds?visit=${one.appointment_id}${one.on ? `&on=${one.on}` : ''}`}
            className="text-copper-deep underline underline-offset-2"
          >
            {one.on ? shortDate(day(one.on), today) : 'place it'}
          </Link>
        )}
        <Button look="quiet" className="min-h-7" aria-expanded={open} onClick={() => setOpen(!open)}>
          What to say
        </Button>
      </div>
      {open && (
        <ul className="mt-1 list-disc pl-5">
          {one.say.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      {open && may && id !== null && (
        <p className="mt-1 flex flex-wrap gap-2">
          {SAID.filter(([said]) => one.answers.includes(said)).map(([said, words]) => (
            <Button
              key={said}
              className="min-h-8 px-3"
              disabled={called.isPending}
              aria-label={`${one.site || one.customer}: ${words}`}
              onClick={() => called.mutate({ id, said, words: '' })}
            >
              {words}
            </Button>
          ))}
        </p>
      )}
      {called.error && (
        <p role="alert" className="font-semibold text-oxide">
          {called.error.message}
        </p>
      )}
    </li>
  )
}

function Written({ one, today, may }: { one: Schema['MessageOut']; today: string; may: boolean }) {
  const [open, setOpen] = useState(false)
  const recall = useRecall()
  const trouble = one.state === 'failed'
  return (
    <li className="border-b border-line px-5 py-2">
      <div className="flex items-baseline gap-3">
        <strong className="w-44 wrap-break-word">{one.customer}</strong>
        <span className={`min-w-0 flex-1 wrap-break-word ${trouble ? 'font-semibold text-oxide' : 'text-soft'}`}>
          {one.answered ? ANSWERS[one.answered] : STATES[one.state]}
          {one.words && `: ${one.words}`}
          {one.trouble && `: ${one.trouble}`}
        </span>
        <span className="text-soft">{one.on ? `for ${shortDate(day(one.on), today)}` : ''}</span>
        <Button look="quiet" className="min-h-7" aria-expanded={open} onClick={() => setOpen(!open)}>
          {KINDS[one.kind]}
        </Button>
        {may && one.kind === 'offer' && one.state === 'waiting' && (
          <Button
            look="quiet"
            className="min-h-7"
            disabled={recall.isPending}
            aria-label={`Recall the offer to ${one.customer}`}
            onClick={() => recall.mutate(one.id)}
          >
            Recall it
          </Button>
        )}
      </div>
      {recall.error && (
        <p role="alert" className="font-semibold text-oxide">
          {recall.error.message}
        </p>
      )}
      {open && <pre className="mt-1 font-sans break-words whitespace-pre-wrap">{one.body}</pre>}
    </li>
  )
}

/** Addresses to subscribe to. */
function Calendars() {
  const { data } = useQuery(calendarsOptions)
  return (
    <div className="px-5 py-4">
      <h2>Calendars of the rounds</h2>
      <p className="text-soft">
        A calendar program that subscribes shows each technician’s visits. Whoever has the address can read it.
      </p>
      <ul className="mt-1 flex flex-wrap gap-x-5">
        {data?.map((one) => (
          <li key={one.member_id}>
            <a href={one.address} className="text-copper-deep underline underline-offset-2">
              {one.name}
            </a>
          </li>
        ))}
      </ul>
    </div>
  )
}
