import { Popover } from 'radix-ui'
import { useState } from 'react'

import type { Tap } from '../../../device/store'
import { phrase } from '../../../lib/phrases'
import type { Units } from '../../../lib/units'
import { Button } from '../../../ui/Button'
import type { Guide } from './state'
import { folded, stepNamed, undoHurts, type Event } from './visit'

interface Props {
  guide: Guide
  events: Event[]
  /** The steps that the last tap did, in their order. */
  last: Tap[]
  units: Units
  /** 0: nothing was done at the heater; 1: it was done, and is undone. */
  onBack: (choice: number) => void
}

/** Back to the last step. The record goes back, not the valve: so it is asked what became of that. */
export function Back({ guide, events, last, units, onBack }: Props) {
  const [open, setOpen] = useState(false)
  const steps = last.flatMap((one) => stepNamed(guide, one.step) ?? [])
  const acts = steps.filter((step) => Object.keys(step.sets).length + Object.keys(step.through).length > 0)
  if (acts.length === 0)
    return (
      <Button className="min-h-13 px-1 text-body" onClick={() => onBack(0)}>
        Back
      </Button>
    )
  const hurts = () => {
    const was = folded(
      guide,
      events.filter((one) => !last.some((tap) => tap.clientId === one.id)),
    )
    return last.some(({ step }) => undoHurts(guide, folded(guide, events), was, { step }))
  }
  const choose = (choice: number) => {
    setOpen(false)
    onBack(choice)
  }
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button className="min-h-13 px-1 text-body">Back</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={8}
          collisionPadding={12}
          className="basement z-20 w-[320px] space-y-2 rounded-xl border-2 border-copper bg-sheet p-3 text-ink"
        >
          <p>“{phrase(acts.map((step) => step.do).join(' '), units)}” What was done at the heater?</p>
          <Button className="min-h-12 w-full whitespace-normal!" onClick={() => choose(0)}>
            Nothing yet: tapped by mistake
          </Button>
          {open && hurts() ? (
            <p className="border-l-4 border-oxide pl-3 text-body font-semibold text-oxide">
              If it was done, leave it done: undoing it now would hurt.
            </p>
          ) : (
            <Button className="min-h-12 w-full whitespace-normal!" onClick={() => choose(1)}>
              It was done, and I undid it
            </Button>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
