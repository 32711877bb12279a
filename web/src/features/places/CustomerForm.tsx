import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useForm } from 'react-hook-form'

import { ApiError, client, unwrap, type Schema } from '../../api/client'
import { siteOptions } from '../../records/placeQueries'
import { useVersion } from '../../records/version'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { Loading } from '../../ui/States'

const customerOptions = (id: number) =>
  queryOptions({
    queryKey: ['customers', id],
    queryFn: () => unwrap(client.GET('/api/customers/{customer_id}', { params: { path: { customer_id: id } } })),
  })

/** Everything that shows a customer's name or number is read again. */
function useRead() {
  const queries = useQueryClient()
  return () =>
    Promise.all(
      ['customers', 'contacts', 'sites', 'heaters', 'rounds', 'find'].map((one) =>
        queries.invalidateQueries({ queryKey: [one] }),
      ),
    )
}

/** A customer's name and how they are reached. */
export function CustomerForm({ customerId, onDone }: { customerId: number; onDone: () => void }) {
  const { data } = useQuery({ ...customerOptions(customerId), staleTime: 0 })
  return data ? <Form key={data.version} customer={data} onDone={onDone} /> : <Loading what="the customer" />
}

function Form({ customer, onDone }: { customer: Schema['CustomerOut']; onDone: () => void }) {
  const read = useRead()
  const { version, onError } = useVersion(customer.version)
  const change = useMutation({
    mutationFn: (body: Schema['CustomerPatch']) =>
      unwrap(client.PATCH('/api/customers/{customer_id}', { params: { path: { customer_id: customer.id } }, body })),
    onSuccess: async () => {
      await read()
      onDone()
    },
    onError,
  })
  const more =
    customer.sites.length > 1 ? `Served at ${customer.sites.length} sites: ${customer.sites.join(', ')}.` : ''
  return (
    <>
      {more && <p className="mt-2 text-soft">{more}</p>}
      <Fields
        known={customer}
        error={change.error}
        busy={change.isPending}
        say="Save"
        onSave={(typed) => change.mutate({ ...typed, version })}
        onDone={onDone}
      />
    </>
  )
}

/** A site goes to somebody else: it was sold, or others moved in. */
export function HandOver({ siteId, onDone }: { siteId: number; onDone: () => void }) {
  const read = useRead()
  const queries = useQueryClient()
  const hand = useMutation({
    mutationFn: (body: Schema['CustomerFields']) =>
      unwrap(client.POST('/api/sites/{site_id}/customer', { params: { path: { site_id: siteId } }, body })),
    onSuccess: async (page) => {
      queries.setQueryData(siteOptions(siteId).queryKey, page)
      await read()
      onDone()
    },
  })
  return (
    <>
      <p className="mt-2 text-soft">
        Visits stay where they are, but what was agreed has to be agreed anew. Who was here keeps their record.
      </p>
      <Fields
        error={hand.error}
        busy={hand.isPending}
        say="Hand it over"
        onSave={(typed) => hand.mutate(typed)}
        onDone={onDone}
      />
    </>
  )
}

interface FieldsProps {
  known?: Schema['CustomerFields']
  error: Error | null
  busy: boolean
  say: string
  onSave: (typed: Schema['CustomerFields']) => void
  onDone: () => void
}

function Fields({ known, error, busy, say, onSave, onDone }: FieldsProps) {
  const faults = error instanceof ApiError ? error.fields : {}
  const { register, handleSubmit } = useForm({
    defaultValues: {
      name: known?.name ?? '',
      phone: known?.phone ?? '',
      second_phone: known?.second_phone ?? '',
      email: known?.email ?? '',
    },
  })
  return (
    <form
      className="mt-3 grid grid-cols-2 gap-3 max-sm:grid-cols-1"
      onSubmit={(event) => void handleSubmit(onSave)(event)}
      noValidate
    >
      <Field label="Name" needed fault={faults.name} autoComplete="off" {...register('name')} />
      <Field label="E-mail" type="email" fault={faults.email} autoComplete="off" {...register('email')} />
      <Field label="Telephone" type="tel" fault={faults.phone} autoComplete="off" {...register('phone')} />
      <Field
        label="Second telephone"
        type="tel"
        fault={faults.second_phone}
        autoComplete="off"
        {...register('second_phone')}
      />
      {error && (
        <p role="alert" className="col-span-full font-semibold text-oxide">
          {error.message}
        </p>
      )}
      <div className="col-span-full flex gap-2">
        <Button look="main" type="submit" disabled={busy}>
          {say}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
