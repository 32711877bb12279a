import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { ROLES } from '../../lib/words'
import { useVersion } from '../../records/version'
import { useCompany, useMe } from '../../session/session'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { faultsOf } from './CompanyPage'
import {
  peopleOptions,
  settingsOptions,
  useAddPerson,
  useChangePerson,
  useDropSecondStepOf,
  usePasswordLink,
  useSet,
} from './queries'
import { SettingsShell } from './SettingsShell'

const LICENCES: Schema['Licence'][] = ['gas', 'electrical', 'plumbing']

/** Who signs in, as what, and with which licenses. */
export function PeoplePage() {
  const { data, error, refetch } = useQuery(peopleOptions)
  const [open, setOpen] = useState<Schema['PersonOut'] | 'new' | null>(null)
  return (
    <SettingsShell title="People">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the accounts" />}
      {data && (
        <>
          <div className="flex flex-wrap items-baseline gap-4 pb-2">
            <p className="max-w-[75ch] text-soft">
              A license that ends is not counted from the day after: planning and the guide go by it.
            </p>
            <span className="flex-1" />
            <Button look="main" onClick={() => setOpen('new')}>
              New account
            </Button>
          </div>
          <div tabIndex={0} role="region" aria-label="Accounts" className="relative overflow-x-auto">
            <table className="w-full border-collapse">
              <thead className="text-left text-fine text-soft">
                <tr>
                  <th className="py-1 font-normal">Name</th>
                  <th className="font-normal">Signs in as</th>
                  <th className="font-normal">Role</th>
                  <th className="font-normal">Licenses</th>
                  <th className="font-normal">Last here</th>
                  <th>
                    <span className="sr-only">Change</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {data.map((one) => (
                  <Line key={one.id} one={one} onOpen={() => setOpen(one)} />
                ))}
              </tbody>
            </table>
          </div>
          <Asked />
          {open === 'new' && <NewPerson onDone={() => setOpen(null)} />}
          {open !== null && open !== 'new' && <Person one={open} onDone={() => setOpen(null)} />}
        </>
      )}
    </SettingsShell>
  )
}

/** Of whom a second step is asked; by default everybody chooses. */
function Asked() {
  const { data: ours } = useQuery(settingsOptions)
  const set = useSet()
  if (!ours) return null
  const roles = (set.isPending && set.variables.second_step_roles) || ours.second_step_roles
  const put = (role: Schema['Role'], on: boolean) =>
    set.mutate({ second_step_roles: on ? [...roles, role] : roles.filter((other) => other !== role) })
  return (
    <section className="mt-8 max-w-[75ch] border-t-2 border-line pt-3">
      <h2 className="text-lead font-bold">Second step at signing in</h2>
      <p className="text-soft">
        Whoever wants one sets it up in their account. People of these roles are not let in by a password alone: they
        set it up when they next sign in. A key of a device needs none.
      </p>
      <p className="mt-2 flex flex-wrap gap-x-6 gap-y-1">
        {(Object.entries(ROLES) as [Schema['Role'], string][]).map(([role, words]) => (
          <label key={role} className="flex min-h-9 items-center gap-2">
            <input
              type="checkbox"
              aria-label={`Asked of: ${words}`}
              checked={roles.includes(role)}
              disabled={!ours.may_change}
              onChange={(event) => put(role, event.target.checked)}
              className="size-4 accent-(--color-moss)"
            />
            {words}
          </label>
        ))}
      </p>
      {set.error && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {set.error.message}
        </p>
      )}
    </section>
  )
}

const nameOf = (one: Schema['PersonOut']) => `${one.first_name} ${one.last_name}`.trim() || one.username

function Line({ one, onOpen }: { one: Schema['PersonOut']; onOpen: () => void }) {
  const { today } = useCompany()
  const link = usePasswordLink()
  return (
    <>
      <tr className={`border-t border-line align-baseline ${one.is_active ? '' : 'text-soft'}`}>
        <th scope="row" className="py-2 text-left font-bold">
          {nameOf(one)}
          {!one.is_active && <span className="ml-2 font-normal">at rest</span>}
        </th>
        <td>{one.username}</td>
        <td>
          {ROLES[one.role]}
          {one.goes_out && <span className="text-soft">, goes out</span>}
          {one.is_new && <span className="text-soft">, new</span>}
        </td>
        <td>
          {one.licences.map((licence) => (
            <span
              key={licence.kind}
              className={licence.ends_on && licence.ends_on < today ? 'mr-3 text-oxide line-through' : 'mr-3'}
            >
              {licence.kind}
              {licence.ends_on && <span className="text-soft"> to {dateWords(licence.ends_on, today)}</span>}
            </span>
          ))}
          {one.licences.length === 0 && <span className="text-soft">none</span>}
        </td>
        <td className={one.has_password ? '' : 'font-semibold text-ochre-deep'}>
          {!one.has_password
            ? 'has no password yet'
            : one.last_login
              ? dateWords(one.last_login.slice(0, 10), today)
              : 'never'}
          {one.second_step && <span className="block text-fine text-soft">with a second step</span>}
          {one.second_step_asked && !one.second_step && one.is_active && (
            <span className="block text-fine text-ochre-deep">no second step yet</span>
          )}
        </td>
        <td className="text-right whitespace-nowrap">
          {one.is_active && (
            <Button look="quiet" aria-label={`Password link for ${nameOf(one)}`} onClick={() => link.mutate(one.id)}>
              Password link
            </Button>
          )}
          <Button look="quiet" aria-label={`Change ${nameOf(one)}`} onClick={onOpen}>
            Change
          </Button>
        </td>
      </tr>
      {(link.data || link.error) && (
        <tr>
          <td colSpan={6} className="pb-3">
            {link.error && (
              <p role="alert" className="font-semibold text-oxide">
                {link.error.message}
              </p>
            )}
            {link.data && (
              <div role="status" className="border-l-4 border-copper bg-sheet p-3">
                <p>
                  Hand this to {nameOf(one)}, and to nobody else. It sets a new password once,
                  {` within ${link.data.hours} hours.`}
                </p>
                <input
                  readOnly
                  aria-label={`Link for ${nameOf(one)}`}
                  value={link.data.link}
                  onFocus={(event) => event.target.select()}
                  className="mt-1.5 h-9 w-full rounded-md border border-rule bg-ground px-2.5"
                />
              </div>
            )}
          </td>
        </tr>
      )}
    </>
  )
}

interface Typed {
  username: string
  first_name: string
  last_name: string
  email: string
  role: Schema['Role']
  is_new: boolean
  /** The last day of each that is held, '' where it does not end. */
  licences: Partial<Record<Schema['Licence'], string | undefined>>
}

const sent = ({ licences, ...rest }: Typed) => ({
  ...rest,
  licences: LICENCES.filter((one) => licences[one] !== undefined).map((kind) => ({
    kind,
    ends_on: licences[kind] || null,
  })),
})

function NewPerson({ onDone }: { onDone: () => void }) {
  const add = useAddPerson()
  const [typed, setTyped] = useState<Typed>({
    username: '',
    first_name: '',
    last_name: '',
    email: '',
    role: 'technician',
    is_new: false,
    licences: {},
  })
  return (
    <Dialog
      open
      onOpenChange={onDone}
      title="New account"
      description="It has no password: make its owner a password link afterwards."
    >
      <Form
        typed={typed}
        onType={setTyped}
        error={add.error}
        pending={add.isPending}
        onSave={() => add.mutate(sent(typed), { onSuccess: onDone })}
      />
    </Dialog>
  )
}

function Person({ one, onDone }: { one: Schema['PersonOut']; onDone: () => void }) {
  const { version, onError } = useVersion(one.version)
  const change = useChangePerson(one.id)
  const drop = useDropSecondStepOf(one.id)
  const me = useMe()
  const [typed, setTyped] = useState<Typed>({
    username: one.username,
    first_name: one.first_name,
    last_name: one.last_name,
    email: one.email,
    role: one.role,
    is_new: one.is_new,
    licences: Object.fromEntries(one.licences.map((licence) => [licence.kind, licence.ends_on ?? ''])),
  })
  return (
    <Dialog open onOpenChange={onDone} title={nameOf(one)}>
      <Form
        typed={typed}
        onType={setTyped}
        error={change.error}
        pending={change.isPending}
        onSave={() => change.mutate({ ...sent(typed), version }, { onSuccess: onDone, onError })}
      >
        {one.id !== me.id && (
          <Button
            look="quiet"
            disabled={change.isPending}
            onClick={() => change.mutate({ is_active: !one.is_active }, { onSuccess: onDone })}
          >
            {one.is_active ? 'Let the account rest' : 'Take it into use again'}
          </Button>
        )}
        {one.second_step && (
          <Button look="quiet" disabled={drop.isPending} onClick={() => drop.mutate(undefined, { onSuccess: onDone })}>
            Lost phone: drop the second step
          </Button>
        )}
      </Form>
    </Dialog>
  )
}

interface FormProps {
  typed: Typed
  onType: (typed: Typed) => void
  error: Error | null
  pending: boolean
  onSave: () => void
  children?: React.ReactNode
}

function Form({ typed, onType, error, pending, onSave, children }: FormProps) {
  const faults = faultsOf(error)
  const put = (part: Partial<Typed>) => onType({ ...typed, ...part })
  return (
    <form
      className="mt-4 grid grid-cols-2 gap-x-4 gap-y-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault()
        onSave()
      }}
    >
      <Field
        label="First name"
        needed
        value={typed.first_name}
        fault={faults.first_name && 'Nobody is without a name.'}
        onChange={(event) => put({ first_name: event.target.value })}
      />
      <Field label="Last name" value={typed.last_name} onChange={(event) => put({ last_name: event.target.value })} />
      <Field
        label="Signs in as"
        needed
        value={typed.username}
        autoCapitalize="none"
        fault={
          faults.username &&
          (faults.username === 'taken'
            ? 'Somebody has this name already.'
            : faults.username.startsWith('is now')
              ? faults.username
              : 'One word: letters, digits, . - _ @')
        }
        onChange={(event) => put({ username: event.target.value })}
      />
      <Field
        label="E-mail"
        type="email"
        value={typed.email}
        hint="for a forgotten password"
        fault={faults.email}
        onChange={(event) => put({ email: event.target.value })}
      />
      <Choice label="Role" value={typed.role} onChange={(event) => put({ role: event.target.value as Schema['Role'] })}>
        {Object.entries(ROLES).map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </Choice>
      <fieldset>
        <legend className="mb-1 font-semibold">
          Licenses <span className="font-normal text-soft">and their last day, if they end</span>
        </legend>
        {LICENCES.map((kind) => {
          const held = typed.licences[kind] !== undefined
          return (
            <div key={kind} className="flex h-9 items-center gap-2">
              <label className="flex w-24 items-center gap-2">
                <input
                  type="checkbox"
                  checked={held}
                  onChange={(event) => {
                    const licences = { ...typed.licences, [kind]: event.target.checked ? '' : undefined }
                    put({ licences })
                  }}
                  className="size-4 accent-(--color-moss)"
                />
                {kind}
              </label>
              {held && (
                <input
                  type="date"
                  aria-label={`Last day of the ${kind} license`}
                  value={typed.licences[kind] ?? ''}
                  onChange={(event) => put({ licences: { ...typed.licences, [kind]: event.target.value } })}
                  className="h-8 rounded-md border border-rule bg-sheet px-2"
                />
              )}
            </div>
          )
        })}
      </fieldset>
      {typed.role === 'technician' && (
        <label className="col-span-2 flex min-h-9 items-center gap-2">
          <input
            type="checkbox"
            checked={typed.is_new}
            onChange={(event) => put({ is_new: event.target.checked })}
            className="size-4 accent-(--color-moss)"
          />
          New here: works under supervision until signed off
        </label>
      )}
      {error && (
        <p role="alert" className="col-span-2 font-semibold text-oxide">
          {error.message}
        </p>
      )}
      <div className="col-span-2 flex items-center gap-3">
        <Button look="main" type="submit" disabled={pending}>
          Save
        </Button>
        {children}
      </div>
    </form>
  )
}
