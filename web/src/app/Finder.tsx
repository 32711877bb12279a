import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { Dialog } from 'radix-ui'
import { Phone, Search } from 'lucide-react'
import { useDeferredValue, useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'

import { HeaterSign } from '../drawing/HeaterSign'
import type { Schema } from '../api/client'
import { findOptions } from '../records/heaterQueries'
import { nextVisitWords } from '../records/roundWords'
import { dueWords } from '../lib/dates'
import { COMPONENTS, KINDS } from '../lib/words'
import { useCompany } from '../session/session'
import { isForThePage } from '../ui/singleKeys'

/** One finder for everything, from anywhere: press / and type. */
export function Finder() {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === '/' && isForThePage(event)) {
        event.preventDefault()
        setOpen(true)
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [])
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger
        className={clsx(
          'flex h-8 w-64 items-center gap-2 rounded-md border border-line bg-sheet px-2.5',
          'text-soft hover:border-rule',
        )}
      >
        <Search size={15} aria-hidden />
        <span className="flex-1 wrap-break-word text-left">Find heater, street, phone</span>
        <kbd className="rounded border border-line bg-ground px-1.5 text-fine">/</kbd>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-shade/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={clsx(
            'fixed top-3 right-4 z-50 w-[min(37rem,calc(100vw-2rem))] rounded-lg border',
            'border-line bg-sheet shadow-xl',
          )}
        >
          <Dialog.Title className="sr-only">Find</Dialog.Title>
          <FinderList onDone={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

interface Hit {
  key: string
  to: string
  /** Its site, if somebody may ring from there. */
  siteId?: number
  heater?: Schema['HeaterFoundOut']
  place?: Schema['PlaceFoundOut']
}

function FinderList({ onDone }: { onDone: () => void }) {
  const [words, setWords] = useState('')
  const [chosen, setChosen] = useState(0)
  const navigate = useNavigate()
  const asked = useDeferredValue(words.trim())
  const { data, isFetching } = useQuery({ ...findOptions(asked), enabled: asked.length > 0 })
  const hits: Hit[] = asked
    ? [
        ...(data?.heaters.map((heater) => ({
          key: `h${heater.id}`,
          to: `/heaters/${heater.id}`,
          siteId: heater.site_id,
          heater,
        })) ?? []),
        ...(data?.places.map((place, at) => ({
          key: `${place.kind}${place.id}-${at}`,
          to: place.kind === 'zone' ? `/water/${place.id}` : `/sites/${place.id}`,
          ...(place.kind === 'site' && { siteId: place.id }),
          place,
        })) ?? []),
      ]
    : []
  const goTo = (hit: Hit, rings = false) => {
    onDone()
    void navigate(rings && hit.siteId ? `/sites/${hit.siteId}/call` : hit.to)
  }
  const at = hits[chosen]
  const list = useRef<HTMLUListElement>(null)
  useEffect(() => {
    // Not in every environment of tests.
    list.current?.children[chosen]?.scrollIntoView?.({ block: 'nearest' })
  }, [chosen])
  return (
    <>
      <input
        autoFocus
        role="combobox"
        aria-label="Find a heater, site, customer, phone number, tag or zone"
        aria-expanded={hits.length > 0}
        aria-controls="found"
        aria-activedescendant={at ? `found-${at.key}` : undefined}
        value={words}
        onChange={(event) => {
          setWords(event.target.value)
          setChosen(0)
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setChosen((now) => Math.min(now + 1, hits.length - 1))
          else if (event.key === 'ArrowUp') setChosen((now) => Math.max(now - 1, 0))
          else if (event.key === 'Enter' && at) goTo(at, event.shiftKey)
          else return
          event.preventDefault()
        }}
        placeholder="Name, street, tag, serial, phone, zone"
        className="h-12 w-full rounded-t-lg bg-transparent px-4 text-lead"
      />
      {asked && data && !data.exact && hits.length > 0 && (
        <p className="border-t border-line px-4 pt-2 text-soft">Nothing is written like “{asked}”. Close to it:</p>
      )}
      <ul
        ref={list}
        id="found"
        role="listbox"
        aria-label="Found"
        className="max-h-[70vh] overflow-y-auto border-t border-line p-1"
      >
        {hits.map((hit, number) => (
          <li
            key={hit.key}
            id={`found-${hit.key}`}
            role="option"
            aria-selected={number === chosen}
            onClick={() => goTo(hit)}
            onMouseMove={() => setChosen(number)}
            className={`flex items-center gap-3 rounded px-3 py-1.5 ${
              number === chosen ? 'bg-ground outline-2 outline-water -outline-offset-2' : ''
            }`}
          >
            {hit.heater && <HeaterLines row={hit.heater} />}
            {hit.place && (
              <span className="min-w-0 flex-1 pl-8">
                <span className="block font-bold">{hit.place.name}</span>
                <span className="block text-soft">
                  {[hit.place.kind === 'zone' ? 'water zone' : 'site', hit.place.detail].filter(Boolean).join(' · ')}
                </span>
                {hit.siteId && <Coming next={hit.place.next_visit} />}
              </span>
            )}
            {hit.siteId && (
              // For a hand at the mouse; by keys it is Shift and Enter. An option holds no button of its own.
              <span
                aria-hidden
                title="They are on the telephone"
                onClick={(event) => {
                  event.stopPropagation()
                  goTo(hit, true)
                }}
                className={clsx(
                  'grid size-9 shrink-0 cursor-pointer place-items-center rounded-md text-copper-deep',
                  'hover:bg-sheet',
                )}
              >
                <Phone size={17} />
              </span>
            )}
          </li>
        ))}
      </ul>
      <p role="status" className="px-4 pb-3 text-soft">
        {!asked && 'Type a few letters or a number; Enter opens the first, Shift and Enter answers their call.'}
        {asked && !isFetching && hits.length > 0 && (
          <span className="sr-only">{hits.length === 1 ? 'One found' : `${hits.length} found`}</span>
        )}
        {asked &&
          !isFetching &&
          hits.length === 0 &&
          `Nothing is called, or nearly called, “${asked}”. Try fewer letters, or the street.`}
      </p>
    </>
  )
}

/** When somebody comes there next. */
function Coming({ next }: { next: Schema['NextVisitOut'] | null }) {
  const { today } = useCompany()
  return <span className={`block ${next ? '' : 'text-soft'}`}>{nextVisitWords(next, today)}</span>
}

function HeaterLines({ row }: { row: Schema['HeaterFoundOut'] }) {
  const { today } = useCompany()
  return (
    <>
      <HeaterSign kind={row.kind} depthShare={row.depth_share} anodeLeft={row.anode_left} height={30} />
      <span className="min-w-0 flex-1">
        <span className="block font-bold">
          {row.site}, {row.street}
        </span>
        <span className="block text-soft">
          {row.tag} · {KINDS[row.kind]} · {row.zone}
        </span>
        <Coming next={row.next_visit} />
      </span>
      {row.next_component && (
        <span className="text-right text-fine text-soft">
          {COMPONENTS[row.next_component as keyof typeof COMPONENTS]}
          <br />
          {dueWords(row.next_due_on, today)}
        </span>
      )}
    </>
  )
}
