import { Sheet } from '../VisitShell'
import { doubtful, type Stand } from './visit'
import type { Guide } from './state'

/** What each field may be, where it is not as the heater is to be left. */
const FIELDS: Record<string, Record<string, string>> = {
  cold: { shut: 'the cold is shut', passing: 'the cold is shut' },
  hot_valve: { shut: 'the hot side is shut' },
  energy: { off: 'it is off', pilot: 'only the pilot burns', on: 'it is on' },
  gas: { shut: 'the gas is shut', open: 'the gas is open' },
  hose: { rated: 'a hose is on the drain', plain: 'a hose is on the drain' },
  drain: { open: 'the drain is open', drips: 'the drain drips' },
  air: { open: 'an air inlet is open' },
  tap: { open: 'a faucet is open' },
  relief: { open: 'the relief lever is up' },
  relief_works: { no: 'the relief valve passes no water' },
  discharge: { blocked: 'the relief outlet is blocked' },
  level: { airy: 'there is air in it', low: 'it is not full', empty: 'it is empty' },
  ports: { high: 'a port is open', bottom: 'the floor port is open', element: 'the element is out' },
  union: { loose: 'a union is slack' },
  joints: { untested: 'a gas joint was not tested', open: 'a gas joint is open' },
  burner_line: { untested: 'the burner line was not tested while lit' },
  covers: { off: 'a cover is off' },
  fluid: { acid: 'acid is in it' },
  tank: { leaks: 'the tank leaks' },
  wiring: { bad: 'the wiring is not safe' },
  control: { faulty: 'the control is at fault' },
  exhaust: { spills: 'exhaust comes into the room' },
  exchanger: { cracked: 'the exchanger is cracked' },
  smell: { yes: 'it smelled of gas' },
  tag: { no: 'no tag is on it' },
  told: { no: 'the people in the house were not told' },
}

/** The check at the end: what is not, or may not be, as the heater is to be left. */
export function Left({ guide, stand }: { guide: Guide; stand: Stand }) {
  const fields = doubtful(guide, stand)
  const ending = stand.ending ? guide.endings[stand.ending]! : null
  if (fields.length === 0) {
    if (ending && ending.leaves !== 'restored') {
      return (
        <section className="rounded-xl border-2 border-ochre bg-sheet p-4">
          <h2 className="text-title">{ending.title}</h2>
          <p className="mt-1">
            {
              {
                left_off: 'Left off and tagged, for everybody, until somebody proves it right.',
                as_found: 'Left as it was found: nothing was touched.',
                evacuated: 'Nobody goes back in until the gas company says so.',
              }[ending.leaves]
            }
          </p>
          <p className="mt-2">
            Say to the customer: <strong>{ending.customer}</strong>
          </p>
          {ending.licence && (
            <p className="mt-2 text-body text-soft">
              Needs somebody with a {ending.licence} license. The office is told by itself.
            </p>
          )}
        </section>
      )
    }
    return (
      <Sheet title="Everything is as it should be left">
        <p>Seen or done: cold open, drain shut and dry, relief lever down, faucets shut, covers on, heating.</p>
        {ending && (
          <p className="mt-2">
            Say to the customer: <strong>{ending.customer}</strong>
          </p>
        )}
      </Sheet>
    )
  }
  return (
    <section role="alert" className="rounded-xl border-2 border-oxide bg-sheet p-4">
      <h2 className="text-title text-oxide">Not as it should be left</h2>
      <ul className="mt-1 list-disc pl-5">
        {fields.map((field) => (
          <li key={field}>{lineOf(guide, stand, field)}</li>
        ))}
      </ul>
      <p className="mt-2">Look, and do its step; or stop here and leave it off. It is told to whoever comes next.</p>
    </section>
  )
}

function lineOf(guide: Guide, stand: Stand, field: string): string {
  const band = guide.bands[field]
  const [low, high] = field === 'level' ? stand.state.level : stand.state.hot_c
  const words = band
    ? band.filter((one) => low < one.most && high > one.least).map((one) => one.name)
    : stand.state.words[field]!
  const leaves = guide.leaves[stand.ending ? guide.endings[stand.ending]!.leaves : 'restored'] ?? {}
  const wrong = words.filter((one) => !(leaves[field] ?? []).includes(one))
  const said = [...new Set(wrong.map((one) => FIELDS[field]?.[one] ?? `${field.replace('_', ' ')}: ${one}`))]
  return `${wrong.length === words.length ? '' : 'Perhaps '}${said.join(' or ')}`
}
