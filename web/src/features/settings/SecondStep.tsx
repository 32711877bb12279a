import { useState } from 'react'

import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { faultsOf } from './CompanyPage'
import { useBeginSecondStep, useConfirmSecondStep, useDropSecondStep, useNewCodes } from './queries'

/** A code of the telephone besides the password: set up, or dropped again. */
export function SecondStep({ on, asked, codesLeft }: { on: boolean; asked: boolean; codesLeft: number }) {
  const begin = useBeginSecondStep()
  const confirm = useConfirmSecondStep()
  const [code, setCode] = useState('')
  if (confirm.data) return <Codes codes={confirm.data.codes} onDone={confirm.reset} />
  if (on) return <Standing asked={asked} codesLeft={codesLeft} />
  const faults = faultsOf(confirm.error)
  return (
    <>
      <p className="text-soft">
        Besides the password, signing in can ask for six digits that an authenticator on your phone shows. A password
        that leaked then lets nobody in.
      </p>
      {asked && (
        <p className="mt-2 font-semibold text-ochre-deep">
          The company asks it of your role: if not now, you set it up when you next sign in.
        </p>
      )}
      {!begin.data && (
        <Button className="mt-3" disabled={begin.isPending} onClick={() => begin.mutate()}>
          Set it up
        </Button>
      )}
      {begin.error && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {begin.error.message}
        </p>
      )}
      {begin.data && (
        <form
          className="mt-3 grid grid-cols-[auto_minmax(0,1fr)] gap-5"
          noValidate
          onSubmit={(event) => {
            event.preventDefault()
            confirm.mutate(code)
          }}
        >
          <img
            src={`data:image/svg+xml,${encodeURIComponent(begin.data.picture)}`}
            alt="To be scanned by the authenticator"
            className="size-44 border border-line bg-white"
          />
          <div className="space-y-3">
            <p>Scan this with the authenticator, then type the six digits that it shows.</p>
            <Field
              label="Six digits"
              inputMode="numeric"
              autoComplete="one-time-code"
              value={code}
              fault={faults.code ?? faults['']}
              onChange={(event) => setCode(event.target.value)}
            />
            <Button look="main" type="submit" disabled={confirm.isPending || code.trim().length < 6}>
              Ask for it from now on
            </Button>
            <details className="text-fine text-soft">
              <summary>It cannot scan</summary>
              <p className="mt-1 break-all select-all">{begin.data.address}</p>
            </details>
          </div>
        </form>
      )}
    </>
  )
}

function Codes({ codes, onDone }: { codes: string[]; onDone: () => void }) {
  return (
    <div role="status" className="border-l-4 border-copper bg-sheet p-4">
      <p className="max-w-[60ch]">
        Write these down and keep them where your phone is not. Each lets you in once if it is lost; they are not shown
        again.
      </p>
      <ul className="mt-3 grid grid-cols-2 gap-x-6 gap-y-1 text-lead tabular-nums">
        {codes.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
      <Button className="mt-4" look="main" onClick={onDone}>
        I have written them down
      </Button>
    </div>
  )
}

function Standing({ asked, codesLeft }: { asked: boolean; codesLeft: number }) {
  const drop = useDropSecondStep()
  const renew = useNewCodes()
  const [now, setNow] = useState('')
  if (renew.data) return <Codes codes={renew.data.codes} onDone={renew.reset} />
  const error = drop.error ?? renew.error
  const faults = faultsOf(error)
  const busy = drop.isPending || renew.isPending
  return (
    <form
      className="space-y-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault()
        drop.reset()
        renew.mutate(now, { onSuccess: () => setNow('') })
      }}
    >
      <p>
        It is asked for.{' '}
        <span className={codesLeft < 3 ? 'font-semibold text-ochre-deep' : 'text-soft'}>
          {codesLeft === 1 ? '1 code' : `${codesLeft} codes`} on paper left
          {codesLeft < 3 && ': write down new ones'}.
        </span>
        {asked && <span className="block text-soft">The company asks it of your role.</span>}
      </p>
      <div className="flex items-end gap-3">
        <Field
          label="Password"
          type="password"
          autoComplete="current-password"
          className="w-64"
          value={now}
          fault={faults.now && 'That is not your password.'}
          onChange={(event) => setNow(event.target.value)}
        />
        <Button type="submit" disabled={busy || !now}>
          New codes
        </Button>
        {!asked && (
          <Button
            look="quiet"
            disabled={busy || !now}
            onClick={() => {
              renew.reset()
              drop.mutate(now, { onSuccess: () => setNow('') })
            }}
          >
            Drop it
          </Button>
        )}
      </div>
      {error && !faults.now && (
        <p role="alert" className="font-semibold text-oxide">
          {error.message}
        </p>
      )}
    </form>
  )
}
