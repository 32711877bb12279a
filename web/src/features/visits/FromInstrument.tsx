import { useEffect, useRef, useState } from 'react'

import { courseText, crept, type Instrument, type Reading } from '../../instruments/instrument'
import { serialInstrument, serialOf } from '../../instruments/serial'
import { SIMULATED, simulatedInstrument } from '../../instruments/simulated'
import { isQuantity, shown, type Units } from '../../lib/units'
import { Button } from '../../ui/Button'

interface Props {
  field: string
  unit: string
  units: Units
  heaterId: number
  isDemo: boolean
  /** Outside of it a reading is asked about before it is taken. */
  usual?: number[] | undefined
  /** The reading, and the course by which it was told. */
  onTake: (value: number, course: string) => void
}

/** A reading straight off an instrument: it is watched as long as one likes, then taken with its course. */
export function FromInstrument({ field, unit, units, heaterId, isDemo, usual, onTake }: Props) {
  const [course, setCourse] = useState<Reading[] | null>(null)
  const [wrong, setWrong] = useState('')
  const stop = useRef<AbortController | null>(null)
  const by = useRef<Instrument | null>(null)
  const serial = serialOf(navigator)
  const simulated = isDemo && SIMULATED.includes(field)
  useEffect(() => () => stop.current?.abort(), [])
  if (!serial && !simulated) return null
  const watch = async () => {
    setWrong('')
    setCourse([])
    stop.current = new AbortController()
    try {
      by.current = simulated
        ? simulatedInstrument(heaterId, field)
        : serialInstrument(await serial!.requestPort(), unit)
      for await (const one of by.current.readings(stop.current.signal)) setCourse((now) => [...(now ?? []), one])
    } catch (error) {
      // Whoever closes the browser's list has chosen none.
      const none = error instanceof DOMException && error.name === 'NotFoundError'
      setWrong(none ? 'No instrument was chosen.' : error instanceof Error ? error.message : 'It cannot be read.')
      setCourse(null)
    }
  }
  const value = course?.length ? (field.endsWith('creep_kpa') ? crept(course) : course.at(-1)!.value) : null
  const words = (one: number) => (isQuantity(units, unit) ? shown(units, unit, one) : String(one))
  const isUnusual = value !== null && usual !== undefined && (value < usual[0]! || value > usual[1]!)
  const take = () => {
    stop.current?.abort()
    if (value !== null) onTake(value, courseText(by.current?.name ?? 'instrument', course!))
    setCourse(null)
  }
  return (
    <div className="mt-2">
      {course === null ? (
        <Button className="min-h-12 w-full" onClick={() => void watch()}>
          Take it from the instrument
        </Button>
      ) : (
        <section aria-label="The instrument" className="rounded-xl border-2 border-line p-3">
          <p role="status" className="text-title font-bold">
            {value === null ? 'Waiting for its first reading …' : words(value)}
            {field.endsWith('creep_kpa') && course.length > 0 && (
              <span className="block text-base font-normal text-soft">
                from {words(course[0]!.value)} to {words(course.at(-1)!.value)} in{' '}
                {Math.round(course.at(-1)!.second / 60)} min
              </span>
            )}
          </p>
          <Line course={course} />
          {isUnusual && (
            <p role="alert" className="mt-1 text-ochre-deep">
              {words(value)} is unusual: {words(usual[0]!)} to {words(usual[1]!)} is. Look at how it is connected.
            </p>
          )}
          <p className="mt-2 flex gap-2">
            <Button look="main" className="min-h-12 flex-1" disabled={value === null} onClick={take}>
              {isUnusual ? 'It is so: take it' : 'Take it'}
            </Button>
            <Button
              className="min-h-12"
              onClick={() => {
                stop.current?.abort()
                setCourse(null)
              }}
            >
              Leave it
            </Button>
          </p>
        </section>
      )}
      {wrong && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {wrong}
        </p>
      )}
    </div>
  )
}

function Line({ course }: { course: Reading[] }) {
  if (course.length < 2) return null
  const values = course.map((one) => one.value)
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const until = course.at(-1)!.second || 1
  const points = course.map(
    (one) => `${(300 * one.second) / until},${44 - (40 * (one.value - low)) / Math.max(high - low, 1e-9)}`,
  )
  return (
    <svg viewBox="0 0 300 48" className="mt-1 h-12 w-full" aria-hidden>
      <polyline points={points.join(' ')} fill="none" className="stroke-water" strokeWidth="2.5" />
    </svg>
  )
}
