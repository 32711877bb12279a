import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords, dayIn, isoDay, addDays } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { faultsOf } from './CompanyPage'
import {
  hooksOptions,
  peopleOptions,
  tokensOptions,
  useAddHook,
  useAgain,
  useChangeHook,
  useMakeToken,
  useRevoke,
  useTryHook,
} from './queries'
import { SettingsShell } from './SettingsShell'

const KINDS: Record<Schema['HookEvent'], string> = {
  'visit.recorded': 'a visit was recorded',
  'appointment.promised': 'a time was promised',
  'quote.accepted': 'a quote was accepted',
  'open_issue.raised': 'an open issue was raised',
  tried: 'tried by hand',
}
const HEARD = (Object.keys(KINDS) as Schema['HookEvent'][]).filter((one) => one !== 'tried')
const STATES: Record<Schema['DeliveryState'], string> = {
  waiting: 'waits',
  taken: 'taken',
  failed: 'given up',
}

/** Other programs: what they may ask with a token, and where they are told what happens. */
export function ProgramsPage() {
  const tokens = useQuery(tokensOptions)
  const hooks = useQuery(hooksOptions)
  const people = useQuery(peopleOptions)
  const failed = tokens.error ?? hooks.error ?? people.error
  return (
    <SettingsShell title="Other programs">
      {failed && <Failed error={failed} onRetry={() => void tokens.refetch()} />}
      {!failed && (!tokens.data || !hooks.data || !people.data) && <Loading what="the programs" />}
      {tokens.data && hooks.data && people.data && (
        <div className="grid gap-x-12 lg:grid-cols-2">
          <Tokens tokens={tokens.data} people={people.data} />
          <Hooks hooks={hooks.data} />
        </div>
      )}
    </SettingsShell>
  )
}

/** What is told once: to be copied now. */
function Once({ label, words, about }: { label: string; words: string; about: string }) {
  return (
    <div role="status" className="mt-3 border-l-4 border-copper bg-sheet p-3">
      <p>{about}</p>
      <input
        readOnly
        aria-label={label}
        value={words}
        onFocus={(event) => event.target.select()}
        className="mt-1.5 h-9 w-full rounded-md border border-rule bg-ground px-2.5"
      />
    </div>
  )
}

function Tokens({ tokens, people }: { tokens: Schema['TokenOut'][]; people: Schema['PersonOut'][] }) {
  const { today } = useCompany()
  const make = useMakeToken()
  const revoke = useRevoke()
  const faults = faultsOf(make.error)
  const blank = { name: '', owner: '', write: false, until: isoDay(addDays(today, 180)) }
  const [typed, setTyped] = useState(blank)
  const put = (part: Partial<typeof blank>) => setTyped((before) => ({ ...before, ...part }))
  return (
    <section>
      <h2 className="text-lead font-bold">Tokens</h2>
      <p className="pb-2 text-soft">
        A program asks in somebody’s name and may what their role may, but never touches accounts. What there is to ask
        is under{' '}
        <Link to="/settings/programs/interface" className="text-copper-deep underline underline-offset-2">
          the interface
        </Link>
        .
      </p>
      <ul>
        {tokens.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 border-t border-line py-2">
            <span className="min-w-0 flex-1">
              <strong>{one.name}</strong> <span className="text-soft">{one.begins}…</span>
              <span className={one.expires_on < today ? 'block font-semibold text-oxide' : 'block text-soft'}>
                {one.may_write ? 'reads and writes' : 'reads'} as {one.owner},{' '}
                {one.expires_on < today ? 'over since' : 'until'} {dateWords(one.expires_on, today)},{' '}
                {one.used_on ? `last used ${dateWords(one.used_on, today)}` : 'never used'}
              </span>
            </span>
            <Button look="quiet" aria-label={`Revoke ${one.name}`} onClick={() => revoke.mutate(one.id)}>
              Revoke
            </Button>
          </li>
        ))}
        {tokens.length === 0 && <li className="border-t border-line py-2 text-soft">None yet.</li>}
      </ul>
      <form
        className="mt-3 grid grid-cols-2 gap-x-3 gap-y-2 border-t-2 border-line pt-3"
        noValidate
        onSubmit={(event) => {
          event.preventDefault()
          make.mutate(
            { name: typed.name, owner_id: Number(typed.owner), may_write: typed.write, expires_on: typed.until },
            { onSuccess: () => setTyped(blank) },
          )
        }}
      >
        <Field
          label="Which program"
          value={typed.name}
          maxLength={60}
          fault={faults.name && 'Say which.'}
          onChange={(event) => put({ name: event.target.value })}
        />
        <Choice
          label="Asks as"
          value={typed.owner}
          fault={faults.owner_id && 'Choose somebody.'}
          onChange={(event) => put({ owner: event.target.value })}
        >
          <option value="">Choose …</option>
          {people
            .filter((one) => one.is_active)
            .map((one) => (
              <option key={one.id} value={one.id}>
                {`${one.first_name} ${one.last_name}`.trim()}, {one.role}
              </option>
            ))}
        </Choice>
        <Field
          label="Until"
          type="date"
          value={typed.until}
          fault={faults.expires_on}
          onChange={(event) => put({ until: event.target.value })}
        />
        <Choice
          label="May"
          value={typed.write ? 'write' : 'read'}
          onChange={(event) => put({ write: event.target.value === 'write' })}
        >
          <option value="read">read only</option>
          <option value="write">read and write</option>
        </Choice>
        <Button type="submit" className="col-span-2" disabled={make.isPending}>
          Make a token
        </Button>
      </form>
      {make.data && (
        <Once
          label={`Token of ${make.data.name}`}
          words={make.data.words}
          about="Copy it into the program now: it is shown this once."
        />
      )}
      {(faults[''] ?? revoke.error?.message) && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {faults[''] ?? revoke.error?.message}
        </p>
      )}
    </section>
  )
}

function Hooks({ hooks }: { hooks: Schema['HookOut'][] }) {
  const add = useAddHook()
  const faults = faultsOf(add.error)
  const [address, setAddress] = useState('')
  const [kinds, setKinds] = useState<Schema['HookEvent'][]>(HEARD)
  return (
    <section>
      <h2 className="text-lead font-bold">Told what happens</h2>
      <p className="pb-2 text-soft">
        Each event goes to these addresses within a minute, signed as Standard Webhooks 1.0 says, and is tried again for
        some days until it is taken.
      </p>
      <ul>
        {hooks.map((one) => (
          <Told key={one.id} one={one} />
        ))}
        {hooks.length === 0 && <li className="border-t border-line py-2 text-soft">Nobody is told yet.</li>}
      </ul>
      <form
        className="mt-3 space-y-2 border-t-2 border-line pt-3"
        noValidate
        onSubmit={(event) => {
          event.preventDefault()
          add.mutate({ address, kinds }, { onSuccess: () => setAddress('') })
        }}
      >
        <Field
          label="Address"
          type="url"
          placeholder="https://"
          value={address}
          fault={faults.address}
          onChange={(event) => setAddress(event.target.value)}
        />
        <fieldset>
          <legend className="mb-1 font-semibold">Is told when</legend>
          {HEARD.map((kind) => (
            <label key={kind} className="mr-4 inline-flex h-8 items-center gap-2">
              <input
                type="checkbox"
                checked={kinds.includes(kind)}
                onChange={(event) =>
                  setKinds(event.target.checked ? [...kinds, kind] : kinds.filter((other) => other !== kind))
                }
                className="size-4 accent-(--color-moss)"
              />
              {KINDS[kind]}
            </label>
          ))}
        </fieldset>
        {(faults.kinds ?? faults['']) && (
          <p role="alert" className="font-semibold text-oxide">
            {faults.kinds ? 'Tick at least one.' : faults['']}
          </p>
        )}
        <Button type="submit" disabled={add.isPending}>
          Tell this address
        </Button>
      </form>
      {add.data && (
        <Once
          label={`Secret of ${add.data.address}`}
          words={add.data.secret}
          about="By this secret the other side checks what it is sent. It is shown this once."
        />
      )}
    </section>
  )
}

function Told({ one }: { one: Schema['HookOut'] }) {
  const { today, timezone } = useCompany()
  const change = useChangeHook(one.id)
  const attempt = useTryHook(one.id)
  const again = useAgain()
  const error = change.error ?? attempt.error ?? again.error
  return (
    <li className="border-t border-line py-2">
      <p className="flex items-baseline gap-2">
        <strong className={`min-w-0 flex-1 wrap-break-word ${one.active ? '' : 'text-soft'}`} title={one.address}>
          {one.address}
        </strong>
        <Button look="quiet" disabled={attempt.isPending} onClick={() => attempt.mutate()}>
          Try it
        </Button>
        <Button look="quiet" onClick={() => change.mutate({ active: !one.active, version: one.version })}>
          {one.active ? 'Rest' : 'Go on'}
        </Button>
      </p>
      <p className="text-soft">
        {one.active ? 'when' : 'at rest; was told when'} {one.kinds.map((kind) => KINDS[kind]).join(', ')}
      </p>
      <ul className="mt-1 text-fine">
        {one.deliveries.slice(0, 5).map((event) => (
          <li key={event.id} className={event.state === 'taken' ? 'text-soft' : 'font-semibold text-ochre-deep'}>
            {dateWords(dayIn(timezone, event.happened_at), today)}, {KINDS[event.kind]}: {STATES[event.state]}
            {event.trouble && `, ${event.trouble}`}
            {event.state !== 'taken' && (
              <Button look="quiet" className="-my-2 text-fine" onClick={() => again.mutate(event.id)}>
                Send it again
              </Button>
            )}
          </li>
        ))}
      </ul>
      {error && (
        <p role="alert" className="font-semibold text-oxide">
          {error.message}
        </p>
      )}
    </li>
  )
}
