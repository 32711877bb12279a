import type { Schema } from '../api/client'
import { spanWords } from '../lib/dates'
import { FACTORS } from '../lib/words'

const SHOWN_FROM_DAYS = 4

/** Why a date is earlier or later than a plain heater's: each factor as days, sooner to the left. */
export function Reasons({ reasons }: { reasons: Schema['ReasonOut'][] }) {
  const told = reasons
    .filter((one) => Math.abs(one.days) >= SHOWN_FROM_DAYS)
    .sort((a, b) => Math.abs(b.days) - Math.abs(a.days))
    .slice(0, 6)
  if (told.length === 0) return <Paces reasons={reasons} />
  const longest = Math.max(...told.map((one) => Math.abs(one.days)))
  return (
    <ul>
      {told.map((one) => {
        const words = FACTORS[one.factor] ?? [one.factor, one.factor]
        const sooner = one.days < 0
        const width = `${(Math.abs(one.days) / longest) * 50}%`
        return (
          <li key={one.factor} className="flex items-center gap-2">
            <span aria-hidden className="relative h-6 w-[72px] shrink-0">
              <span className="absolute inset-y-0 left-1/2 border-l border-ink" />
              <span
                className={`absolute top-1.5 h-3 ${sooner ? 'right-1/2 bg-ochre' : 'left-1/2 bg-water'}`}
                style={{ width }}
              />
            </span>
            <span className="text-fine leading-tight">
              {words[sooner ? 0 : 1]}, {spanWords(one.days)} {sooner ? 'sooner' : 'later'}
            </span>
          </li>
        )
      })}
    </ul>
  )
}

const SHOWN_FROM_RATIO = 1.12

/** Where no factor moves the date, since the limit is passed already or far off: how much each makes of the pace. */
function Paces({ reasons }: { reasons: Schema['ReasonOut'][] }) {
  const told = reasons
    .filter((one) => Math.max(one.ratio, 1 / one.ratio) >= SHOWN_FROM_RATIO)
    .sort((a, b) => Math.abs(Math.log(b.ratio)) - Math.abs(Math.log(a.ratio)))
    .slice(0, 5)
  if (told.length === 0) return <p className="text-soft">As a plain heater on ordinary water would be.</p>
  return (
    <ul className="text-fine">
      {told.map((one) => {
        const words = FACTORS[one.factor] ?? [one.factor, one.factor]
        const faster = one.ratio > 1
        return (
          <li key={one.factor}>
            {words[faster ? 0 : 1]}:{' '}
            <strong>
              {(faster ? one.ratio : 1 / one.ratio).toFixed(1)} times as {faster ? 'fast' : 'slow'}
            </strong>
          </li>
        )
      })}
    </ul>
  )
}
