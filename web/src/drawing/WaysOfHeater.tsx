import clsx from 'clsx'

import type { Schema } from '../api/client'

type Point = Schema['TroublePointOut']

interface Props {
  points: Point[]
  /** What each point showed last. */
  shown: ReadonlyMap<string, string>
  chosen: string
  onChoose: (point: string) => void
}

const LINES: [Point['line'], string, string][] = [
  ['electric', 'Current', 'bg-ochre'],
  ['gas', 'Gas and flame', 'bg-copper'],
  ['air', 'Air and exhaust', 'bg-ash'],
  ['water', 'Water', 'bg-water'],
  ['house', 'House', 'bg-rule'],
]

/**
 * A heater as the ways that current, gas, air and water take through it: a knot for each place at which one can look,
 * measure or turn something, and under it what showed there last.
 */
export function WaysOfHeater({ points, shown, chosen, onChoose }: Props) {
  return (
    <div className="space-y-3">
      {LINES.map(([line, title, color]) => {
        const along = points.filter((one) => one.line === line && one.name !== 'clock')
        return (
          along.length > 0 && (
            <section key={line} aria-label={title} className="flex gap-4 narrow:block">
              <h2 className="w-24 shrink-0 pt-0.5 text-right leading-tight font-bold narrow:text-left">{title}</h2>
              <ul className="grid flex-1 grid-cols-[repeat(auto-fill,minmax(118px,1fr))] gap-y-2">
                {along.map((one, place) => (
                  <li key={one.name} className="relative pr-2">
                    {place < along.length - 1 && (
                      <span aria-hidden className={clsx('absolute top-[11px] right-0 left-4 h-1', color)} />
                    )}
                    <Knot
                      point={one}
                      says={shown.get(one.name)}
                      chosen={one.name === chosen}
                      onChoose={() => onChoose(one.name)}
                    />
                  </li>
                ))}
              </ul>
            </section>
          )
        )
      })}
    </div>
  )
}

interface KnotProps {
  point: Point
  says: string | undefined
  chosen: boolean
  onChoose: () => void
}

function Knot({ point, says, chosen, onChoose }: KnotProps) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onChoose}
      className="group relative flex min-h-[72px] w-full flex-col items-start text-left leading-tight"
    >
      <span
        aria-hidden
        className={clsx(
          'mb-1 size-[26px] shrink-0 rounded-full border-4',
          chosen ? 'border-copper' : 'border-ink group-hover:border-copper',
          says === undefined ? 'bg-ground' : 'bg-ochre-pale',
        )}
      />
      <span className={clsx('group-hover:underline', chosen && 'font-bold')}>{point.title}</span>
      {says === undefined ? (
        <span className="sr-only">not looked at</span>
      ) : (
        <span className="line-clamp-3 text-fine font-semibold text-copper-deep">{says}</span>
      )}
    </button>
  )
}
