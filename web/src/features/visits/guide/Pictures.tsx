import { PICTURES } from '../../../lib/words'
import { phrase } from '../../../lib/phrases'
import type { Units } from '../../../lib/units'
import type { Step } from './interlock'
import { Photograph } from './Photograph'
import { SeenBefore } from './SeenBefore'

interface Props {
  visit: string
  heaterId: number
  by: number
  step: Step
  units: Units
}

/**
 * What a step wants photographed, each subject with a button of its own, and how each looked before; of a step that
 * wants none, how its piece looked.
 */
export function Pictures({ visit, heaterId, by, step, units }: Props) {
  const wanted = step.pictures ?? []
  return (
    <>
      {wanted.length > 0 && (
        <div className="grid grid-cols-3 gap-2" role="group" aria-labelledby="pictures">
          <p id="pictures" className="col-span-3 text-body text-soft">
            Photograph
          </p>
          {wanted.map((piece) => (
            <Photograph
              key={piece}
              visit={visit}
              heaterId={heaterId}
              by={by}
              caption={phrase(step.do, units)}
              piece={piece}
              of={PICTURES[piece]}
            />
          ))}
        </div>
      )}
      {(wanted.length > 0 ? wanted : [step.part]).map((piece) => (
        <SeenBefore
          key={piece}
          heaterId={heaterId}
          visit={visit}
          piece={piece}
          {...(wanted.length > 1 && { of: PICTURES[piece] })}
        />
      ))}
    </>
  )
}
