import type { ReactNode } from 'react'

import type { Schema } from '../../api/client'
import { useMe } from '../../session/session'
import { Rooms, type Room } from '../../ui/Rooms'

const ROOMS: (Room & { needs: Schema['Action'] })[] = [
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
      <Rooms label="Settings" rooms={ROOMS.filter((one) => may.includes(one.needs))} />
      <div className="min-h-0 flex-1 overflow-y-auto">
        <div className="mx-auto max-w-[1140px] px-5 py-5">{children}</div>
      </div>
    </div>
  )
}
