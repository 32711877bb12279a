import { useState } from 'react'

import type { Schema } from '../../api/client'
import { phrase } from '../../lib/phrases'
import { numberOf } from '../../lib/units'
import { useMovePart } from '../../records/roundQueries'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'

const SUPPLIER = 'supplier'
const STORE = 'store'

interface Props {
  stock: Schema['StockOut']
}

/** Parts that came in, or go from one place to another, and what did so last. */
export function PartMoves({ stock }: Props) {
  const { units } = useCompany()
  const counts = useMay('count')
  const known = new Set([...stock.to_buy, ...stock.trucks.flatMap((one) => one.lines)].map((line) => line.part))
  return (
    <section aria-label="Moved" className="mt-5">
      <h2>Came in, went out</h2>
      {counts && known.size > 0 && <Form parts={[...known].toSorted()} crew={stock.crew} />}
      <ul className="mt-2">
        {stock.moved.map((one) => (
          <li key={one.at} className="flex gap-2 border-b border-line py-0.5">
            <span className="flex-1">
              <strong>{one.quantity}</strong> {phrase(one.part, units)}
            </span>
            <span className="text-soft">
              {one.source === SUPPLIER ? 'came in, ' : `${placeWords(one.source)} to `}
              {placeWords(one.target)}
            </span>
          </li>
        ))}
      </ul>
      {stock.moved.length === 0 && <p className="text-soft">Nothing was moved yet.</p>}
    </section>
  )
}

const placeWords = (name: string) => (name === STORE ? 'the store' : name.split(' ')[0])

function Form({ parts, crew }: { parts: string[]; crew: Schema['CrewPlaceOut'][] }) {
  const { units } = useCompany()
  const move = useMovePart()
  const [part, setPart] = useState(parts[0]!)
  const [typed, setTyped] = useState('')
  const [from, setFrom] = useState(SUPPLIER)
  const [to, setTo] = useState(STORE)
  const quantity = numberOf(typed)
  const bad = typed !== '' && !(quantity !== null && quantity > 0)
  const places: [string, string][] = [
    [STORE, 'the store'],
    ...crew.map((one): [string, string] => [String(one.member_id), one.name]),
  ]
  const options = (some: [string, string][]) =>
    some.map(([value, words]) => (
      <option key={value} value={value}>
        {words}
      </option>
    ))
  const member = (place: string) => (place === STORE || place === SUPPLIER ? null : Number(place))
  return (
    <form
      className="mt-1 grid grid-cols-2 gap-x-3 gap-y-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (quantity === null || !(quantity > 0)) return
        move.mutate(
          { part, quantity, received: from === SUPPLIER, source: member(from), target: member(to) },
          { onSuccess: () => setTyped('') },
        )
      }}
    >
      <Choice label="Part" value={part} onChange={(event) => setPart(event.target.value)}>
        {options(parts.map((one) => [one, phrase(one, units)]))}
      </Choice>
      <Field
        label="How many"
        inputMode="decimal"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        fault={bad ? 'a number above 0' : undefined}
      />
      <Choice label="From" value={from} onChange={(event) => setFrom(event.target.value)}>
        {options([[SUPPLIER, 'the supplier'], ...places])}
      </Choice>
      <Choice label="To" value={to} onChange={(event) => setTo(event.target.value)}>
        {options(places)}
      </Choice>
      <p className="col-span-2 flex items-center gap-3">
        <Button type="submit" className="min-h-9" disabled={move.isPending || quantity === null || bad}>
          Move them
        </Button>
        <span role="status" className="text-soft">
          {move.data && `Moved: ${move.data.quantity}.`}
        </span>
        {move.error && (
          <span role="alert" className="font-semibold text-oxide">
            {move.error.message}
          </span>
        )}
      </p>
    </form>
  )
}
