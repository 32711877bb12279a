import { useState } from 'react'

import type { Schema } from '../../api/client'
import { dateWords } from '../../lib/dates'
import { sentence } from '../../lib/words'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { faultsOf } from './CompanyPage'
import { useLend, useTakeBack } from './queries'

/** Tools that go on another truck for some days: one jetter, two who need it. */
export function Loans({ crew }: { crew: Schema['CrewOut'] }) {
  const { today } = useCompany()
  const lend = useLend()
  const back = useTakeBack()
  const faults = faultsOf(lend.error)
  const blank = { tool: '', lender: '', borrower: '', first: today, last: today }
  const [typed, setTyped] = useState(blank)
  const put = (part: Partial<typeof blank>) => setTyped((before) => ({ ...before, ...part }))
  const out = crew.members.filter((one) => one.active)
  const carried = crew.equipment.filter((tool) => out.some((one) => one.equipment.includes(tool)))
  const trouble = lend.error ?? back.error
  return (
    <section className="mt-8">
      <h2 className="text-lead font-bold">Tools lent</h2>
      <ul>
        {crew.loans.map((one) => (
          <li key={one.id} className="flex items-baseline gap-2 border-t border-line py-1.5">
            <span className="min-w-0 flex-1">
              <strong className="first-letter:uppercase">{one.tool}</strong> of {one.lender} to {one.borrower}
              <span className="block text-soft">
                {dateWords(one.first_on, today)}
                {one.last_on !== one.first_on && ` to ${dateWords(one.last_on, today)}`}
              </span>
            </span>
            {crew.may_change && (
              <Button
                look="quiet"
                className="-my-1.5 text-fine"
                aria-label={
                  `Not lent: ${one.tool} of ${one.lender} to ${one.borrower}, ` + `${dateWords(one.first_on, today)}`
                }
                onClick={() => back.mutate(one.id)}
              >
                Not lent
              </Button>
            )}
          </li>
        ))}
        {crew.loans.length === 0 && <li className="border-t border-line py-2 text-soft">None is.</li>}
      </ul>
      {crew.may_change && carried.length > 0 && out.length > 1 && (
        <form
          className="mt-3 grid grid-cols-2 gap-x-3 gap-y-2 border-t-2 border-line pt-3"
          noValidate
          onSubmit={(event) => {
            event.preventDefault()
            lend.mutate(
              {
                tool: typed.tool || carried[0]!,
                lender_id: Number(typed.lender),
                borrower_id: Number(typed.borrower),
                first_on: typed.first,
                last_on: typed.last,
              },
              { onSuccess: () => setTyped(blank) },
            )
          }}
        >
          <Choice
            label="Tool"
            value={typed.tool || carried[0]}
            fault={faults.tool}
            onChange={(event) => put({ tool: event.target.value, lender: '' })}
          >
            {carried.map((tool) => (
              <option key={tool}>{tool}</option>
            ))}
          </Choice>
          <Member
            label="Of"
            value={typed.lender}
            fault={faults.lender_id}
            of={out.filter((one) => one.equipment.includes(typed.tool || carried[0]!))}
            onPut={(lender) => put({ lender })}
          />
          <Member
            label="Goes with"
            value={typed.borrower}
            fault={faults.borrower_id}
            of={out.filter((one) => String(one.id) !== typed.lender)}
            onPut={(borrower) => put({ borrower })}
          />
          <span />
          <Field
            label="First day of it"
            type="date"
            value={typed.first}
            fault={faults.first_on}
            onChange={({ target: { value } }) => put({ first: value, last: value > typed.last ? value : typed.last })}
          />
          <Field
            label="Last day of it"
            type="date"
            value={typed.last}
            fault={faults.last_on}
            onChange={(event) => put({ last: event.target.value })}
          />
          <Button type="submit" className="col-span-2" disabled={lend.isPending || !typed.lender || !typed.borrower}>
            Lend it
          </Button>
        </form>
      )}
      {trouble && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {sentence(trouble.message)}
        </p>
      )}
    </section>
  )
}

function Member({
  label,
  value,
  fault,
  of,
  onPut,
}: {
  label: string
  value: string
  fault: string | undefined
  of: Schema['CrewMemberOut'][]
  onPut: (id: string) => void
}) {
  return (
    <Choice label={label} value={value} fault={fault} onChange={(event) => onPut(event.target.value)}>
      <option value="">Choose …</option>
      {of.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </Choice>
  )
}
