import { useId, useState, type ReactNode } from 'react'

import { clock, minutesOf } from '../../lib/clock'
import { numberOf } from '../../lib/units'
import { useTyped } from '../../ui/typed'

export interface Control<T> {
  label: string
  value: T
  /** What follows from it, in a few words. */
  hint?: ReactNode
  unit?: string
  fault?: string | undefined
  disabled?: boolean
  onSet: (value: T) => void
}

const BOX = 'h-9 rounded-md border bg-sheet px-2.5 disabled:border-line disabled:bg-ground disabled:text-ink'
const edge = (fault: unknown) => (fault ? 'border-oxide' : 'border-rule')

/** A question to the left, its answer to the right, what follows from it below. */
function Line({ id, label, hint, fault, children }: Omit<Frame, 'disabled'>) {
  return (
    <div className="grid grid-cols-[minmax(0,11rem)_minmax(0,1fr)] items-start gap-x-4 border-t border-line py-2.5">
      <label htmlFor={id} className="pt-2 font-semibold">
        {label}
      </label>
      <div>
        {children}
        {(fault || hint) && (
          <p
            id={`${id}-note`}
            className={fault ? 'mt-1 text-fine font-semibold text-oxide' : 'mt-1 text-fine text-soft'}
          >
            {fault ?? hint}
          </p>
        )}
      </div>
    </div>
  )
}

interface Frame {
  id: string
  label: string
  hint?: ReactNode
  fault?: string | undefined
  disabled?: boolean | undefined
  children: ReactNode
}

export function TextSetting({ wide = true, ...one }: Control<string> & { wide?: boolean; type?: string }) {
  const id = useId()
  const typed = useTyped(one.value, one.fault, one.onSet)
  return (
    <Line id={id} {...one}>
      <input
        id={id}
        type={one.type ?? 'text'}
        disabled={one.disabled}
        aria-invalid={one.fault ? true : undefined}
        aria-describedby={one.fault || one.hint ? `${id}-note` : undefined}
        className={`${BOX} ${wide ? 'w-full' : 'w-48'} ${edge(one.fault)}`}
        {...typed}
      />
    </Line>
  )
}

/** A number with its unit. `scale`: what is shown is so many times what is kept. */
export function NumberSetting({
  scale = 1,
  decimals = 0,
  ...one
}: Control<number> & { scale?: number; decimals?: number }) {
  const id = useId()
  const [wrong, setWrong] = useState(false)
  const typed = useTyped(String(Number((one.value * scale).toFixed(decimals))), wrong || one.fault, (text) => {
    const figure = numberOf(text)
    const is = figure !== null && Number.isFinite(figure)
    setWrong(!is)
    if (is) one.onSet(Number((figure / scale).toPrecision(6)))
  })
  const fault = wrong ? 'This is not a number.' : one.fault
  return (
    <Line id={id} {...one} fault={fault}>
      <div className="flex items-center gap-2">
        <input
          id={id}
          inputMode="decimal"
          disabled={one.disabled}
          aria-invalid={fault ? true : undefined}
          aria-describedby={fault || one.hint ? `${id}-note` : undefined}
          className={`${BOX} w-24 shrink-0 text-right ${edge(fault)}`}
          {...typed}
        />
        {one.unit && <span className="leading-tight text-soft">{one.unit}</span>}
      </div>
    </Line>
  )
}

export function ChoiceSetting({ options, ...one }: Control<string> & { options: [string, string][] }) {
  const id = useId()
  return (
    <Line id={id} {...one}>
      <select
        id={id}
        value={one.value}
        disabled={one.disabled}
        aria-describedby={one.fault || one.hint ? `${id}-note` : undefined}
        onChange={(event) => one.onSet(event.target.value)}
        className={`${BOX} max-w-full ${edge(one.fault)}`}
      >
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </Line>
  )
}

/** A time of the day as it is written: 7:30, 19, 7:30 pm. */
export function TimeBox({
  label,
  value,
  disabled,
  fault,
  onSet,
}: Pick<Control<number>, 'label' | 'value' | 'disabled' | 'fault' | 'onSet'>) {
  const [wrong, setWrong] = useState(false)
  const typed = useTyped(clock(value), wrong || fault, (text) => {
    const minutes = minutesOf(text)
    setWrong(minutes === null)
    if (minutes !== null) onSet(minutes)
  })
  return (
    <input
      aria-label={label}
      disabled={disabled}
      aria-invalid={wrong || fault ? true : undefined}
      title={wrong ? 'A time is written like 7:30.' : fault}
      className={`${BOX} w-[5.5rem] text-right ${edge(wrong || fault)}`}
      {...typed}
    />
  )
}

/** Two times with a word between them, as one setting. */
export function TimesSetting({ label, hint, fault, children }: Omit<Frame, 'id' | 'disabled'>) {
  const id = useId()
  return (
    <div role="group" aria-labelledby={id}>
      <div className="grid grid-cols-[minmax(0,11rem)_minmax(0,1fr)] items-start gap-x-4 border-t border-line py-2.5">
        <span id={id} className="pt-2 font-semibold">
          {label}
        </span>
        <div>
          <div className="flex items-center gap-2">{children}</div>
          {(fault || hint) && (
            <p className={fault ? 'mt-1 text-fine font-semibold text-oxide' : 'mt-1 text-fine text-soft'}>
              {fault ?? hint}
            </p>
          )}
        </div>
      </div>
    </div>
  )
}

export function Group({ title, children, about }: { title: string; about?: ReactNode; children: ReactNode }) {
  return (
    <section className="mb-7">
      <h2 className="pb-1 text-lead font-bold">{title}</h2>
      {about && <p className="max-w-[70ch] pb-2 text-soft">{about}</p>}
      {children}
    </section>
  )
}
