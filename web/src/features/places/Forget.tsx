import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { client, unwrap, type Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'

export const keptOfOptions = (customerId: number) =>
  queryOptions({
    queryKey: ['customers', customerId, 'kept'],
    queryFn: () =>
      unwrap(client.GET('/api/customers/{customer_id}/forget', { params: { path: { customer_id: customerId } } })),
    staleTime: 0,
  })

/** Whoever asks for it is forgotten: what goes and what stays is said first, and their name is typed. */
export function Forget({ customerId }: { customerId: number }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <p>
        <button type="button" className="text-oxide underline underline-offset-2" onClick={() => setOpen(true)}>
          Have them forgotten
        </button>
        <span className="text-soft">, if they ask for it</span>
      </p>
      <Dialog open={open} onOpenChange={setOpen} title="Have this customer forgotten">
        <Asked customerId={customerId} onDone={() => setOpen(false)} />
      </Dialog>
    </>
  )
}

const times = (number: number, one: string, more: string) => `${number} ${number === 1 ? one : more}`

function Asked({ customerId, onDone }: { customerId: number; onDone: () => void }) {
  const { data, error, refetch } = useQuery(keptOfOptions(customerId))
  if (error && !data) return <Failed error={error} onRetry={() => void refetch()} />
  return data ? <Form kept={data} customerId={customerId} onDone={onDone} /> : <Loading what="what is kept of them" />
}

function Form({ kept, customerId, onDone }: { kept: Schema['KeptOfOut']; customerId: number; onDone: () => void }) {
  const [name, setName] = useState('')
  const queries = useQueryClient()
  const navigate = useNavigate()
  const forget = useMutation({
    mutationFn: () => {
      const asked = client.POST('/api/customers/{customer_id}/forget', {
        params: { path: { customer_id: customerId } },
        body: { name },
      })
      return unwrap(asked.then((answer) => ({ ...answer, data: answer.response.ok ? true : undefined })))
    },
    onSuccess: async () => {
      onDone()
      await navigate('/register')
      await queries.invalidateQueries()
    },
  })
  return (
    <form
      className="mt-3 space-y-3"
      onSubmit={(event) => {
        event.preventDefault()
        forget.mutate()
      }}
    >
      <div>
        <h3 className="font-bold">Gone for good</h3>
        <ul className="ml-4 list-disc">
          <li>their name, numbers and address, where they live and how one gets in, in the history too</li>
          <li>
            {times(kept.photographs, 'photograph or document', 'photographs and documents')},{' '}
            {times(kept.messages, 'message', 'messages')} with their answers
          </li>
          <li>notes, reasons and signatures of visits; lists that they came in, and bases written to a file</li>
          {kept.upcoming > 0 && <li>{times(kept.upcoming, 'visit', 'visits')} to come: called off, and not told</li>}
        </ul>
      </div>
      <div>
        <h3 className="font-bold">Stays, and is nobody’s</h3>
        <p>
          {times(kept.heaters, 'heater', 'heaters')} at {kept.sites.join(', ') || 'no site'}, out of service from now
          on, with what {times(kept.visits, 'visit', 'visits')} did, measured and found.
        </p>
        {kept.handed_over.length > 0 && (
          <p className="text-ochre-deep">
            {kept.handed_over.join(', ')}: others’ by now. Look whether the name there is still theirs.
          </p>
        )}
      </div>
      <p>
        There is no way back. Backups hold them until they are thinned, and a telephone until it next reads the day.
      </p>
      <Field
        label={`Type ${kept.name}`}
        fault={forget.error?.message}
        value={name}
        maxLength={160}
        autoComplete="off"
        onChange={(event) => setName(event.target.value)}
      />
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={forget.isPending || !name.trim()}>
          Forget them
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </form>
  )
}
