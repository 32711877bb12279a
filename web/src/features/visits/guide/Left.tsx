import { Sheet } from '../VisitShell'
import { unrestored, type Guide, type State } from './interlock'

const FIELDS: Record<string, string> = {
  cold: 'the cold supply is shut', energy: 'it is not heating', gas: 'the gas valve is shut', hose: 'a hose is on the drain', drain: 'the drain is open', air: 'an air inlet is open', tap: 'a hot tap is open',
  relief: 'the relief lever is up', level: 'the tank is not full', ports: 'a port is open', union: 'a union is slackened', joints: 'a gas joint was not tested', covers: 'a cover is off', fluid: 'acid is in it',
}

/** The check at the end: what is not as a heater is left. */
export function Left({ guide, state }: { guide: Guide; state: State }) {
  const fields = unrestored(guide, state)
  if (fields.length === 0) {
    return (
      <Sheet title="Everything is as it is left">
        <p>Cold open, drain shut and dry, relief lever down, taps shut, covers on, heating.</p>
      </Sheet>
    )
  }
  return (
    <section role="alert" className="rounded-xl border-2 border-oxide bg-sheet p-4">
      <h2 className="text-title text-oxide">Not as it is left</h2>
      <ul className="mt-1 list-disc pl-5">
        {fields.map((one) => (
          <li key={one}>{FIELDS[one] ?? one}</li>
        ))}
      </ul>
      <p className="mt-2">Put it right and go back to its step, or leave a sign on it that says so.</p>
    </section>
  )
}
