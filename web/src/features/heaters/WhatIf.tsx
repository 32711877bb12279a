import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { Slider } from 'radix-ui'
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany, useMay } from '../../session/session'
import { yearsWords } from '../../lib/dates'
import { shown } from '../../lib/units'
import { COMPONENTS, METHODS, sentence } from '../../lib/words'
import { whatIfOptions } from '../../records/heaterQueries'

const FLUSHES: Schema['FlushMethod'][] = ['pressure_blowout', 'drain_and_pulse', 'jetting', 'acid_soak']
const PRACTICES: Record<Schema['Practice'], string> = {
  condition: 'by condition',
  annual: 'yearly',
  hard_water_half_yearly: 'half-yearly on hard water',
  long_service: 'long service',
}

/** The heater with another setting, use, softener, flush or practice, computed anew as the sliders move. */
export function WhatIf({ heater }: { heater: Schema['HeaterOut'] }) {
  const writes = useMay('keep_people')
  const { units } = useCompany()
  const now = heater.setpoint_c ?? heater.assumed.setpoint_c ?? 55
  const [setpoint, setSetpoint] = useState(now)
  const [use, setUse] = useState(0)
  const [softened, setSoftened] = useState(heater.site.softened)
  const [method, setMethod] = useState<Schema['FlushMethod'] | ''>('')
  const [practice, setPractice] = useState<Schema['Practice']>('condition')
  const factor = 2 ** use
  const tried = useDeferredValue({
    setpoint_c: setpoint,
    use_factor: Number(factor.toFixed(3)),
    softened,
    practice,
    ...(method ? { flush_method: method } : {}),
  })
  const base = { practice: 'condition' as const }
  const plain = useQuery(whatIfOptions(heater.id, base)).data
  const { data, error } = useQuery({ ...whatIfOptions(heater.id, tried), placeholderData: keepPreviousData })
  return (
    <div className="space-y-4 pt-3">
      <Dial
        label="Set temperature"
        value={setpoint}
        min={40}
        max={80}
        step={1}
        words={shown(units, 'temperature_c', setpoint)}
        onChange={setSetpoint}
      >
        {heater.setpoint_c === null ? 'assumed now: ' : 'now: '}
        {shown(units, 'temperature_c', now)}
        {data?.cautions.map((one) => (
          <strong key={one} className="block text-oxide">
            {one}
          </strong>
        ))}
      </Dial>
      <Dial
        label="Hot water used"
        value={use}
        min={-1.5}
        max={1.5}
        step={0.1}
        words={use === 0 ? 'as now' : `${factor.toFixed(1)} times as now`}
        onChange={setUse}
      />
      <label className="flex items-center gap-2 font-semibold">
        <input
          type="checkbox"
          className="size-4"
          checked={softened}
          onChange={(event) => setSoftened(event.target.checked)}
        />
        Water softened
      </label>
      <div className="grid grid-cols-2 gap-3">
        {heater.is_tank && (
          <Pick label="Flush" value={method} onChange={(value) => setMethod(value as Schema['FlushMethod'])}>
            <option value="">the company’s</option>
            {FLUSHES.map((one) => (
              <option key={one} value={one}>
                {METHODS[one].split(':')[0]}
              </option>
            ))}
          </Pick>
        )}
        <Pick label="Practice" value={practice} onChange={(value) => setPractice(value as Schema['Practice'])}>
          {Object.entries(PRACTICES).map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </Pick>
      </div>
      {error && (
        <p role="alert" className="font-semibold text-oxide">
          {error.message}
        </p>
      )}
      <table className="w-full" aria-live="polite">
        <caption className="sr-only">What the next service would last</caption>
        <thead>
          <tr className="text-left text-fine text-soft">
            <th scope="col" className="font-normal">
              from the next service
            </th>
            <th scope="col" className="text-right font-normal">
              lasts
            </th>
            <th scope="col" className="text-right font-normal">
              over limit then
            </th>
          </tr>
        </thead>
        <tbody>
          {data?.results.map((one) => {
            const before = plain?.results.find((other) => other.component === one.component)
            const better = before && one.years_between > before.years_between + 0.04
            const worse = before && one.years_between < before.years_between - 0.04
            return (
              <tr key={one.component} className="border-t border-line align-baseline">
                <th scope="row" className="py-1.5 text-left">
                  {COMPONENTS[one.component]}
                </th>
                <td className="py-1.5 text-right">
                  <strong className={better ? 'text-water' : worse ? 'text-copper-deep' : ''}>
                    {yearsWords(one.years_between)}
                  </strong>
                  {before && (better || worse) && (
                    <span className="block text-fine text-soft">now {yearsWords(before.years_between)}</span>
                  )}
                </td>
                <td className="py-1.5 text-right">{Math.round(100 * one.over_at_next)} %</td>
              </tr>
            )
          })}
        </tbody>
      </table>
      <p className="text-fine text-soft">
        {sentence(
          'computed anew by the same model; the bed that lies there now stays as it is believed to be. ' +
            'Nothing is stored.',
        )}
      </p>
      {heater.is_tank && (
        <p>
          <Link to={`/bench?${benchOf(heater, setpoint)}`} className="text-copper-deep underline underline-offset-2">
            Twenty years of one like it, on Bench
          </Link>
        </p>
      )}
      <p>
        <Link
          to={`/bench/calculators?heater=${heater.id}&tag=${encodeURIComponent(heater.tag)}`}
          className="text-copper-deep underline underline-offset-2"
        >
          Calculators, filled in for it
        </Link>
      </p>
      {writes && heater.is_tank && (
        <p>
          <Link to={`/bench/written?heater=${heater.id}`} className="text-copper-deep underline underline-offset-2">
            A practice made of it
          </Link>
        </p>
      )}
    </div>
  )
}

/** A new tank of this kind, on this water, for this household. */
function benchOf(heater: Schema['HeaterOut'], setpoint: number): string {
  const said: Record<string, string> = {
    kind: heater.kind,
    zone: String(heater.site.zone_id),
    a_set: String(setpoint),
    b_set: String(setpoint),
  }
  if (heater.capacity_l) said.size = String(heater.capacity_l)
  if (heater.site.people) said.people = String(heater.site.people)
  if (heater.site.softened) Object.assign(said, { a_water: 'soft', b_water: 'soft' })
  return new URLSearchParams(said).toString()
}

interface DialProps {
  label: string
  value: number
  min: number
  max: number
  step: number
  words: string
  onChange: (value: number) => void
  children?: React.ReactNode
}

function Dial({ label, value, min, max, step, words, onChange, children }: DialProps) {
  return (
    <div>
      <p className="flex justify-between">
        <span className="font-semibold">{label}</span>
        <span>{words}</span>
      </p>
      <Slider.Root
        className="relative flex h-7 touch-none items-center"
        value={[value]}
        min={min}
        max={max}
        step={step}
        onValueChange={([next]) => next !== undefined && onChange(next)}
      >
        <Slider.Track className="relative h-1 grow bg-rule">
          <Slider.Range className="absolute h-full bg-water" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          aria-valuetext={words}
          className="block h-6 w-3 rounded-sm border-2 border-water bg-sheet"
        />
      </Slider.Root>
      {children && <p className="text-fine text-soft">{children}</p>}
    </div>
  )
}

function Pick({
  label,
  value,
  onChange,
  children,
}: {
  label: string
  value: string
  onChange: (value: string) => void
  children: React.ReactNode
}) {
  return (
    <label className="block min-w-0">
      <span className="mb-1 block font-semibold">{label}</span>
      <select
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="h-9 w-full rounded-md border border-rule bg-sheet px-1.5"
      >
        {children}
      </select>
    </label>
  )
}
