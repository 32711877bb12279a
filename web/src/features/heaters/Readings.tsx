import { scaleLinear } from 'd3-scale'

import type { Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { shown, type Units } from '../../lib/units'
import { sentence } from '../../lib/words'

type Reading = Schema['ReadingOut']
const WIDTH = 244
const HEIGHT = 46

interface Props {
  readings: Reading[]
  until: string
  units: Units
}

/** What was read off instruments over the years: each kind by itself, every point with its day and who read it. */
export function Readings({ readings, until, units }: Props) {
  if (readings.length === 0) return null
  return (
    <section aria-label="Readings over the years" className="border-b border-line pt-3 pb-3">
      <h3 className="font-bold">Readings</h3>
      <ul className="mt-1 space-y-3">
        {readings.map((one) => (
          <li key={one.field}>
            <p className="flex gap-2 leading-snug">
              <span className="min-w-0 flex-1">{sentence(one.says)}</span>
              <strong className="whitespace-nowrap">{words(one, one.points.at(-1)!.value, units)}</strong>
            </p>
            {one.points.length > 1 ? (
              <Points reading={one} until={until} units={units} />
            ) : (
              <p className="text-fine text-soft">{dateWords(one.points[0]!.on, until)}</p>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

function words(reading: Reading, value: number, units: Units): string {
  if (reading.unit in units) return shown(units, reading.unit, value)
  return `${Number(value.toPrecision(3))} ${reading.unit}`
}

function Points({ reading, until, units }: { reading: Reading; until: string; units: Units }) {
  const values = reading.points.map((one) => one.value)
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const days = scaleLinear([Date.parse(reading.points[0]!.on), Date.parse(until)], [4, WIDTH - 4])
  const at = (on: string) => days(Date.parse(on))
  // A reading that never moved lies in the middle.
  const up = low === high ? () => HEIGHT / 2 : scaleLinear([low, high], [HEIGHT - 8, 8])
  const path = reading.points.map((one, place) => `${place ? 'L' : 'M'}${at(one.on)} ${up(one.value)}`).join('')
  const told = reading.points.map((one) => `${words(reading, one.value, units)} on ${dateWords(one.on, until)}`)
  return (
    <>
      <svg
        role="img"
        aria-label={told.join(', ')}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="mt-0.5 w-full overflow-visible"
      >
        <path d={`M0 ${HEIGHT - 1}H${WIDTH}`} className="stroke-line" />
        <path d={path} className="fill-none stroke-water" strokeWidth="1.5" />
        {reading.points.map((one, place) => (
          <circle key={place} cx={at(one.on)} cy={up(one.value)} r="3.5" className="fill-water">
            <title>{`${words(reading, one.value, units)}, ${dateWords(one.on, until)}, ${one.by}`}</title>
          </circle>
        ))}
      </svg>
      <p className="flex justify-between text-fine text-soft">
        <span>{dateWords(reading.points[0]!.on, until)}</span>
        <span>
          {low === high ? 'always the same' : `${words(reading, low, units)} to ${words(reading, high, units)}`}
        </span>
        <span>today</span>
      </p>
    </>
  )
}
