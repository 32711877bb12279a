import clsx from 'clsx'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { KINDS, sentence } from '../../lib/words'
import { Attachments } from '../../records/Attachments'
import { OpenEndList } from '../../records/OpenEndList'

/** What to shut and what not to touch, what is open, and what else stands at the site. */
export function Place({ heater }: { heater: Schema['HeaterOut'] }) {
  return (
    <div className="space-y-4 pt-3">
      <section>
        <h3>Shut it here</h3>
        <ul className="mt-1 space-y-1.5">
          {heater.shut_offs.map((one) => (
            <li key={one.id} className="leading-snug">
              <strong>{sentence(one.name)}</strong>
              {[one.form, one.where].filter(Boolean).map((word) => `, ${word}`)}
              <span
                className={clsx(
                  'block',
                  one.severity === 'danger'
                    ? 'font-semibold text-oxide'
                    : one.severity === 'defect'
                      ? 'text-copper-deep'
                      : 'text-soft',
                )}
              >
                {one.do_not_operate
                  ? `Don’t touch: ${one.condition_words}. Use ${one.use_instead || 'the next valve up'}.`
                  : one.condition_words}
              </span>
              {one.more && one.more.length > 0 && (
                <span className="block text-fine text-soft">{one.more.join(' · ')}</span>
              )}
            </li>
          ))}
          {heater.shut_offs.length === 0 && (
            <li className="text-soft">
              {heater.site.shut_off
                ? `${sentence(heater.site.shut_off)}; nobody has looked at it more closely.`
                : 'Nobody has written down its valves.'}
            </li>
          )}
        </ul>
      </section>
      <section>
        <h3>Open issues</h3>
        <OpenEndList openEnds={heater.open_ends} at={{ heater_id: heater.id }} />
      </section>
      <section>
        <h3>Photographs and papers</h3>
        <Attachments of={{ heater_id: heater.id }} />
      </section>
      {heater.others.length > 0 && (
        <section>
          <h3>Also at this site</h3>
          <ul className="mt-1">
            {heater.others.map((one) => (
              <li key={one.id}>
                <Link to={`/heaters/${one.id}`} className="text-copper-deep underline underline-offset-2">
                  {sentence(one.location || KINDS[one.kind])}
                </Link>{' '}
                <span className="text-soft">
                  {one.tag}
                  {one.bank && `, ${one.bank}`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Link
        to={`/sites/${heater.site.id}`}
        className="inline-block font-semibold text-copper-deep underline underline-offset-2"
      >
        Everything at {heater.site.name}
      </Link>
    </div>
  )
}
