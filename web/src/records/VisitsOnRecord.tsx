import { Link } from 'react-router'

import type { Schema } from '../api/client'
import { useCompany, useMay } from '../session/session'
import { dateWords } from '../lib/dates'
import { duration } from './roundWords'

interface Props {
  heaterId: number
  entries: Schema['LogEntryOut'][]
}

/** Each visit with its report; what was recorded is amended, never altered. */
export function VisitsOnRecord({ heaterId, entries }: Props) {
  const { today } = useCompany()
  const records = useMay('record_visit')
  if (entries.length === 0) return null
  return (
    <section aria-label="Visits on record" className="border-b border-line pt-3 pb-2">
      <h3 className="font-bold">Visits</h3>
      <ul>
        {[...entries].reverse().map((one) => (
          <li key={one.visit_id} className="flex min-h-8 flex-wrap items-center gap-x-2">
            <span className="min-w-0 flex-1 wrap-break-word">
              {dateWords(one.on, today)}{' '}
              <span className="text-soft">
                {one.by}
                {one.minutes !== null && `, ${duration(one.minutes)}`}
                {one.amended && ', amended'}
              </span>
            </span>
            <a
              href={`/api/visits/${one.visit_id}/report.pdf`}
              aria-label={`Report of ${dateWords(one.on, today)}`}
              target="_blank"
              rel="noreferrer"
              className="inline-block px-1.5 py-1 text-copper-deep underline"
            >
              Report
            </a>
            {records && (
              <Link
                to={`/visit/${heaterId}/amend/${one.visit_id}`}
                aria-label={`Amend the visit of ${dateWords(one.on, today)}`}
                className="inline-block px-1.5 py-1 text-copper-deep underline"
              >
                Amend
              </Link>
            )}
            {one.lines.length > 0 && (
              <ul aria-label="Found" className="w-full pb-1">
                {one.lines.map((line) => (
                  <li key={`${line.task} ${line.words}`}>{line.words}</li>
                ))}
              </ul>
            )}
            {one.notes.length + one.readings.length > 0 && (
              <ul className="w-full pb-1 text-fine text-soft">
                {one.notes.map((line) => (
                  <li key={line} className="wrap-break-word">
                    “{line}”
                  </li>
                ))}
                {one.readings.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            )}
            {one.looked_at.length > 0 && (
              <details className="w-full border-l-4 border-oxide pl-2">
                <summary className="cursor-pointer py-1 text-oxide">{one.looked_at.length} to look at</summary>
                <ul className="pb-1.5 text-body">
                  {one.looked_at.map((line) => (
                    <li key={line} className="py-0.5">
                      {line}
                    </li>
                  ))}
                </ul>
                <a
                  href={`/api/visits/${one.visit_id}/report.pdf?office=true`}
                  target="_blank"
                  rel="noreferrer"
                  className="inline-block py-1 text-copper-deep underline"
                >
                  Report for the office
                </a>
              </details>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
