import { useEffect, useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { Dialog } from '../ui/Dialog'
import { isForThePage, setSingleKeys, useSingleKeys } from '../ui/singleKeys'

const PLACES: Record<string, { to: string; name: string }> = {
  r: { to: '/register', name: 'Register' },
  o: { to: '/outlook', name: 'Outlook' },
  p: { to: '/rounds', name: 'Rounds' },
  s: { to: '/rounds/season', name: 'Season' },
  i: { to: '/register/open-ends', name: 'Open issues' },
  w: { to: '/water', name: 'Water' },
  v: { to: '/review', name: 'Review' },
  b: { to: '/bench', name: 'Bench' },
  t: { to: '/settings', name: 'Settings' },
}
const TOGETHER_MS = 1200
const ASKED = 'keys-asked'

/** Opens the list of keys for who has no key for it. */
export const showKeys = () => window.dispatchEvent(new Event(ASKED))

/** Keys that work on every page of the office: ? tells them, g and a letter go somewhere. */
export function Shortcuts() {
  const [open, setOpen] = useState(false)
  const single = useSingleKeys()
  const navigate = useNavigate()
  useEffect(() => {
    let asked = 0
    const onAsk = () => setOpen(true)
    const onKey = (event: KeyboardEvent) => {
      if (!isForThePage(event)) return
      const place = PLACES[event.key]
      if (place && event.timeStamp - asked < TOGETHER_MS) void navigate(place.to)
      asked = event.key === 'g' ? event.timeStamp : -TOGETHER_MS
      if (event.key === '?') setOpen(true)
    }
    window.addEventListener('keydown', onKey)
    window.addEventListener(ASKED, onAsk)
    return () => {
      window.removeEventListener('keydown', onKey)
      window.removeEventListener(ASKED, onAsk)
    }
  }, [navigate])
  if (!open) return null
  return (
    <Dialog open onOpenChange={setOpen} title="Keys" description="On every page of the office, while no field is open.">
      <dl className="mt-3 grid grid-cols-[7rem_1fr] items-baseline gap-y-2">
        <Keys keys={['/']} does="Find a heater, street, phone or zone" />
        <Keys keys={['?']} does="This list" />
        {Object.entries(PLACES).map(([key, { name }]) => (
          <Keys key={key} keys={['g', key]} does={name} />
        ))}
        <Keys keys={['m']} does="On a visit of the rounds: lift it; arrows carry it, Enter puts it down" />
        <Keys keys={['Ctrl', 'z']} does="Take the last change back" />
        <Keys keys={['Esc']} does="Close what is open; leave a lifted visit where it is" />
      </dl>
      <label className="mt-4 flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4"
          checked={single}
          onChange={(event) => setSingleKeys(event.target.checked)}
        />
        A key alone does this; otherwise only together with Alt
      </label>
      <p className="mt-4">
        <Link to="/glossary" className="underline" onClick={() => setOpen(false)}>
          Glossary: what the words mean
        </Link>
      </p>
    </Dialog>
  )
}

function Keys({ keys, does }: { keys: string[]; does: string }) {
  return (
    <>
      <dt className="space-x-1">
        {keys.map((key) => (
          <kbd key={key} className="rounded border border-rule bg-ground px-1.5 py-0.5">
            {key}
          </kbd>
        ))}
      </dt>
      <dd>{does}</dd>
    </>
  )
}
