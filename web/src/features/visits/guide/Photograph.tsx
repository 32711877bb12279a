import { useRef, useState } from 'react'

import { keepPhoto } from '../../../device/photos'
import { Button } from '../../../ui/Button'

interface Props {
  visit: string
  heaterId: number
  by: number
  caption: string
  /** Which piece of the heater the step is about. */
  piece: string
  /** What is to be on it, where a step asks for that: the dial, the wiring. */
  of?: string
}

/** A photograph at a step; kept on the device until the server has it. */
export function Photograph({ visit, heaterId, by, caption, piece, of }: Props) {
  const input = useRef<HTMLInputElement>(null)
  const [taken, setTaken] = useState(0)
  return (
    <>
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        className="hidden"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])]
          event.target.value = ''
          void Promise.all(
            files.map((file) => keepPhoto(visit, heaterId, by, caption.slice(0, 160), piece, file)),
          ).then(() => setTaken((before) => before + files.length))
        }}
      />
      <Button
        className="min-h-12 w-full px-1 text-body whitespace-normal!"
        aria-label={of && taken === 0 ? `Photograph ${of}` : undefined}
        onClick={() => input.current?.click()}
      >
        {taken === 0 ? (of ?? 'Photograph') : `${of ? `${of}: ` : ''}${taken} kept, more`}
      </Button>
    </>
  )
}
