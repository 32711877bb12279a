import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { dateWords, firstWeekday } from '../../lib/dates'
import { sentence } from '../../lib/words'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Choice, Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { useTyped } from '../../ui/typed'
import { faultsOf } from './CompanyPage'
import { TimeBox } from './controls'
import { Loans } from './Loans'
import { crewOptions, useAddAbsence, useAddMember, useChangeMember, useDropAbsence } from './queries'
import { SettingsShell } from './SettingsShell'

/** As the interface numbers them. */
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'].map((name, at) => ({
  name,
  at,
}))

/** Who goes out: when, with what, and when not. */
export function CrewPage() {
  const { data, error, refetch } = useQuery(crewOptions)
  return (
    <SettingsShell title="Crew">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the crew" />}
      {data && (
        <div className="grid gap-x-12 lg:grid-cols-[minmax(0,1fr)_340px]">
          <section>
            <h2 className="text-lead font-bold">Usual weeks</h2>
            <p className="pb-2 text-soft">
              The next planning goes by these; what is planned already stays until the season is planned anew.
            </p>
            <ul>
              {data.members.map((one) => (
                <Member key={one.id} one={one} equipment={data.equipment} disabled={!data.may_change} />
              ))}
            </ul>
            {data.members.length === 0 && <p className="border-t border-line py-3 text-soft">Nobody goes out yet.</p>}
            {data.may_change && data.candidates.length > 0 && <Joins candidates={data.candidates} />}
          </section>
          <div>
            <Absences crew={data} />
            <Loans crew={data} />
          </div>
        </div>
      )}
    </SettingsShell>
  )
}

function Member({
  one: kept,
  equipment,
  disabled,
}: {
  one: Schema['CrewMemberOut']
  equipment: string[]
  disabled: boolean
}) {
  const change = useChangeMember(kept.id)
  // What is on its way shows at once, and the next tap goes on from it.
  const one: Schema['CrewMemberOut'] = change.isPending
    ? { ...kept, ...(change.variables as Partial<Schema['CrewMemberOut']>) }
    : kept
  const faults = faultsOf(change.error)
  const put = (body: Schema['CrewMemberPatch']) => change.mutate(body)
  const said = Object.values(faults)[0]
  const begins = firstWeekday()
  return (
    <li className={`border-t-2 border-line py-3 ${one.active ? '' : 'opacity-60'}`}>
      <div className="flex items-baseline gap-3">
        <h3 className="text-lead font-bold">{one.name}</h3>
        <span className="text-soft">
          {one.licences.length > 0 ? one.licences.join(', ') : 'no license held today'}
          {!one.active && ' · does not go out'}
        </span>
        <span className="flex-1" />
        {!disabled && (
          <Button look="quiet" className="-my-2" onClick={() => put({ active: !one.active })}>
            {one.active ? 'Goes out no more' : 'Goes out again'}
          </Button>
        )}
      </div>
      {one.active && (
        <div className="mt-1.5 grid grid-cols-[auto_minmax(0,1fr)] items-center gap-x-6 gap-y-2">
          <div role="group" aria-label={`Days of ${one.name}`} className="flex gap-1">
            {[...DAYS.slice(begins), ...DAYS.slice(0, begins)].map(({ name: day, at }) => {
              const on = one.weekdays.includes(at)
              return (
                <button
                  key={day}
                  type="button"
                  aria-pressed={on}
                  disabled={disabled}
                  onClick={() =>
                    put({ weekdays: on ? one.weekdays.filter((other) => other !== at) : [...one.weekdays, at] })
                  }
                  className={clsx(
                    'relative h-9 w-11 rounded-md border',
                    on ? 'border-copper bg-sheet font-bold text-ink' : 'border-line text-soft',
                  )}
                >
                  <span aria-hidden>{day.slice(0, 2)}</span>
                  <span className="sr-only">{day}</span>
                </button>
              )
            })}
          </div>
          <p className="flex flex-wrap items-center gap-2 whitespace-nowrap">
            <TimeBox
              label={`${one.name} begins`}
              value={one.begins}
              disabled={disabled}
              fault={faults.begins}
              onSet={(begins) => put({ begins })}
            />
            to
            <TimeBox
              label={`${one.name} ends`}
              value={one.ends}
              disabled={disabled}
              fault={faults.ends}
              onSet={(ends) => put({ ends })}
            />
          </p>
          <p className="flex gap-4">
            {equipment.map((item) => (
              <label key={item} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  disabled={disabled}
                  checked={one.equipment.includes(item)}
                  onChange={(event) =>
                    put({
                      equipment: event.target.checked
                        ? [...one.equipment, item]
                        : one.equipment.filter((other) => other !== item),
                    })
                  }
                  className="size-4 accent-(--color-moss)"
                />
                {item}
              </label>
            ))}
          </p>
          <p className="flex items-center gap-2 whitespace-nowrap text-soft">
            Lunch, {one.lunch_minutes} min:
            <TimeBox
              label={`Earliest lunch of ${one.name}`}
              value={one.lunch_earliest}
              disabled={disabled}
              fault={faults.lunch_earliest}
              onSet={(lunch_earliest) => put({ lunch_earliest })}
            />
            to
            <TimeBox
              label={`Latest lunch of ${one.name}`}
              value={one.lunch_latest}
              disabled={disabled}
              fault={faults.lunch_latest}
              onSet={(lunch_latest) => put({ lunch_latest })}
            />
          </p>
          <Words
            label="Rides along"
            of={one.name}
            value={one.helper}
            fault={faults.helper}
            empty="nobody"
            disabled={disabled}
            onSet={(helper) => put({ helper })}
          />
          <Words
            label="Begins at"
            of={one.name}
            value={one.place}
            fault={faults.place}
            empty="the yard"
            disabled={disabled}
            onSet={(place) => put({ place })}
          />
        </div>
      )}
      {said && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {change.error?.message}
        </p>
      )}
    </li>
  )
}

function Words({
  label,
  of,
  value,
  fault,
  empty,
  disabled,
  onSet,
}: {
  label: string
  of: string
  value: string
  fault: string | undefined
  empty: string
  disabled: boolean
  onSet: (value: string) => void
}) {
  const typed = useTyped(value, fault, onSet)
  return (
    <label className="flex items-center gap-2">
      <span className="whitespace-nowrap text-soft">{label}</span>
      <input
        aria-label={`${label}: ${of}`}
        {...typed}
        placeholder={empty}
        maxLength={80}
        disabled={disabled}
        aria-invalid={fault ? true : undefined}
        className={clsx(
          'h-9 w-full min-w-0 rounded-md border border-rule bg-sheet px-2.5',
          'placeholder:text-soft disabled:border-line disabled:bg-ground',
        )}
      />
    </label>
  )
}

function Joins({ candidates }: { candidates: Schema['CandidateOut'][] }) {
  const add = useAddMember()
  const [who, setWho] = useState('')
  return (
    <form
      className="flex items-end gap-2 border-t-2 border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (who) add.mutate(Number(who), { onSuccess: () => setWho('') })
      }}
    >
      <Choice label="Goes out as well" value={who} onChange={(event) => setWho(event.target.value)} className="w-56">
        <option value="">Choose …</option>
        {candidates.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </Choice>
      <Button type="submit" disabled={!who || add.isPending}>
        Add
      </Button>
      {add.error && (
        <p role="alert" className="font-semibold text-oxide">
          {add.error.message}
        </p>
      )}
    </form>
  )
}

/** Who is away when; entered in a line, since it is done with the telephone at the ear. */
function Absences({ crew }: { crew: Schema['CrewOut'] }) {
  const { today } = useCompany()
  const add = useAddAbsence()
  const drop = useDropAbsence()
  const faults = faultsOf(add.error)
  const blank = { member: '', first: today, last: today, why: '' }
  const [typed, setTyped] = useState(blank)
  const put = (part: Partial<typeof blank>) => setTyped((before) => ({ ...before, ...part }))
  return (
    <section>
      <h2 className="text-lead font-bold">Away</h2>
      <ul>
        {crew.absences.map((one) => (
          <li key={one.id} className="flex items-baseline gap-2 border-t border-line py-1.5">
            <span className="min-w-0 flex-1">
              <strong>{one.name || 'Everybody'}</strong>, {one.why}
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
                  `${one.name || 'Everybody'} is there after all: ${one.why}, ` + `${dateWords(one.first_on, today)}`
                }
                onClick={() => drop.mutate(one.id)}
              >
                There after all
              </Button>
            )}
          </li>
        ))}
        {crew.absences.length === 0 && <li className="border-t border-line py-2 text-soft">Nobody is.</li>}
      </ul>
      {crew.may_change && (
        <form
          className="mt-3 grid grid-cols-2 gap-x-3 gap-y-2 border-t-2 border-line pt-3"
          noValidate
          onSubmit={(event) => {
            event.preventDefault()
            add.mutate(
              {
                member_id: typed.member ? Number(typed.member) : null,
                first_on: typed.first,
                last_on: typed.last,
                why: typed.why,
              },
              { onSuccess: () => setTyped(blank) },
            )
          }}
        >
          <Choice label="Who" value={typed.member} onChange={(event) => put({ member: event.target.value })}>
            <option value="">everybody: a holiday</option>
            {crew.members
              .filter((one) => one.active)
              .map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
          </Choice>
          <Field
            label="Why"
            value={typed.why}
            placeholder="ill, holiday, course"
            maxLength={80}
            fault={faults.why && 'Say why, in a word.'}
            onChange={(event) => put({ why: event.target.value })}
          />
          <Field
            label="First day"
            type="date"
            value={typed.first}
            fault={faults.first_on}
            onChange={(event) =>
              put({
                first: event.target.value,
                last: event.target.value > typed.last ? event.target.value : typed.last,
              })
            }
          />
          <Field
            label="Last day"
            type="date"
            value={typed.last}
            fault={faults.last_on}
            onChange={(event) => put({ last: event.target.value })}
          />
          <Button type="submit" className="col-span-2" disabled={add.isPending}>
            Enter it
          </Button>
        </form>
      )}
      {drop.error && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {sentence(drop.error.message)}
        </p>
      )}
    </section>
  )
}
