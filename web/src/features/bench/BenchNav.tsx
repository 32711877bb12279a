import { useMay } from '../../session/session'
import { Rooms } from '../../ui/Rooms'

const ROOMS = [
  { to: '/bench', words: 'Years in a minute' },
  { to: '/bench/practise', words: 'Practise a visit' },
  { to: '/bench/find', words: 'Find what is wrong' },
  { to: '/bench/signed-off', words: 'Signed off' },
  { to: '/bench/calculators', words: 'Calculators' },
]

const OWN = { to: '/bench/written', words: 'Your own' }

export function BenchNav() {
  const writes = useMay('keep_people')
  return <Rooms label="Bench" rooms={writes ? [...ROOMS, OWN] : ROOMS} />
}
