import { useQuery } from '@tanstack/react-query'
import clsx from 'clsx'
import type { ReactNode } from 'react'
import { NavLink } from 'react-router'

import { useMay } from '../session/session'
import { openEndsOptions } from './openEndQueries'

/** The rooms of the register. */
export function RegisterNav({ children }: { children?: ReactNode }) {
  const imports = useMay('import')
  const open = useQuery(openEndsOptions({})).data
  return (
    <div
      className={clsx(
        'flex h-[46px] shrink-0 items-stretch gap-5 border-b border-line px-5 narrow:h-auto',
        'narrow:flex-wrap narrow:gap-y-1 narrow:px-3 narrow:py-1',
      )}
    >
      <nav aria-label="Register" className="flex items-stretch gap-4 whitespace-nowrap narrow:min-h-9 narrow:flex-wrap">
        <Room to="/register" end>
          Heaters
        </Room>
        <Room to="/register/open-ends">
          Open issues{open && open.total > 0 && ` ${open.total}`}
          {open?.by_severity.danger ? (
            <span className="font-bold text-oxide">, {open.by_severity.danger} dangerous</span>
          ) : null}
        </Room>
        <Room to="/register/gaps">Missing details</Room>
        <Room to="/register/duplicates">Possible duplicates</Room>
        <Room to="/water">Water</Room>
        {imports && <Room to="/register/files">Files</Room>}
      </nav>
      <div className="flex min-w-0 flex-1 items-center justify-end gap-3">{children}</div>
    </div>
  )
}

function Room({ to, end = false, children }: { to: string; end?: boolean; children: ReactNode }) {
  return (
    <NavLink
      to={to}
      end={end}
      className={({ isActive }) =>
        clsx(
          'flex items-center gap-0',
          isActive ? 'font-bold text-ink' : 'text-copper-deep underline-offset-4 hover:underline',
        )
      }
    >
      <span>{children}</span>
    </NavLink>
  )
}
