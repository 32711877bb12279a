import clsx from 'clsx'
import type { Schema } from '../../api/client'
import { sentence } from '../../lib/words'

/** Where to shut it, what not to touch, and what is open here: folded, for it is long and the hand is wet. */
export function BeforeYouStart({ heater }: { heater: Schema['HeaterOut'] }) {
  const valves = heater.shut_offs
  // What stands above as a hazard is not said twice.
  const open = heater.open_ends.filter((one) => !heater.site.hazards.includes(one.words))
  if (valves.length + open.length === 0 && heater.guessed.length === 0) return null
  return (
    <details className="rounded-xl bg-sheet">
      <summary className="min-h-13 cursor-pointer px-4 py-3.5 font-bold">
        Before you start{' '}
        <span className="font-normal text-soft">
          {[valves.length && `${valves.length} shut-offs`, open.length && `${open.length} open`]
            .filter(Boolean)
            .join(' · ')}
        </span>
      </summary>
      <ul className="space-y-2 px-4 pb-4 text-body">
        {valves.map((one) => (
          <li key={one.id} className="leading-snug">
            <strong>{sentence(one.name)}</strong>
            {[one.form, one.where].filter(Boolean).map((word) => `, ${word}`)}
            <span className={`block ${one.severity === 'danger' ? 'font-semibold text-oxide' : 'text-soft'}`}>
              {one.do_not_operate
                ? `Don’t touch: ${one.condition_words}. Use ${one.use_instead || 'the next valve up'}.`
                : one.condition_words}
            </span>
          </li>
        ))}
        {open.map((one) => (
          <li
            key={`open-${one.id}`}
            className={clsx(
              'border-l-4 pl-3 leading-snug',
              one.severity === 'danger' ? 'border-oxide text-oxide' : 'border-ochre',
            )}
          >
            {one.words}
          </li>
        ))}
        {heater.guessed.map((one) => (
          <li key={one} className="border-l-4 border-line pl-3 text-soft">
            A guess so far: {one}. Look for the rating plate.
          </li>
        ))}
      </ul>
    </details>
  )
}
