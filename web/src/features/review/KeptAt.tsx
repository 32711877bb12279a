import { useCompany } from '../../session/session'
import { clockIn, dateWords, dayIn } from '../../lib/dates'

/** When what is shown was reckoned, where the night does that for a large base. */
export function KeptAt({ at }: { at: string | null }) {
  const { today, timezone } = useCompany()
  if (!at) return null
  const when = `${dateWords(dayIn(timezone, at), today)} at ${clockIn(timezone, at)}`
  return ` Reckoned ${when}; what came since counts from the next night.`
}
