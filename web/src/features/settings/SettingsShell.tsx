import clsx from 'clsx'
import type { ReactNode } from 'react'
import { NavLink } from 'react-router'

import type { Schema } from '../../api/client'
import { useMe } from '../../session/session'

const ROOMS: { to: string; words: string; needs: Schema['Action'] }[] = [
  { to: '/settings', words: 'Company', needs: 'read' },
  { to: '/settings/practice', words: 'Practice', needs: 'read' },
  { to: '/settings/people', words: 'People', needs: 'keep_people' },
  { to: '/settings/crew', words: 'Crew', needs: 'read' },
  { to: '/settings/messages', words: 'Messages', needs: 'read' },
  { to: '/settings/programs', words: 'Other programs', needs: 'keep_programs' },
  { to: '/settings/jobs', words: 'Jobs', needs: 'keep_people' },
  { to: '/settings/record', words: 'Who changed what', needs: 'keep_crew' },
]

/** The settings' rooms, and the one that is open. */
export function SettingsShell({ title, children }: { title: string; children: ReactNode }) {
  const { may } = useMe()
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Settings: {title}</h1>
      <nav
        aria-label="Settings"
        className="flex h-[46px] shrink-0 items-stretch gap-4 border-b border-line px-5 whitespace-nowrap"
      >
        {ROOMS.filter((one) => may.includes(one.needs)).map((one) => (
          <NavLink
            key={one.to}
            to={one.to}
            end
            className={({ isActive }) =>
              clsx(
                'flex items-center',
                isActive ? 'font-bold text-ink' : 'text-copper-deep underline-offset-4 hover:underline',
              )
            }
          >
            {one.words}
          </NavLink>
        ))}
      </nav>
      <div className="min-h-0 flex-1 overflow-y-auto">
        <div className="mx-auto max-w-[1140px] px-5 py-5">{children}</div>
      </div>
    </div>
  )
}
