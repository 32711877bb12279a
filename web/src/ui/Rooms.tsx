import clsx from 'clsx'
import { NavLink } from 'react-router'

export interface Room {
  to: string
  words: string
}

/** The rooms of a place, side by side under its head, and which one is open. */
export function Rooms({ label, rooms }: { label: string; rooms: Room[] }) {
  return (
    <nav
      aria-label={label}
      className={clsx(
        'flex h-[46px] shrink-0 items-stretch gap-4 border-b border-line px-5 whitespace-nowrap',
        'narrow:h-auto narrow:flex-wrap narrow:px-3',
      )}
    >
      {rooms.map((one) => (
        <NavLink
          key={one.to}
          to={one.to}
          // Whoever is deeper in a room is still in it, but for the one in whose address the others lie.
          end={rooms.some((other) => other.to.startsWith(`${one.to}/`))}
          className={({ isActive }) =>
            clsx(
              'flex items-center narrow:min-h-11',
              isActive ? 'font-bold text-ink' : 'text-copper-deep underline-offset-4 hover:underline',
            )
          }
        >
          {one.words}
        </NavLink>
      ))}
    </nav>
  )
}
