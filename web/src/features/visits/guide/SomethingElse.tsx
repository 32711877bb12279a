import { Button } from '../../../ui/Button'
import { Sheet } from '../VisitShell'
import { everything, possible, type Guide } from './state'
import type { Stand } from './visit'

interface Props {
  guide: Guide
  stand: Stand
  onFound: (name: string) => void
  onHappened: (name: string) => void
}

/** At any step: what happened to the heater meanwhile, what else is found at it, what its people say. */
export function SomethingElse({ guide, stand, onFound, onHappened }: Props) {
  const words = everything(guide, stand.state)
  const happened = guide.outside.filter((one) => possible(one.when, words))
  // Nothing leads back from an early end into the work.
  const over = stand.ending !== '' && guide.endings[stand.ending]!.leaves !== 'restored'
  const found = over ? [] : guide.found.filter((one) => possible(one.when, words))
  const complaints = found.filter((one) => one.name.startsWith('complaint_'))
  return (
    <>
      <Choices
        title="It happened"
        choices={happened.map((one) => ({ ...one, grave: one.ends !== '' }))}
        onChoose={onHappened}
      />
      <Choices
        title="Something else found"
        choices={found.filter((one) => !complaints.includes(one))}
        onChoose={onFound}
      />
      <Choices title="The customer complains" choices={complaints} onChoose={onFound} />
    </>
  )
}

interface ChoicesProps {
  title: string
  choices: { name: string; says: string; grave?: boolean }[]
  onChoose: (name: string) => void
}

function Choices({ title, choices, onChoose }: ChoicesProps) {
  if (choices.length === 0) return null
  return (
    <Sheet title={title}>
      <div className="grid grid-cols-2 gap-2">
        {choices.map((one) => (
          <Button
            key={one.name}
            className={`min-h-12 px-2 text-body whitespace-normal! ${one.grave ? 'border-oxide text-oxide' : ''}`}
            onClick={() => onChoose(one.name)}
          >
            {one.says}
          </Button>
        ))}
      </div>
    </Sheet>
  )
}
