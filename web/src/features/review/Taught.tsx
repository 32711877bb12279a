import { Term } from '../../ui/Term'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { useCompany } from '../../session/session'
import { Ruler } from './Ruler'
import { isAsMuch, MEASURED, percent, timesWords, traitWords } from './words'

const SHOWN_FROM = 0.02

/**
 * What the base taught of one component, in sentences; and every measurement, the furthest from what was told first.
 */
export function Taught({ one, today }: { one: Schema['AccuracyOut']; today: string }) {
  const { units } = useCompany()
  const words = MEASURED[one.component]
  if (!words) return null
  const builds = one.builds.filter((build) => Math.abs(build.ratio - 1) > SHOWN_FROM)
  const furthest = [...one.checks].sort((a, b) => Math.abs(b.place - 0.5) - Math.abs(a.place - 0.5))
  return (
    <>
      <h2 className="text-title">{words.name}</h2>
      {one.inside === null || one.usual_from === null || one.usual_to === null ? (
        <p className="mt-1 text-soft">
          Nobody has measured {words.measured} yet. One visit in twenty asks for it; until then windows rest on grades
          alone.
        </p>
      ) : (
        <p className="mt-1">
          {percent(one.inside)} of {one.measured} measurements ({words.measured}
          {words.where}) lie within the <Term name="P10 and P90">{`${percent(0.8)} window`}</Term> that was told before
          them. Expected for this many:
          {` ${percent(one.usual_from)} to ${percent(one.usual_to)}.`}
        </p>
      )}
      <h3 className="mt-4">What follows from it</h3>
      <ul className="mt-1 space-y-1.5">
        <li>
          {isAsMuch(one.centre)
            ? 'The middle of the windows stays where it was.'
            : `All are taken to go ${timesWords(one.centre)} the pace told before.`}
        </li>
        {one.year_strays !== null && (
          <li>
            A year’s pace strays: in four years of five it lies within {one.year_strays.toFixed(2)} times that of the
            years before, either way.
          </li>
        )}
        <li>
          Heaters on one water differ {scaleWords(one.heater_scale)}, and waters {scaleWords(one.zone_scale)} beyond
          what their tests say.
        </li>
        {one.traits
          .filter((trait) => !isAsMuch(trait.ratio))
          .map((trait) => (
            <li key={trait.name}>
              {traitWords(trait.name, units)} {timesWords(trait.ratio)} what the physics says.
            </li>
          ))}
        {!isAsMuch(one.eye_scale) && <li>Two looks at the same thing differ {scaleWords(one.eye_scale)}.</li>}
      </ul>
      {one.pairs > 0 && (
        <>
          <h3 className="mt-4">How grades are read</h3>
          <p className="mt-1">
            {one.pairs} times something was graded and measured at one visit. Together people see{' '}
            {isAsMuch(one.common_eye) ? 'as much as' : `${timesWords(one.common_eye)} what`} is there; each grade is
            read by who gave it.
          </p>
          {one.people.length > 0 && <Ruler label="What each sees over what is there" ratios={one.people} />}
          {one.say_the_same.length > 0 && (
            <p className="mt-1">
              {one.say_the_same.join(', ')} nearly always {one.say_the_same.length > 1 ? 'give' : 'gives'} the same
              grade, whatever the others find: it counts for little.
            </p>
          )}
        </>
      )}
      {builds.length > 0 && (
        <>
          <h3 className="mt-4">Builds that differ</h3>
          <p className="mt-1 text-soft">How it {words.pace}, over others on the same water.</p>
          <Ruler label="Pace of each build over others" ratios={builds} />
        </>
      )}
      {furthest.length > 0 && (
        <>
          <h3 className="mt-4">Every measurement, the furthest off first</h3>
          <ul className="mt-1">
            {furthest.map((check) => (
              <li key={check.heater_id} className="border-b border-line py-1">
                <Link to={`/heaters/${check.heater_id}`} className="font-semibold text-copper-deep hover:underline">
                  {check.site}, {check.tag}
                </Link>
                <span className="block text-fine text-soft">
                  {timesWords(check.ratio)} what was told, {dateWords(check.on, today)} · {check.zone}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  )
}

/** How far things differ, over what was assumed before anything was found. */
function scaleWords(scale: number): string {
  if (Math.abs(scale - 1) < 0.05) return 'as far as was assumed'
  return scale > 1
    ? `${scale.toFixed(1)} times as far as was assumed`
    : `${scale.toFixed(1)} times as far as was assumed, less`
}
