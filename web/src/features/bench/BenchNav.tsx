import { Rooms } from '../../ui/Rooms'

const ROOMS = [
  { to: '/bench', words: 'Years in a minute' },
  { to: '/bench/practise', words: 'Practise a visit' },
  { to: '/bench/find', words: 'Find what is wrong' },
  { to: '/bench/signed-off', words: 'Signed off' },
  { to: '/bench/calculators', words: 'Calculators' },
]

export const BenchNav = () => <Rooms label="Bench" rooms={ROOMS} />
