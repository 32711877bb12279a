import { useState } from 'react'

import type { Schema } from '../../api/client'
import { dateWords, dayIn } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { faultsOf } from './CompanyPage'
import { useAddPasskey, useDropPasskey } from './queries'

const can = () => typeof window.PublicKeyCredential?.parseCreationOptionsFromJSON === 'function'

/** Keys of devices that let one in without a password: by finger, face or PIN. */
export function Passkeys({ passkeys, offered }: { passkeys: Schema['PasskeyOut'][]; offered: boolean }) {
  const { today, timezone } = useCompany()
  const add = useAddPasskey()
  const drop = useDropPasskey()
  const [typed, setTyped] = useState({ name: '', now: '' })
  const faults = faultsOf(add.error)
  const day = (at: string) => dateWords(dayIn(timezone, at), today)
  return (
    <>
      <p className="text-soft">
        A key on your phone or computer opens by finger, face or PIN, and lets you in without the password and the
        second step. No other page can ask for it.
      </p>
      {passkeys.length > 0 && (
        <ul className="mt-3 border-b border-line">
          {passkeys.map((one) => (
            <li key={one.id} className="flex min-h-11 items-baseline gap-3 border-t border-line py-2">
              <span className="flex-1">
                <span className="font-semibold">{one.name}</span>
                <span className="block text-fine text-soft">
                  since {day(one.made_at)}
                  {one.used_at && `, last used ${day(one.used_at)}`}
                </span>
              </span>
              <Button look="quiet" disabled={drop.isPending} onClick={() => drop.mutate(one.id)}>
                Take away<span className="sr-only"> {one.name}</span>
              </Button>
            </li>
          ))}
        </ul>
      )}
      {offered && can() ? (
        <form
          className="mt-3 flex flex-wrap items-end gap-3"
          noValidate
          onSubmit={(event) => {
            event.preventDefault()
            add.mutate(typed, { onSuccess: () => setTyped({ name: '', now: '' }) })
          }}
        >
          <Field
            label="What you call it"
            className="w-48"
            maxLength={60}
            placeholder="my phone"
            value={typed.name}
            fault={faults.name}
            onChange={(event) => setTyped({ ...typed, name: event.target.value })}
          />
          <Field
            label="Password"
            type="password"
            autoComplete="current-password"
            className="w-48"
            value={typed.now}
            fault={faults.now && 'That is not your password.'}
            onChange={(event) => setTyped({ ...typed, now: event.target.value })}
          />
          <Button type="submit" disabled={add.isPending || !typed.name.trim() || !typed.now}>
            Add this device
          </Button>
        </form>
      ) : (
        <p className="mt-3 text-soft">
          {offered
            ? 'This browser keeps no keys.'
            : 'A key is for a name: open Aquifer by its name, not by an address.'}
        </p>
      )}
      {faults[''] && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {faults['']}
        </p>
      )}
    </>
  )
}
