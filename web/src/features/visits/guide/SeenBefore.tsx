import { useQuery, useQueryClient } from '@tanstack/react-query'
import { liveQuery } from 'dexie'
import { useCallback, useEffect, useState } from 'react'

import { device } from '../../../device/store'
import { dateWords } from '../../../lib/dates'
import { attachmentsOptions } from '../../../records/attachmentQueries'
import { useCompany } from '../../../session/session'
import { Sheet } from '../VisitShell'

interface Props {
  heaterId: number
  visit: string
  piece: string
  /** What that is in words, where the step shows several. */
  of?: string
}

/** The piece that a step is about as it was photographed last time, beside how it was when this visit began on it. */
export function SeenBefore({ heaterId, visit, piece, of }: Props) {
  const { today } = useCompany()
  const sent = useQuery(attachmentsOptions({ heater_id: heaterId })).data ?? []
  const queries = useQueryClient()
  // What was sent is shown from the server.
  const onSent = useCallback(
    () => void queries.invalidateQueries(attachmentsOptions({ heater_id: heaterId })),
    [queries, heaterId],
  )
  const here = useTakenHere(visit, piece, onSent)
  const shown = sent.filter((one) => one.kind === 'photograph' && one.piece === piece && piece !== '')
  const earlier = shown.find((one) => one.visit_client_id !== visit)
  // The first of this visit: what it looked like before anything was touched.
  const now = shown.findLast((one) => one.visit_client_id === visit)
  if (!earlier && !now && !here) return null
  return (
    <Sheet>
      {of && <h3 className="text-body first-letter:uppercase">{of}</h3>}
      <div className="grid grid-cols-2 gap-2">
        {earlier && (
          <Picture
            src={`/api/attachments/${earlier.id}/file?small=true`}
            large={`/api/attachments/${earlier.id}/file`}
            words={`Last time, ${dateWords(earlier.taken_on ?? earlier.added_at.slice(0, 10), today)}`}
          />
        )}
        {now ? (
          <Picture
            src={`/api/attachments/${now.id}/file?small=true`}
            large={`/api/attachments/${now.id}/file`}
            words="At this visit"
          />
        ) : (
          here && <Picture src={here} large={here} words="At this visit" />
        )}
      </div>
    </Sheet>
  )
}

function Picture({ src, large, words }: { src: string; large: string; words: string }) {
  return (
    <figure>
      <a href={large} target="_blank" rel="noreferrer">
        {/* Both at one scale: what differs is what changed. */}
        <img src={src} alt={words} className="h-36 w-full rounded-lg object-contain" />
      </a>
      <figcaption className="mt-1 text-body text-soft">{words}</figcaption>
    </figure>
  )
}

/** The first photograph of a piece that this device took at a visit and has not sent yet. */
function useTakenHere(visit: string, piece: string, onSent: () => void): string | null {
  const [address, setAddress] = useState<string | null>(null)
  useEffect(() => {
    let made = ''
    let before = 0
    const watched = liveQuery(() => device.photos.where({ visit }).toArray()).subscribe({
      next: (photos) => {
        if (photos.length < before) onSent()
        before = photos.length
        if (made) URL.revokeObjectURL(made)
        const first = photos.find((one) => one.piece === piece && piece !== '')
        made = first ? URL.createObjectURL(first.picture) : ''
        setAddress(made || null)
      },
      error: () => setAddress(null),
    })
    return () => {
      watched.unsubscribe()
      if (made) URL.revokeObjectURL(made)
    }
  }, [visit, piece, onSent])
  return address
}
