import type { Schema } from '../../api/client'
import { isTank } from '../../drawing/HeaterSign'
import { shown, type Units } from '../../lib/units'
import { KINDS } from '../../lib/words'
import { useCompany } from '../../session/session'
import { Phrase } from '../../ui/Phrase'
import type { Side } from './queries'
import type { AskedLives } from './useAskedLives'
import { CARES, DESCALED } from './words'

type CareName = Side['care']

const LIVED = Object.keys(KINDS) as Schema['HeaterKind'][]
const SIZES = [115, 150, 190, 280, 455]
const PEOPLE = [1, 2, 3, 4, 6, 8]
const SETTINGS = [50, 55, 60, 65, 70]

interface Props {
  lives: AskedLives
  zones: Schema['ZoneOnMapOut'][]
}

/** Which two lives are drawn, as a sentence whose words can be changed. */
export function LivesAsked({ lives, zones }: Props) {
  const { units } = useCompany()
  const { kind, capacity, people, zone, luck, sides, say } = lives
  const tank = isTank(kind)
  return (
    <p className="text-soft">
      A
      <Phrase
        label="Kind of heater"
        value={kind}
        options={LIVED.map((one) => ({ value: one, label: KINDS[one] }))}
        onChange={say('kind')}
      />
      {tank && (
        <>
          of
          <Phrase
            label="Size"
            value={String(capacity)}
            options={withOne(SIZES, capacity).map((one) => ({
              value: String(one),
              label: shown(units, 'volume_l', one),
            }))}
            onChange={say('size')}
          />
        </>
      )}{' '}
      on
      <Phrase
        label="Water"
        value={zone}
        options={zones.map((one) => ({ value: String(one.id), label: one.name }))}
        onChange={say('zone')}
      />
      for
      <Phrase
        label="Household"
        value={String(people)}
        options={withOne(PEOPLE, people).map((one) => ({
          value: String(one),
          label: one === 1 ? 'one person' : `${one} people`,
        }))}
        onChange={say('people')}
      />
      : <Kept which="a" side={sides[0]!} tank={tank} units={units} say={say} /> beside{' '}
      <Kept which="b" side={sides[1]!} tank={tank} units={units} say={say} />, with
      <Phrase
        label="Luck"
        value={luck}
        options={[
          { value: '0', label: 'ordinary luck' },
          ...[1, 2, 3, 4, 5].map((one) => ({ value: String(one), label: `the luck of household ${one}` })),
        ]}
        onChange={say('luck')}
      />
      .
    </p>
  )
}

/** The usual figures with the one that a link brought. */
const withOne = (usual: number[], one: number) =>
  usual.includes(one) ? usual : [...usual, one].toSorted((a, b) => a - b)

interface KeptProps {
  which: string
  side: Side
  tank: boolean
  units: Units
  say: (name: string) => (value: string) => void
}

function Kept({ which, side, tank, units, say }: KeptProps) {
  const name = which === 'a' ? 'First' : 'Second'
  return (
    <span className="whitespace-nowrap narrow:whitespace-normal">
      <Phrase label={`${name} life: care`} value={side.care} options={caresOf(tank)} onChange={say(`${which}_care`)} />
      on
      <Phrase
        label={`${name} life: water`}
        value={side.softened ? 'soft' : 'hard'}
        options={[
          { value: 'hard', label: 'water as it comes' },
          { value: 'soft', label: 'softened water' },
        ]}
        onChange={say(`${which}_water`)}
      />
      at
      <Phrase
        label={`${name} life: setting`}
        value={String(side.setpoint_c)}
        options={withOne(SETTINGS, side.setpoint_c).map((one) => ({
          value: String(one),
          label: shown(units, 'temperature_c', one),
        }))}
        onChange={say(`${which}_set`)}
      />
    </span>
  )
}

/** What can be done about it: a tankless heater is descaled, and has no rod to look after. */
const caresOf = (tank: boolean): { value: CareName; label: string }[] =>
  (Object.keys(CARES) as CareName[])
    .filter((one) => tank || one !== 'rods_only')
    .map((one) => ({ value: one, label: tank ? CARES[one].words : DESCALED[one] }))
