import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { numberOf } from '../../lib/units'
import type { Asked, Side } from './queries'

type CareName = Side['care']

export interface AskedLives {
  kind: Schema['HeaterKind']
  capacity: number
  people: number
  zone: string
  luck: string
  /** Of a kWh, as it was typed. */
  price: string
  energyPrice: number | null
  sides: Side[]
  asked: Asked
  say: (name: string) => (value: string) => void
}

/** What the address asks of two lives. Parameters: usualZone, the water until another is chosen. */
export function useAskedLives(usualZone: string): AskedLives {
  const [address, setAddress] = useSearchParams()
  const said = (name: string, usual: string) => address.get(name) ?? usual
  const say = (name: string) => (value: string) =>
    setAddress(
      (now) => {
        now.set(name, value)
        return now
      },
      { replace: true },
    )
  const side = (which: string, care: CareName): Side => ({
    care: said(`${which}_care`, care) as CareName,
    softened: said(`${which}_water`, 'hard') === 'soft',
    setpoint_c: Number(said(`${which}_set`, '60')),
  })
  const kind = said('kind', 'gas_tank') as Schema['HeaterKind']
  const sides = [side('a', 'yearly'), side('b', 'never')]
  const [zone, luck, price] = [said('zone', usualZone), said('luck', '0'), said('kwh', '')]
  const [capacity, people] = [Number(said('size', '190')), Number(said('people', '4'))]
  const energyPrice = numberOf(price)
  const asked: Asked = {
    kind,
    capacity_l: capacity,
    people,
    ...(Number(zone) ? { zone_id: Number(zone) } : {}),
    ...(Number(luck) ? { seed: Number(luck) } : {}),
    care: sides.map((one) => one.care),
    softened: sides.map((one) => one.softened),
    setpoint_c: sides.map((one) => one.setpoint_c),
  }
  return {
    kind,
    capacity,
    people,
    zone,
    luck,
    price,
    energyPrice: energyPrice !== null && Number.isFinite(energyPrice) ? energyPrice : null,
    sides,
    asked,
    say,
  }
}
