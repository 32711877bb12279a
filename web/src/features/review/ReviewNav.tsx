import clsx from 'clsx'
import { NavLink } from 'react-router'

const ROOMS = [
  { to: '/review', words: 'Were the dates right?' },
  { to: '/review/practices', words: 'Which practice on which water?' },
  { to: '/review/steps', words: 'How steps are done' },
  { to: '/review/tanks', words: 'Tanks near their end' },
  { to: '/register/gaps', words: 'What is not known' },
]

/** What the lead looks over, and the way to what answers it elsewhere. */
export function ReviewNav() {
  return (
    <nav
      aria-label="Review"
      className="flex h-[46px] shrink-0 items-stretch gap-4 border-b border-line px-5 whitespace-nowrap"
    >
      {ROOMS.map((one) => (
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
  )
}
