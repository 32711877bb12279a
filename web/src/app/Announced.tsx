import { useAnnounced } from '../ui/announce'

/** What is said to who does not see it. It stands from the first: a region that comes with its words is not read. */
export function Announced() {
  return (
    <p role="status" aria-live="polite" className="sr-only">
      {useAnnounced()}
    </p>
  )
}
