import clsx from 'clsx'
import { useId, type ComponentProps, type ReactNode } from 'react'

interface Frame {
  label: ReactNode
  unit?: string | undefined
  /** What is wrong with it, from here or from the server. */
  fault?: string | undefined
  hint?: string | undefined
  /** The server takes nothing without it; said before it is tried. */
  needed?: boolean
}

const BOX = 'h-9 w-full rounded-md border bg-sheet px-2.5 text-ink placeholder:text-soft'

export function Field({ label, unit, fault, hint, needed, className, ...rest }: Frame & ComponentProps<'input'>) {
  const id = useId()
  return (
    <div className={className}>
      <div className="mb-1">
        <label htmlFor={id} className="font-semibold">
          {label}
          {unit && <span className="font-normal text-soft"> {unit}</span>}
        </label>
        {(needed || rest.required) && <Needed />}
      </div>
      <input
        id={id}
        aria-invalid={fault ? true : undefined}
        aria-required={needed || rest.required || undefined}
        aria-describedby={fault || hint ? `${id}-note` : undefined}
        className={clsx(BOX, fault ? 'border-oxide' : 'border-rule')}
        {...rest}
      />
      <Note id={id} fault={fault} hint={hint} />
    </div>
  )
}

export function Choice({ label, fault, hint, needed, className, children, ...rest }: Frame & ComponentProps<'select'>) {
  const id = useId()
  return (
    <div className={className}>
      <div className="mb-1">
        <label htmlFor={id} className="font-semibold">
          {label}
        </label>
        {(needed || rest.required) && <Needed />}
      </div>
      <select
        id={id}
        aria-invalid={fault ? true : undefined}
        aria-required={needed || rest.required || undefined}
        aria-describedby={fault || hint ? `${id}-note` : undefined}
        className={clsx(BOX, fault ? 'border-oxide' : 'border-rule')}
        {...rest}
      >
        {children}
      </select>
      <Note id={id} fault={fault} hint={hint} />
    </div>
  )
}

/** In a word, since nobody has to know what a star means; a machine is told by the field itself. */
const Needed = () => (
  <span aria-hidden className="text-soft">
    {' '}
    needed
  </span>
)

function Note({ id, fault, hint }: { id: string; fault: string | undefined; hint: string | undefined }) {
  if (!fault && !hint) return null
  return (
    <p id={`${id}-note`} className={clsx('mt-1 text-fine', fault ? 'font-semibold text-oxide' : 'text-soft')}>
      {fault ?? hint}
    </p>
  )
}
