import clsx from 'clsx'
import { RadioGroup } from 'radix-ui'
import type { ReactNode } from 'react'

interface Option<T extends string> {
  value: T
  label: string
  picture?: ReactNode
}

interface Props<T extends string> {
  label: string
  value: T | null | undefined
  options: Option<T>[]
  onChange: (value: T) => void
  /** Rows of one column for outcomes that need a line; else as many columns as fit a thumb. */
  columns: 1 | 2 | 3 | 4 | 5
}

const COLUMNS = { 1: 'grid-cols-1', 2: 'grid-cols-2', 3: 'grid-cols-3', 4: 'grid-cols-4', 5: 'grid-cols-5' }

/** One choice by looking and comparing; big enough for gloves. */
export function Grades<T extends string>({ label, value, options, onChange, columns }: Props<T>) {
  return (
    <RadioGroup.Root
      aria-label={label}
      value={value ?? ''}
      onValueChange={(next) => onChange(next as T)}
      className={clsx('grid gap-2', COLUMNS[columns])}
    >
      {options.map((option) => (
        <RadioGroup.Item
          key={option.value}
          value={option.value}
          className={clsx(
            'flex min-h-12 items-center justify-center gap-3 rounded-lg border-2 bg-ground px-1 py-1.5 leading-tight',
            columns === 1 ? 'flex-row justify-start px-3 text-left' : 'flex-col gap-1 text-center',
            value === option.value ? 'border-copper font-bold text-copper' : 'border-line text-ink',
          )}
        >
          {option.picture}
          <span className={columns === 5 ? 'text-fine' : 'text-body'}>{option.label}</span>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  )
}
