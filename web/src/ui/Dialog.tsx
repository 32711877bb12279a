import { Dialog as Radix } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
  open: boolean
  onOpenChange: (open: boolean) => void
  title: string
  description?: string
  wide?: boolean
  children: ReactNode
}

export function Dialog({ open, onOpenChange, title, description, wide = false, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Radix.Content
          {...(description ? {} : { 'aria-describedby': undefined })}
          className={`fixed top-[6vh] left-1/2 z-50 max-h-[88vh] w-[94vw] -translate-x-1/2 overflow-auto rounded-lg border border-line bg-ground p-5 shadow-xl ${wide ? 'max-w-3xl' : 'max-w-xl'}`}
        >
          <Radix.Title className="text-title">{title}</Radix.Title>
          {description && <Radix.Description className="mt-1 text-soft">{description}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
