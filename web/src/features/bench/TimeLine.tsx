import clsx from 'clsx'
import { Slider } from 'radix-ui'

interface Props {
  years: number[]
  /** Of each life, what is worth a mark. */
  events: { year: number; words: string }[][]
  at: number
  onChange: (at: number) => void
}

/** The years as a line, with what happens in each life on it, and where they stand. */
export function TimeLine({ years, events, at, onChange }: Props) {
  const last = years.length - 1
  const place = (year: number) => `${(100 * year) / years[last]!}%`
  return (
    <div>
      <div className="relative h-9 text-fine" aria-hidden>
        {events.flatMap((found, side) =>
          found.map((one) => (
            <span
              key={`${side}${one.words}`}
              className={clsx(
                'absolute -translate-x-1/2 border-b-2 px-1 whitespace-nowrap',
                side === 0 ? 'top-0 border-water text-water' : 'top-4 border-copper text-copper-deep',
              )}
              style={{ left: place(one.year) }}
            >
              {one.words}
            </span>
          )),
        )}
      </div>
      <Slider.Root
        className="relative flex h-6 touch-none items-center select-none"
        value={[at]}
        min={0}
        max={last}
        step={1}
        onValueChange={([next]) => next !== undefined && onChange(next)}
      >
        <Slider.Track className="relative h-1.5 grow rounded bg-rule">
          <Slider.Range className="absolute h-full rounded bg-water" />
        </Slider.Track>
        <Slider.Thumb
          aria-label="Year"
          aria-valuetext={`year ${years[at]!.toFixed(2)} of ${years[last]}`}
          className="block size-6 rounded-full border-[3px] border-ink bg-sheet"
        />
      </Slider.Root>
      <div className="relative h-5 text-fine text-soft" aria-hidden>
        {years
          .filter((year) => year % 2 === 0)
          .map((year) => (
            <span key={year} className="absolute -translate-x-1/2" style={{ left: place(year) }}>
              {year}
            </span>
          ))}
      </div>
      <p className="text-center font-bold" aria-hidden>
        year {years[at]!.toFixed(years[at]! % 1 ? 2 : 0)} of {years[last]}
      </p>
    </div>
  )
}
