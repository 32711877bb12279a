import clsx from 'clsx'
import { Dialog as Radix } from 'radix-ui'
import { useRef, type ReactNode } from 'react'

interface Props {
  open: boolean
  onOpenChange: (open: boolean) => void
  title: string
  description?: string
  wide?: boolean
  children: ReactNode
}

export function Dialog({ open, onOpenChange, title, description, wide = false, children }: Props) {
  // What opened it has the focus again when it closes: it has no trigger of its own to go back to.
  const opener = useRef<Element | null>(null)
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-shade/45" />
        <Radix.Content
          {...(description ? {} : { 'aria-describedby': undefined })}
          onOpenAutoFocus={() => {
            opener.current = document.activeElement
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault()
            if (opener.current instanceof HTMLElement && opener.current.isConnected) opener.current.focus()
          }}
          className={clsx(
            'fixed top-[6vh] left-1/2 z-50 max-h-[88vh] w-[94vw] -translate-x-1/2 overflow-auto',
            'rounded-lg border border-line bg-ground p-5 shadow-xl',
            wide ? 'max-w-3xl' : 'max-w-xl',
            // It hangs beside the page, not in it: over a visit it is as dark as the visit.
            document.querySelector('.basement') && 'dark',
          )}
        >
          <Radix.Title className="text-title">{title}</Radix.Title>
          {description && <Radix.Description className="mt-1 text-soft">{description}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
