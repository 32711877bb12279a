import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { client, unwrap, type Schema } from '../../api/client'
import { useMay } from '../../session/session'
import { Phrase } from '../../ui/Phrase'
import { Forget } from './Forget'

const WAYS: Record<Schema['Way'], string> = {
  email: 'e-mail',
  text: 'text message',
  call: 'a call',
  never: 'nothing; they ring us',
}

export const contactOptions = (customerId: number) =>
  queryOptions({
    queryKey: ['contacts', customerId],
    queryFn: () =>
      unwrap(client.GET('/api/outbox/contacts/{customer_id}', { params: { path: { customer_id: customerId } } })),
  })

/** How the customer wants to hear of visits, and whether anything may be written at all. */
export function CustomerContact({ customerId }: { customerId: number }) {
  const edits = useMay('edit_register')
  const takesOut = useMay('take_out')
  const forgets = useMay('forget')
  const queries = useQueryClient()
  const { data } = useQuery(contactOptions(customerId))
  // Whoever is told that somebody was faster sees what it is now, and says it again.
  const set = useMutation({
    mutationFn: (body: Schema['ContactIn']) =>
      unwrap(
        client.PUT('/api/outbox/contacts/{customer_id}', {
          params: { path: { customer_id: customerId } },
          body: { ...body, version: data!.version },
        }),
      ),
    onSettled: () => void queries.invalidateQueries({ queryKey: ['contacts', customerId] }),
  })
  if (!data) return null
  const without = !data.opted_out && data.way !== data.reached_by && data.reached_by === 'call'
  return (
    <div className="mt-1">
      <p>
        <span className="text-soft">Hears of visits by</span>
        {edits ? (
          <Phrase
            label="Way to reach them"
            value={data.way}
            options={Object.entries(WAYS).map(([value, label]) => ({ value: value as Schema['Way'], label }))}
            onChange={(way) => set.mutate({ way, opted_out: data.opted_out })}
          />
        ) : (
          <strong className="mx-1">{WAYS[data.way]}</strong>
        )}
        {without && (
          <span className="text-ochre-deep">
            {data.way === 'text' ? 'but texts are not sent, or no number is on record' : 'but no address is on record'}:
            is called
          </span>
        )}
      </p>
      <label className={data.opted_out ? 'font-semibold' : 'text-soft'}>
        <input
          type="checkbox"
          checked={data.opted_out}
          disabled={!edits}
          onChange={(event) => set.mutate({ way: data.way, opted_out: event.target.checked })}
          className="mr-1.5 align-[-2px]"
        />
        wants no messages
      </label>
      {takesOut && (
        <p>
          <a
            href={`/api/customers/${customerId}/data.zip`}
            download
            className="text-copper-deep underline underline-offset-2"
          >
            Everything kept of them
          </a>
          <span className="text-soft">, if they ask for it</span>
        </p>
      )}
      {forgets && <Forget customerId={customerId} />}
      {set.error && (
        <p role="alert" className="font-semibold text-oxide">
          {set.error.message}
        </p>
      )}
    </div>
  )
}
