import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useMe } from '../../session/session'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { faultsOf } from './CompanyPage'
import { Passkeys } from './Passkeys'
import { accountOptions, useOwnPassword } from './queries'
import { SecondStep } from './SecondStep'
import { Sessions } from './Sessions'

/** One's own account: the password, the second step, and where one is signed in. */
export function AccountPage() {
  const me = useMe()
  const { data } = useQuery(accountOptions)
  const change = useOwnPassword()
  const [typed, setTyped] = useState({ now: '', new: '' })
  const faults = faultsOf(change.error)
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[560px] px-5 py-8">
        <h1 className="text-title font-bold">{me.name}</h1>
        <p className="mt-1 text-soft">You sign in as {me.username}.</p>
        <h2 className="mt-6 text-lead font-bold">Password</h2>
        <form
          className="mt-3 max-w-[420px] space-y-4"
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
        {data && (
          <>
            <h2 className="mt-8 mb-2 text-lead font-bold">Second step</h2>
            <SecondStep on={data.second_step} asked={data.second_step_asked} codesLeft={data.codes_left} />
            <h2 className="mt-8 mb-2 text-lead font-bold">Keys in place of the password</h2>
            <Passkeys passkeys={data.passkeys} offered={data.passkeys_offered} />
            <h2 className="mt-8 mb-2 text-lead font-bold">Where you are signed in</h2>
            <Sessions sessions={data.sessions} />
          </>
        )}
      </div>
    </div>
  )
}
