import { Popover } from 'radix-ui'
import { useState } from 'react'

import { Button } from '../../../ui/Button'
import type { Step } from './interlock'

const REASONS = ['It is so already', 'Not needed here', 'It cannot be done here', 'Somebody else does it']

/** Skip a step: at once where nothing depends on it, else with a reason. */
export function SkipStep({ step, onSkip }: { step: Step; onSkip: (why: string) => void }) {
  const [open, setOpen] = useState(false)
  const acts =
    [step.sets, step.through, step.proves, step.finds].some((one) => Object.keys(one).length > 0) || step.licence !== ''
  if (!acts)
    return (
      <Button className="min-h-13 px-1 text-body" onClick={() => onSkip('')}>
        Skip step
      </Button>
    )
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button className="min-h-13 px-1 text-body">Skip step</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label="Why it is skipped"
          side="top"
          align="center"
          sideOffset={8}
          collisionPadding={12}
          className="basement z-20 w-[300px] space-y-2 rounded-xl border-2 border-copper bg-sheet p-3 text-ink"
        >
          <p className="text-body text-soft">
            Why? Nobody will know whether it was done: what hangs on it is asked again.
          </p>
          {REASONS.map((one) => (
            <Button
              key={one}
              className="min-h-12 w-full"
              onClick={() => {
                setOpen(false)
                onSkip(one)
              }}
            >
              {one}
            </Button>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
