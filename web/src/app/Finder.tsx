import { useQuery } from '@tanstack/react-query'
import { Dialog } from 'radix-ui'
import { Search } from 'lucide-react'
import { useDeferredValue, useEffect, useState } from 'react'
import { useNavigate } from 'react-router'

import { HeaterSign } from '../drawing/HeaterSign'
import { heatersOptions } from '../features/heaters/queries'
import { dueWords } from '../lib/dates'
import { COMPONENTS, KINDS } from '../lib/words'
import { useCompany } from './session'

/** One finder for everything, from anywhere: press / and type. */
export function Finder() {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select, [role=dialog]')
      if (event.key === '/' && !typing) {
        event.preventDefault()
        setOpen(true)
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [])
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="flex h-8 w-64 items-center gap-2 rounded-md border border-line bg-sheet px-2.5 text-soft hover:border-rule">
        <Search size={15} aria-hidden />
        <span className="flex-1 truncate text-left">Find heater, street, tag</span>
        <kbd className="rounded border border-line bg-ground px-1.5 text-fine">/</kbd>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-3 right-4 z-50 w-[30rem] rounded-lg border border-line bg-sheet shadow-xl"
        >
          <Dialog.Title className="sr-only">Find</Dialog.Title>
          <FinderList onDone={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

function FinderList({ onDone }: { onDone: () => void }) {
  const [words, setWords] = useState('')
  const [chosen, setChosen] = useState(0)
  const navigate = useNavigate()
  const { today } = useCompany()
  const asked = useDeferredValue(words.trim())
  const { data, isFetching } = useQuery({ ...heatersOptions({ q: asked, limit: 8 }), enabled: asked.length > 0 })
  const rows = asked ? (data?.rows ?? []) : []
  const goTo = (id: number) => {
    onDone()
    void navigate(`/heaters/${id}`)
  }
  return (
    <>
      <input
        autoFocus
        role="combobox"
        aria-label="Find a heater, street, tag or zone"
        aria-expanded={rows.length > 0}
        aria-controls="found"
        aria-activedescendant={rows[chosen] ? `found-${rows[chosen].id}` : undefined}
        value={words}
        onChange={(event) => {
          setWords(event.target.value)
          setChosen(0)
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setChosen((at) => Math.min(at + 1, rows.length - 1))
          else if (event.key === 'ArrowUp') setChosen((at) => Math.max(at - 1, 0))
          else if (event.key === 'Enter' && rows[chosen]) goTo(rows[chosen].id)
          else return
          event.preventDefault()
        }}
        placeholder="Name, street, tag, zone, kind"
        className="h-12 w-full rounded-t-lg bg-transparent px-4 text-lead"
      />
      <ul id="found" role="listbox" aria-label="Found" className="border-t border-line p-1">
        {rows.map((row, at) => (
          <li
            key={row.id}
            id={`found-${row.id}`}
            role="option"
            aria-selected={at === chosen}
            onClick={() => goTo(row.id)}
            onMouseMove={() => setChosen(at)}
            className={`flex items-center gap-3 rounded px-3 py-1.5 ${at === chosen ? 'bg-ground' : ''}`}
          >
            <HeaterSign kind={row.kind} depthShare={row.depth_share} anodeLeft={row.anode_left} height={30} />
            <span className="min-w-0 flex-1">
              <span className="block truncate font-bold">
                {row.site}, {row.street}
              </span>
              <span className="block truncate text-soft">
                {row.tag} · {KINDS[row.kind]} · {row.zone}
              </span>
            </span>
            {row.next_component && (
              <span className="text-right text-fine text-soft">
                {COMPONENTS[row.next_component as keyof typeof COMPONENTS]}
                <br />
                {dueWords(row.next_due_on, today)}
              </span>
            )}
          </li>
        ))}
      </ul>
      <p role="status" className="px-4 pb-3 text-soft">
        {!asked && 'Type a few letters; Enter opens the first.'}
        {asked && !isFetching && rows.length === 0 && `Nothing has all of “${asked}”. Try fewer letters, or the street.`}
        {asked && data && data.total > rows.length && `${data.total} in all; type more to narrow it.`}
      </p>
    </>
  )
}
