import { useRef, useState } from 'react'

import { useAddAttachment } from '../../records/attachmentQueries'
import { Button } from '../../ui/Button'

interface Props {
  siteId: number
  /** Under which they are kept, so that the visit finds them. */
  group: string
  /** What the caller says, as their caption. */
  said: string
  onAdded: () => void
}

/** Photographs that a caller sent, kept with the site and shown to whoever comes. */
export function Photographs({ siteId, group, said, onAdded }: Props) {
  const add = useAddAttachment({ site_id: siteId })
  const input = useRef<HTMLInputElement>(null)
  const [count, setCount] = useState(0)
  return (
    <p className="mt-2 flex flex-wrap items-center gap-x-3">
      <input
        ref={input}
        type="file"
        accept="image/jpeg,image/png,image/webp"
        aria-label="Photograph that they sent"
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (!file) return
          const told = { onSuccess: () => (setCount((now) => now + 1), onAdded()) }
          add.mutate({ file, caption: said.slice(0, 160), visitClientId: group }, told)
        }}
      />
      <Button look="quiet" className="-ml-2 min-h-8" disabled={add.isPending} onClick={() => input.current?.click()}>
        {add.isPending ? 'Sending …' : 'Add a photograph that they sent'}
      </Button>
      <span role="status">{count > 0 && `${count} kept for whoever comes`}</span>
      {add.error && (
        <span role="alert" className="font-semibold text-oxide">
          {add.error.message}
        </span>
      )}
    </p>
  )
}
