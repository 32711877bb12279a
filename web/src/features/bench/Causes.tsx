import { useId } from 'react'

import type { Schema } from '../../api/client'

interface Props {
  causes: Schema['CauseOut'][]
  noted: string
  onNote: (cause: string) => void
}

/** What it was, in the technician's opinion: judged against what was so. */
export function Causes({ causes, noted, onNote }: Props) {
  const id = useId()
  return (
    <section aria-label="Your note">
      <label htmlFor={id} className="mb-1 block font-bold">
        What was wrong
      </label>
      <select
        id={id}
        value={noted}
        onChange={(event) => onNote(event.target.value)}
        className="h-11 w-full rounded-md border border-rule bg-sheet px-2"
      >
        <option value="" disabled>
          not known yet
        </option>
        {causes.map((one) => (
          <option key={one.name} value={one.name}>
            {one.says}
          </option>
        ))}
      </select>
    </section>
  )
}
