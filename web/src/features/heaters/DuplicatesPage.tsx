import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { useMay } from '../../session/session'
import { counted } from '../../lib/counted'
import { monthWords } from '../../lib/dates'
import { KINDS } from '../../lib/words'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Empty, Failed, Loading } from '../../ui/States'
import { duplicatesOptions, useMerge } from '../../records/heaterQueries'
import { RegisterNav } from '../../records/RegisterNav'

/** Heaters that look like one: keep one of the two, and the other's past becomes its own. */
export function DuplicatesPage() {
  const { data, error, refetch } = useQuery(duplicatesOptions)
  const edits = useMay('edit_register')
  const merge = useMerge()
  const [asked, setAsked] = useState<{ kept: Schema['SuspectOut']; other: Schema['SuspectOut'] } | null>(null)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Possible duplicates</h1>
      <RegisterNav />
      {merge.error && (
        <p role="alert" className="px-5 py-2 font-semibold text-oxide">
          {merge.error.message}
        </p>
      )}
      {error && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="what looks the same" />}
      {data?.length === 0 && <Empty>No two heaters look like one.</Empty>}
      {data && data.length > 0 && (
        <p className="max-w-3xl px-5 pt-4 text-soft">
          The one you keep takes over the other’s visits, parts, photographs and open issues, and what it does not know
          itself. The other goes to the archive.
        </p>
      )}
      <ul className="min-h-0 flex-1 overflow-y-auto px-5" tabIndex={0} aria-label="Pairs">
        {data?.map((pair) => (
          <li key={`${pair.first.id}-${pair.second.id}`} className="border-b border-line py-3">
            <p className="text-soft">They have {pair.because}.</p>
            <div className="mt-1 grid grid-cols-2 gap-8">
              {[[pair.first, pair.second] as const, [pair.second, pair.first] as const].map(([one, other]) => (
                <div key={one.id} className="flex items-center justify-between gap-3">
                  <Suspect one={one} />
                  {edits && (
                    <Button
                      className="min-h-8"
                      aria-label={`Keep this one: ${one.tag}, not ${other.tag}`}
                      disabled={merge.isPending}
                      onClick={() => setAsked({ kept: one, other })}
                    >
                      Keep this one
                    </Button>
                  )}
                </div>
              ))}
            </div>
          </li>
        ))}
      </ul>
      {asked && (
        <Dialog
          open
          onOpenChange={() => setAsked(null)}
          title={`Merge ${asked.other.tag} into ${asked.kept.tag}?`}
          description={
            `${asked.kept.tag} takes over ${counted(asked.other.visits, 'visit')} with all that goes with them. ` +
            `${asked.other.tag} goes to the archive, and nothing divides them again by itself.`
          }
        >
          <div className="mt-4 flex gap-3">
            <Button
              look="main"
              onClick={() => {
                merge.mutate({ kept: asked.kept.id, other: asked.other.id })
                setAsked(null)
              }}
            >
              Merge them
            </Button>
            <Button onClick={() => setAsked(null)}>Leave them as they are</Button>
          </div>
        </Dialog>
      )}
    </div>
  )
}

function Suspect({ one }: { one: Schema['SuspectOut'] }) {
  return (
    <p className="min-w-0 leading-snug">
      <Link to={`/heaters/${one.id}`} className="block font-bold hover:underline">
        {[one.tag, one.site, one.location].filter(Boolean).join(', ')}
      </Link>
      <span className="text-soft">
        {KINDS[one.kind]} · {one.street} · {one.installed_on ? monthWords(one.installed_on) : 'age not known'} ·
        {one.serial ? ` serial ${one.serial}` : ' serial not read'} ·{' '}
        {one.visits === 1 ? '1 visit' : `${one.visits} visits`}
      </span>
    </p>
  )
}
