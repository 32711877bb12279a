import { Button } from '../../ui/Button'

/** What planning the rest of a day anew came to, and the way back to it. */
export function WhatChanged({ changes, onClose }: { changes: string[]; onClose: () => void }) {
  return (
    <div className="mt-3">
      <ul aria-label="What changed" className="border-l-4 border-water pl-2.5">
        {changes.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
      <Button look="main" className="mt-4" onClick={onClose}>
        To the day
      </Button>
    </div>
  )
}
