import clsx from 'clsx'
import { Popover } from 'radix-ui'

import { GLOSSARY, type Term as Name } from '../lib/glossary'
import { phrase } from '../lib/phrases'
import { useCompany } from '../session/session'

/** A term of the trade with its explanation one touch away. */
export function Term({ name, children }: { name: Name; children?: string }) {
  const { units } = useCompany()
  return (
    <Popover.Root>
      <Popover.Trigger
        className={clsx(
          'inline-flex min-h-6 cursor-help items-center border-b border-dotted border-current',
          'text-inherit hover:border-solid',
        )}
      >
        {children ?? name}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={12}
          aria-label={name}
          className="z-50 max-w-80 rounded-md border border-line bg-sheet p-3 text-body font-normal shadow-lg"
        >
          <p className="font-bold first-letter:uppercase">{name}</p>
          <p className="mt-1">{phrase(GLOSSARY[name], units)}</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
