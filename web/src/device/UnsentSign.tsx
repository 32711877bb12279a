import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { useMe } from '../session/session'
import { reached } from './reached'
import { device, type Photo } from './store'
import { sendKept, useWaiting } from './unsent'

const AGAIN_MS = 20_000

/** A plain sign of what is not yet sent. Sends it when there is a signal again, and now and then. */
export function UnsentSign() {
  const me = useMe()
  const { unsent, waits, photos, refused } = useWaiting()
  const queries = useQueryClient()
  const sends = waits.length > 0 || photos > 0 || unsent.some((one) => one.by === me.id && !one.trouble)
  useEffect(() => {
    if (!sends) return
    const send = () =>
      void sendKept(me.id).then((answers) => (answers.size > 0 ? queries.invalidateQueries() : undefined))
    send()
    const again = setInterval(send, AGAIN_MS)
    window.addEventListener('online', send)
    return () => {
      clearInterval(again)
      window.removeEventListener('online', send)
    }
  }, [sends, me.id, queries])
  if (unsent.length === 0 && waits.length === 0 && refused.length === 0) return null
  return (
    <div
      role="status"
      aria-label="Not yet sent"
      className="border-b border-ochre bg-ochre-pale px-4 py-1.5 text-body text-ink"
    >
      {waits.some((one) => !one.trouble) && (
        <span className="block">{reached()} What you tap is kept on this device and sent later.</span>
      )}
      {waits
        .filter((one) => one.trouble)
        .map((one) => (
          <span key={one.name} className="block text-oxide">
            {one.name}: {one.trouble} What you tap is kept on this device.
          </span>
        ))}
      {unsent.length > 0 && (
        <>
          <strong>
            {unsent.length === 1 ? 'One visit is' : `${unsent.length} visits are`} kept on this device and not yet sent
          </strong>
          : {unsent.map((one) => one.heater).join(', ')}.
        </>
      )}
      {unsent
        .filter((one) => one.trouble)
        .map((one) => (
          <span key={one.clientId} className="block text-oxide">
            {one.heater}: {one.trouble}
          </span>
        ))}
      {refused.map((one) => (
        <Refused key={one.clientId} photo={one} />
      ))}
      {unsent.some((one) => one.by !== me.id) && (
        <span className="block">Of somebody else who signed in here: they send it when they sign in again.</span>
      )}
    </div>
  )
}

/** A photograph that the server would not have: it can be sent once more, or kept elsewhere before it is let go. */
function Refused({ photo }: { photo: Photo }) {
  const [address] = useState(() => URL.createObjectURL(photo.picture))
  useEffect(() => () => URL.revokeObjectURL(address), [address])
  return (
    <span className="flex flex-wrap items-center gap-x-3 text-oxide">
      Photograph “{photo.caption}”: {photo.trouble}
      <button
        type="button"
        className="py-2 underline"
        onClick={() => void device.photos.update(photo.clientId, { trouble: '' })}
      >
        Send it again
      </button>
      <a href={address} download="photograph.jpg" className="py-2 underline">
        Save it
      </a>
      <button type="button" className="py-2 underline" onClick={() => void device.photos.delete(photo.clientId)}>
        Let it go
      </button>
    </span>
  )
}
