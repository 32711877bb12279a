import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../api/client'
import { useCompany } from '../session/session'
import { yearsWords } from '../lib/dates'
import { shown, type Units } from '../lib/units'
import { COMPONENTS, METHODS } from '../lib/words'
import { changesOptions } from './outlookQueries'

/** What would change it: the same heater, recomputed with one thing different, by how long a service would last. */
export function Changes({ heaterId, component }: { heaterId: number; component: Schema['Component'] }) {
  const { units } = useCompany()
  const { data } = useQuery(changesOptions(heaterId))
  const plain = data?.[0]?.results.find((one) => one.component === component)
  if (!data || !plain) return null
  const lines = data.slice(1).flatMap((change) => {
    const one = change.results.find((result) => result.component === component)
    if (!one || Math.abs(one.years_between - plain.years_between) < 0.08) return []
    return [{ name: named(change, units), years: one.years_between }]
  })
  if (lines.length === 0) return null
  return (
    <section className="mt-4">
      <h3 className="mb-1">What would change it</h3>
      <p className="text-soft">{lasts(component, plain.years_between)} as it is.</p>
      <ul className="text-soft">
        {lines.map((line) => (
          <li key={line.name}>
            {line.name}:{' '}
            <strong className={line.years > plain.years_between ? 'text-water' : 'text-copper-deep'}>
              {yearsWords(line.years)}
            </strong>
          </li>
        ))}
      </ul>
    </section>
  )
}

function lasts(component: Schema['Component'], years: number): string {
  if (years <= 0.02) return 'The next service would not bring it below its limit'
  return (
    `${component === 'anode' ? 'A new rod lasts' : `After the next ${COMPONENTS[component].toLowerCase()} it lasts`} ` +
    `${yearsWords(years)}`
  )
}

function named({ change, setpoint_c }: Schema['ChangeOut'], units: Units): string {
  if (change === 'softener') return 'With a softener'
  if (setpoint_c !== null) return `Set to ${shown(units, 'temperature_c', setpoint_c)}`
  const method = METHODS[change as Schema['Method']].split(':')[0] ?? change
  return method.charAt(0).toUpperCase() + method.slice(1)
}
