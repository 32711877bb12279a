import { useState, type KeyboardEvent } from 'react'

/**
 * What is typed over a value in place: saved when the box is left or Enter is pressed; Escape brings back what is set.
 * It stands until the value itself is another, and while it is at fault, so that nothing typed is lost.
 *
 * @param onLeave is given what differs from what is set.
 */
export function useTyped(set: string, fault: unknown, onLeave: (typed: string) => void) {
  const [typed, setTyped] = useState<{ text: string; over: string } | null>(null)
  const stands = typed !== null && (typed.over === set || Boolean(fault))
  return {
    value: stands ? typed.text : set,
    onChange: (event: { target: { value: string } }) => setTyped({ text: event.target.value, over: set }),
    onBlur: () => {
      if (!stands) return
      const text = typed.text.trim()
      if (text === set) setTyped(null)
      else onLeave(text)
    },
    onKeyDown: (event: KeyboardEvent<HTMLInputElement>) => {
      if (event.key === 'Enter') event.currentTarget.blur()
      if (event.key === 'Escape') setTyped(null)
    },
  }
}
