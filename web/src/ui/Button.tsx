import clsx from 'clsx'
import { Slot } from 'radix-ui'
import type { ComponentProps } from 'react'

interface Props extends ComponentProps<'button'> {
  /** `main` for the one thing to do here, `plain` for the others, `quiet` inside text and bars. */
  look?: 'main' | 'plain' | 'quiet'
  /** Hands the look to the only child, a link for one. */
  asChild?: boolean
}

export function Button({ look = 'plain', asChild = false, className, type = 'button', ...rest }: Props) {
  const Element = asChild ? Slot.Root : 'button'
  return (
    <Element
      type={asChild ? undefined : type}
      className={clsx(
        'inline-flex min-h-9 items-center justify-center gap-2 rounded-md px-4 font-semibold ' +
          'whitespace-nowrap disabled:opacity-55',
        look === 'main' && 'bg-copper text-white hover:bg-copper-deep',
        look === 'plain' && 'border border-copper bg-sheet text-copper-deep hover:bg-ground',
        look === 'quiet' && 'px-2 text-copper-deep underline-offset-4 hover:underline',
        className,
      )}
      {...rest}
    />
  )
}
