import clsx from 'clsx'
import { actWords, clockWords, isTelling } from './practiceWords'
import { PACES, type Pace, type usePractice } from './usePractice'

interface Props {
  practice: ReturnType<typeof usePractice>
  /** Seconds in which it is expected to be done. */
  within: number
}

const PACE_WORDS: Record<Pace, string> = { 0: 'stop', 1: 'as it is', 10: '10 times', 60: '60 times' }

/** The acts as knots on a rope of time, and how fast it runs. */
export function ActLine({ practice, within }: Props) {
  const span = Math.max(practice.clock * 1.15, 300)
  const place = (seconds: number) => `${(100 * seconds) / span}%`
  const acts = practice.acts.flatMap((act, number) => (isTelling(act) ? [] : [{ act, number }]))
  const last = acts.slice(-7)
  return (
    <div className="shrink-0 border-t border-line px-5 pt-1.5 pb-2">
      <div className="flex items-center gap-x-4 gap-y-1 narrow:flex-wrap">
        <p className="font-bold tabular-nums" aria-label={`${clockWords(practice.clock)} at the heater`}>
          {clockWords(practice.clock)}
        </p>
        <div role="group" aria-label="How fast time runs" className="flex gap-1">
          {PACES.map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={practice.pace === one}
              onClick={() => practice.setPace(one)}
              className={clsx(
                'min-h-9 rounded px-2.5 narrow:min-h-11',
                practice.pace === one ? 'bg-ink font-bold text-white' : 'text-copper-deep hover:underline',
              )}
            >
              {PACE_WORDS[one]}
            </button>
          ))}
        </div>
        <div className="flex gap-1">
          {[10, 60, 300].map((seconds) => (
            <button
              key={seconds}
              type="button"
              onClick={() => practice.wait(seconds)}
              className="min-h-9 rounded px-2 text-copper-deep hover:underline narrow:min-h-11"
            >
              wait {seconds < 60 ? `${seconds} s` : `${seconds / 60} min`}
            </button>
          ))}
        </div>
        <div className="relative h-9 min-w-0 flex-1 narrow:hidden" aria-hidden>
          <div className="absolute top-2 h-1 w-full rounded bg-rule" />
          <div className="absolute top-2 h-1 rounded bg-copper" style={{ width: place(practice.clock) }} />
          {within < span && <div className="absolute top-0 h-5 w-0.5 bg-oxide" style={{ left: place(within) }} />}
          {acts.map(({ act, number }) => (
            <span
              key={number}
              className="absolute top-1 size-3 -translate-x-1/2 rounded-full border-2 border-copper bg-ground"
              style={{ left: place(act.at_s) }}
            />
          ))}
        </div>
      </div>
      <ol className="flex gap-3 overflow-hidden text-fine whitespace-nowrap text-soft" aria-label="What you did last">
        {last.map(({ act, number }) => (
          <li key={number}>
            {clockWords(act.at_s).slice(3)} {actWords(act)}
          </li>
        ))}
        {last.length === 0 && <li>Nothing done yet: turn a valve on the drawing, or take something within reach.</li>}
      </ol>
    </div>
  )
}
