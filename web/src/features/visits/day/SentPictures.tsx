import { useQuery } from '@tanstack/react-query'

import { attachmentsOptions } from '../../../records/attachmentQueries'

interface Props {
  siteId: number
  groups: string[]
}

/** What the customer's photographs show, before one gets there. */
export function SentPictures({ siteId, groups }: Props) {
  const { data } = useQuery(attachmentsOptions({ site_id: siteId }))
  const sent = data?.filter((one) => one.visit_client_id !== null && groups.includes(one.visit_client_id)) ?? []
  if (sent.length === 0) return null
  return (
    <ul aria-label="Photographs that they sent" className="mt-2 grid grid-cols-3 gap-2">
      {sent.map((one) => (
        <li key={one.id}>
          <a href={`/api/attachments/${one.id}/file`} target="_blank" rel="noreferrer">
            <img
              src={`/api/attachments/${one.id}/file?small=true`}
              alt={one.caption || 'Photograph that they sent'}
              loading="lazy"
              className="h-24 w-full rounded border border-line object-cover"
            />
          </a>
        </li>
      ))}
    </ul>
  )
}
