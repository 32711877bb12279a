import { useState } from 'react'

import { useMe } from '../../session/session'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { faultsOf } from './CompanyPage'
import { useOwnPassword } from './queries'

/** One's own password. */
export function AccountPage() {
  const me = useMe()
  const change = useOwnPassword()
  const [typed, setTyped] = useState({ now: '', new: '' })
  const faults = faultsOf(change.error)
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[420px] px-5 py-8">
        <h1 className="text-title font-bold">{me.name}</h1>
        <p className="mt-1 text-soft">You sign in as {me.username}.</p>
        <form
          className="mt-5 space-y-4"
          noValidate
          onSubmit={(event) => {
            event.preventDefault()
            change.mutate(typed, { onSuccess: () => setTyped({ now: '', new: '' }) })
          }}
        >
          <input type="hidden" autoComplete="username" value={me.username} readOnly />
          <Field
            label="Password you have now"
            type="password"
            autoComplete="current-password"
            value={typed.now}
            fault={faults.now && 'That is not the password you have now.'}
            onChange={(event) => setTyped({ ...typed, now: event.target.value })}
          />
          <Field
            label="New password"
            type="password"
            autoComplete="new-password"
            value={typed.new}
            hint="at least ten characters; four unrelated words are good"
            fault={faults.new}
            onChange={(event) => setTyped({ ...typed, new: event.target.value })}
          />
          <Button look="main" type="submit" disabled={change.isPending || !typed.now || !typed.new}>
            Change it
          </Button>
          {change.isSuccess && (
            <p role="status" className="border-l-4 border-moss pl-3">
              Changed. On other devices you sign in anew.
            </p>
          )}
          {faults[''] && (
            <p role="alert" className="font-semibold text-oxide">
              {faults['']}
            </p>
          )}
        </form>
      </div>
    </div>
  )
}
