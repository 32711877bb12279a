import type { Schema } from '../../api/client'
import { addDays, dateWords, day, dueWords, isoDay, spanWords } from '../../lib/dates'
import { COMPONENTS } from '../../lib/words'

/** What a visit moved: each date before and after on one line of time, and why. */
export function Moved({ moved, today }: { moved: Schema['MovedOut'][]; today: string }) {
  return (
    <ul className="space-y-3">
      {moved.map((one) => (
        <li key={one.component} className="rounded-xl bg-sheet p-4">
          <h2 className="text-lead">
            {COMPONENTS[one.component]}: {dueWords(one.after_on, today)}
          </h2>
          <MoveLine before={one.before_on} after={one.after_on} today={today} />
          {one.days !== null && one.days !== 0 && one.before_on && (
            <p className="text-body font-semibold text-copper">
              {spanWords(one.days)} {one.days > 0 ? 'later' : 'sooner'} than before ({dateWords(one.before_on, today)})
            </p>
          )}
          <p className="mt-1 text-body text-soft">{one.sentence}</p>
        </li>
      ))}
    </ul>
  )
}

/** From a ring where the date stood to a full dot where it stands now, on a line from half a year ago to two ahead. */
function MoveLine({ before, after, today }: { before: string | null; after: string | null; today: string }) {
  const start = addDays(today, -182)
  const end = addDays(today, 3 * 365)
  const x = (at: number) => 8 + ((Math.min(Math.max(at, start), end) - start) / (end - start)) * 304
  const years = [0, 1, 2, 3].map((ahead) => ({ ahead, at: day(isoDay(addDays(today, ahead * 365))) }))
  return (
    <svg viewBox="0 0 320 40" className="my-2 w-full" aria-hidden>
      <line x1="8" x2="312" y1="16" y2="16" className="stroke-rule" strokeWidth="1.2" />
      {years.map((year) => (
        <g key={year.ahead}>
          <line
            x1={x(year.at)}
            x2={x(year.at)}
            y1="11"
            y2="21"
            className={year.ahead === 0 ? 'stroke-water' : 'stroke-rule'}
            strokeWidth={year.ahead === 0 ? 2.4 : 1}
          />
          <text
            x={x(year.at)}
            y="36"
            textAnchor={year.ahead === 3 ? 'end' : 'middle'}
            className="fill-soft text-[11px]"
          >
            {year.ahead === 0 ? 'today' : `in ${year.ahead} y`}
          </text>
        </g>
      ))}
      {before && after && (
        <line x1={x(day(before))} x2={x(day(after))} y1="16" y2="16" className="stroke-copper" strokeWidth="3" />
      )}
      {before && <circle cx={x(day(before))} cy="16" r="5" className="fill-sheet stroke-copper" strokeWidth="2.2" />}
      {after && <circle cx={x(day(after))} cy="16" r="6.5" className="fill-copper" />}
    </svg>
  )
}
