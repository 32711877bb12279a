import type { ReactNode } from 'react'

import { PageTitle } from '../ui/PageTitle'

/** A page with its name. */
export function Titled({ as, children }: { as: string; children: ReactNode }) {
  return (
    <>
      <PageTitle of={as} />
      {children}
    </>
  )
}
