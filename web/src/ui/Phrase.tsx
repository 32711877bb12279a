import clsx from 'clsx'
import { Select } from 'radix-ui'

import { nonce } from '../lib/nonce'
import { Check } from 'lucide-react'

interface Props<T extends string> {
  /** What the choice is about, for those who cannot see the sentence around it. */
  label: string
  value: T
  options: { value: T; label: string }[]
  onChange: (value: T) => void
}

/** A word of a sentence that can be changed. Radix keeps '' for "nothing chosen", so it travels as a space. */
export function Phrase<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <Select.Root value={value || ' '} onValueChange={(next) => onChange(next.trim() as T)}>
      <Select.Trigger
        aria-label={label}
        className={clsx(
          'mx-1 border-b border-dotted border-ink px-0.5 pb-px font-bold text-ink',
          'hover:border-solid hover:border-copper hover:text-copper-deep',
        )}
      >
        <Select.Value />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={6}
          className="z-50 max-h-96 overflow-auto rounded-md border border-line bg-sheet p-1 shadow-lg"
        >
          <Select.Viewport nonce={nonce}>
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value || ' '}
                className={clsx(
                  'flex min-h-8 items-center gap-2 rounded px-2 pr-6',
                  'data-[highlighted]:bg-ground data-[highlighted]:outline-2 data-[highlighted]:-outline-offset-2',
                  'data-[highlighted]:outline-water data-[state=checked]:font-bold',
                )}
              >
                <span className="w-4">
                  <Select.ItemIndicator>
                    <Check size={14} aria-hidden />
                  </Select.ItemIndicator>
                </span>
                <Select.ItemText>{option.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  )
}
