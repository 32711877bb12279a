import { Button } from '../../../ui/Button'
import { Sheet } from '../VisitShell'

interface Props {
  by: string
  last: string
  next: string
  /** 0: what is shown here is all that was done; 1: more may have been. */
  onTakeOver: (choice: number) => void
}

/** One device leads at a time: two that each go on would know nothing of each other's valves. */
export function TakeOver({ by, last, next, onTakeOver }: Props) {
  return (
    <Sheet title="Another device leads this visit">
      {last && (
        <p>
          Last known here: <strong>{last}</strong>
          {by && ` (${by})`}
        </p>
      )}
      {next && <p className="mt-1 text-soft">Next: {next}</p>}
      <p className="mt-3 text-body">Go on from this device only when the other one is put away.</p>
      <div className="mt-3 space-y-2">
        <Button look="main" className="min-h-13 w-full px-3 whitespace-normal!" onClick={() => onTakeOver(0)}>
          Lead from here: nothing more was done
        </Button>
        <Button className="min-h-13 w-full px-3 whitespace-normal!" onClick={() => onTakeOver(1)}>
          Lead from here: more may have been done
        </Button>
      </div>
    </Sheet>
  )
}
