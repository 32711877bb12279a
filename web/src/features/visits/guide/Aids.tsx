import { useState, type ReactNode } from 'react'

import { Button } from '../../../ui/Button'

interface AidsProps {
  photograph: ReactNode
  ask: (open: boolean) => ReactNode
  note: ReactNode
  reckon: ReactNode
  more: ReactNode
}
type Aid = 'ask' | 'note' | 'reckon' | 'more'
const NAMES: Record<Aid, string> = {
  note: 'Write a note',
  ask: 'Ask the lead',
  reckon: 'Calculators',
  more: 'Something else',
}

/** What helps at any step: a photograph, a note, a question, a calculation, and what was found or happened besides. */
export function Aids({ photograph, ask, note, reckon, more }: AidsProps) {
  const [open, setOpen] = useState<Aid | null>(null)
  const button = (one: Aid, className = '') => (
    <Button
      className={`min-h-12 px-1 text-body whitespace-normal! ${className}`}
      aria-expanded={open === one}
      onClick={() => setOpen((before) => (before === one ? null : one))}
    >
      {NAMES[one]}
    </Button>
  )
  return (
    <>
      <div className="grid grid-cols-3 gap-2">
        {button('more')}
        {photograph}
        {button('note')}
        {button('ask')}
        {button('reckon', 'col-span-2')}
      </div>
      {open === 'more' && more}
      {open === 'note' && note}
      {ask(open === 'ask')}
      {open === 'reckon' && reckon}
    </>
  )
}
