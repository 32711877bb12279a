import type { ReactNode } from 'react'

import { Button } from './Button'

/** While something is on its way; says what. */
export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-6 text-soft">
      Fetching {what} …
    </p>
  )
}

/** What failed, in the server's words, and a way on. */
export function Failed({ error, onRetry }: { error: Error; onRetry?: () => void }) {
  return (
    <div role="alert" className="m-5 border-l-4 border-oxide bg-sheet p-4">
      <p>{error.message}</p>
      {onRetry && (
        <Button className="mt-3" onClick={onRetry}>
          Try again
        </Button>
      )}
    </div>
  )
}

/** Nothing here, and what to do about it. */
export function Empty({ children }: { children: ReactNode }) {
  return <div className="p-6 text-lead text-soft">{children}</div>
}

/** Someone can be hurt: said in words, in the colour kept for it. */
export function Hazard({ children, className = '' }: { children: ReactNode; className?: string }) {
  return <p className={`border-l-4 border-oxide pl-2.5 font-semibold text-oxide ${className}`}>{children}</p>
}

/** What can hurt at a place, said before anything else. */
export function Hazards({ hazards }: { hazards: string[] }) {
  if (hazards.length === 0) return null
  return (
    <ul aria-label="Hazards" className="shrink-0 border-b border-oxide bg-sheet px-5 py-1.5 font-semibold text-oxide">
      {hazards.map((one) => (
        <li key={one} className="leading-snug">
          {one}
        </li>
      ))}
    </ul>
  )
}
