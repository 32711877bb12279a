import clsx from 'clsx'
import type { ReactNode } from 'react'

import { UnsentSign } from '../../device/UnsentSign'
import { PageTitle } from '../../ui/PageTitle'
import { Hazard } from '../../ui/States'

/** The phone-first frame of a visit: a head, what is to do, and the thumb's bar below. */
interface ShellProps {
  head: ReactNode
  bar?: ReactNode
  /** What the page is called on its tab. */
  title?: string
  children: ReactNode
}

export function VisitShell({ head, bar, title = 'Visit', children }: ShellProps) {
  return (
    <div className="basement min-h-dvh">
      <PageTitle of={title} />
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-3">
        To the main part
      </a>
      <div className="mx-auto flex min-h-dvh max-w-[640px] flex-col text-lead">
        <UnsentSign />
        <header className="top-0 z-10 tall:sticky border-b border-line bg-ground px-4 py-3">{head}</header>
        <main id="main" tabIndex={-1} className="flex-1 space-y-4 px-3 py-4">
          {children}
        </main>
        {bar && (
          <footer
            className={clsx(
              'bottom-0 border-t tall:sticky border-line bg-ground px-3 pt-3',
              'pb-[max(0.75rem,env(safe-area-inset-bottom))]',
            )}
          >
            {bar}
          </footer>
        )}
      </div>
    </div>
  )
}

export function SiteHazards({ hazards }: { hazards: string[] }) {
  if (hazards.length === 0) return null
  return (
    <ul aria-label="Hazards" className="space-y-1">
      {hazards.map((one) => (
        <li key={one}>
          <Hazard>{one}</Hazard>
        </li>
      ))}
    </ul>
  )
}

export function Sheet({ title, children }: { title?: string; children: ReactNode }) {
  return (
    <section className="rounded-xl bg-sheet p-4">
      {title && <h2 className="mb-3 text-title">{title}</h2>}
      {children}
    </section>
  )
}
