import { useState } from 'react'

import type { Schema } from '../api/client'
import { fieldText, isQuantity, label, numberOf, shown, stored, type Units } from '../lib/units'
import { Choice, Field } from '../ui/Field'

type Spec = Schema['DetailOut']
type Known = Record<string, string | number>

/** What else is told of a thing, in words: only what is known. */
export function detailFacts(specs: Spec[], known: Known | undefined, units: Units): string[] {
  return specs.flatMap((one) => {
    const value = known?.[one.name]
    if (value === undefined) return []
    const text = isQuantity(units, one.unit)
      ? shown(units, one.unit, Number(value))
      : `${String(value)} ${one.unit}`.trim()
    return [`${one.ask.toLowerCase()} ${text}`]
  })
}

/** What else can be told of a thing, as it is typed; nothing of it is needed. */
export function useDetails(specs: Spec[], known: Known | undefined, units: Units) {
  const asText = (one: Spec) => {
    const value = known?.[one.name]
    if (value === undefined) return ''
    return isQuantity(units, one.unit) ? fieldText(units, one.unit, Number(value)) : String(value)
  }
  const [typed, setTyped] = useState<Record<string, string>>({})
  const touched = specs.filter((one) => typed[one.name] !== undefined && typed[one.name] !== asText(one))
  const stands = (one: Spec, text: string) => {
    if (!one.unit) return text.trim()
    return isQuantity(units, one.unit) ? stored(units, one.unit, text) : numberOf(text)
  }
  return {
    typed: (one: Spec) => typed[one.name] ?? asText(one),
    type: (name: string, text: string) => setTyped((before) => ({ ...before, [name]: text })),
    /** As it is sent; none where nobody touched it, so that it stays as it was read. */
    told: (): Known | null => {
      if (touched.length === 0) return null
      const told = new Map(Object.entries(known ?? {}).filter(([name]) => specs.some((one) => one.name === name)))
      for (const one of touched) {
        const value = stands(one, typed[one.name]!)
        if (value === null || value === '') told.delete(one.name)
        else told.set(one.name, value)
      }
      return Object.fromEntries(told)
    },
  }
}

interface Props {
  specs: Spec[]
  details: ReturnType<typeof useDetails>
  units: Units
  faults: Record<string, string | undefined>
}

export function DetailFields({ specs, details, units, faults }: Props) {
  return specs.map((one) => {
    const same = {
      label: one.ask,
      value: details.typed(one),
      onChange: (event: { target: { value: string } }) => details.type(one.name, event.target.value),
      fault: faults[`details.${one.name}`],
    }
    if (one.words.length > 0)
      return (
        <Choice key={one.name} {...same}>
          <option value="">not known</option>
          {one.words.map((word) => (
            <option key={word}>{word}</option>
          ))}
        </Choice>
      )
    const unit = isQuantity(units, one.unit) ? label(units, one.unit) : one.unit
    return <Field key={one.name} {...same} unit={unit} inputMode={one.unit ? 'decimal' : 'text'} maxLength={120} />
  })
}
