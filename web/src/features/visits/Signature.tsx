import { useEffect, useRef } from 'react'
import SignaturePad from 'signature_pad'

import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'

/** The box in which lines are told. */
const WIDE = 300
const HIGH = 100

interface Props {
  value: Schema['SignatureIn'] | null
  onChange: (value: Schema['SignatureIn'] | null) => void
}

/** The customer signs with a finger; the lines are kept, not a picture. */
export function Signature({ value, onChange }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const pad = useRef<SignaturePad>(null)
  const tell = useRef(onChange)
  const name = useRef<HTMLInputElement>(null)
  useEffect(() => {
    tell.current = onChange
  })
  const lines = () => {
    const box = canvas.current!.getBoundingClientRect()
    const at = (of: number, whole: number, most: number) =>
      Math.round(10 * Math.min(Math.max((of / whole) * most, 0), most)) / 10
    return pad
      .current!.toData()
      .map((line) =>
        line.points.map((one) => [at(one.x, box.width, WIDE), at(one.y, box.height, HIGH)] as [number, number]),
      )
  }
  const told = () => {
    const drawn = lines()
    const signed = name.current!.value.trim()
    tell.current(signed && drawn.length > 0 ? { name: signed, lines: drawn } : null)
  }
  useEffect(() => {
    const here = canvas.current!
    const ratio = window.devicePixelRatio || 1
    here.width = here.offsetWidth * ratio
    here.height = here.offsetHeight * ratio
    here.getContext('2d')?.scale(ratio, ratio)
    const made = new SignaturePad(here)
    pad.current = made
    const after = () => told()
    made.addEventListener('endStroke', after)
    return () => {
      made.off()
      made.removeEventListener('endStroke', after)
    }
    // The pad is made once for its canvas; what it tells reads the refs.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  return (
    <div className="space-y-2">
      <label className="block">
        Who signs
        <input
          ref={name}
          maxLength={80}
          onChange={told}
          className="mt-1 h-12 w-full rounded-lg border-2 border-rule bg-ground px-3"
        />
      </label>
      <canvas
        ref={canvas}
        role="img"
        aria-label={value ? `Signed by ${value.name}` : 'Sign here with a finger'}
        className="aspect-[3/1] w-full touch-none rounded-lg border-2 border-rule bg-white"
      />
      <Button
        className="min-h-11"
        onClick={() => {
          pad.current!.clear()
          told()
        }}
      >
        Clear
      </Button>
    </div>
  )
}
