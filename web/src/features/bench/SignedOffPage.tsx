import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { Check } from 'lucide-react'
import { useState } from 'react'

import type { Schema } from '../../api/client'
import { addDays, dateWords, isoDay } from '../../lib/dates'
import { WORK } from '../../lib/words'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'
import { BenchNav } from './BenchNav'
import { useVersion } from '../../records/version'
import { signedOffOptions, useAsked, useSignOff, useTakenBack } from './queries'

type Person = Schema['SignedOffPersonOut']
type Work = Schema['SignedOffWorkOut']
type Asked = Schema['AskedOut']

/** Who may do what alone, until when, and how far the others are. */
export function SignedOffPage() {
  const { data, error, refetch } = useQuery(signedOffOptions)
  const keeps = useMay('keep_people')
  const [asking, setAsking] = useState<Asked | null>(null)
  const [opened, setOpened] = useState<{ person: Person; work: Work } | null>(null)
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Signed off</h1>
      <BenchNav />
      {error ? (
        <Failed error={error} onRetry={() => void refetch()} />
      ) : !data ? (
        <Loading what="who does what alone" />
      ) : (
        <div className="min-h-0 flex-1 overflow-auto px-5 pb-6">
          <p className="max-w-3xl py-4 text-soft">
            What an apprentice, or whoever is new, does alone after which practice and which visits under supervision.
            Until then the guide says so, and a visit is saved under somebody. A license is a thing of its own.
          </p>
          <div tabIndex={0} role="region" aria-label="Who does what alone" className="relative overflow-x-auto">
            <table className="w-full border-collapse">
              <thead>
                <tr className="border-b border-ink text-left align-bottom">
                  <th scope="col" className="pr-4 pb-2">
                    Name
                  </th>
                  {data.asked.map((one) => (
                    <th key={one.work} scope="col" className="px-2 pb-2 font-normal">
                      <span className="block font-bold first-letter:uppercase">{WORK[one.work]}</span>
                      <span className="block text-fine text-soft">{askedWords(one)}</span>
                      {keeps && (
                        <button
                          type="button"
                          className="min-h-6 text-fine font-semibold text-copper-deep underline"
                          aria-label={`Change what is asked for: ${WORK[one.work]}`}
                          onClick={() => setAsking(one)}
                        >
                          Change
                        </button>
                      )}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {data.people.map((person) => (
                  <tr key={person.user_id} className="border-b border-line align-top">
                    <th scope="row" className="py-2 pr-4 text-left">
                      {person.name}
                      <span className="block text-fine font-normal text-soft">
                        {person.is_new ? `new ${person.role}` : person.role}
                      </span>
                    </th>
                    {person.work.map((work, at) => (
                      <td key={work.work} className="px-2 py-2">
                        <Stands
                          person={person}
                          work={work}
                          asked={data.asked[at]!}
                          {...(keeps && person.supervised ? { onOpen: () => setOpened({ person, work }) } : {})}
                        />
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {data.people.length === 0 && (
            <p className="py-4">
              Nobody works under supervision here. An account of an apprentice, or one that is marked as new under
              Settings, People, stands here.
            </p>
          )}
        </div>
      )}
      {asking && <AskedFor asked={asking} onDone={() => setAsking(null)} />}
      {opened && data && (
        <Deciding
          person={opened.person}
          work={opened.work}
          asked={data.asked.find((one) => one.work === opened.work.work)!}
          onDone={() => setOpened(null)}
        />
      )}
    </div>
  )
}

const times = (count: number, what: string) => `${count} ${what}${count === 1 ? '' : 's'}`

function askedWords({ passes, visits }: Asked): string {
  const parts = [passes > 0 && times(passes, 'practice'), visits > 0 && times(visits, 'visit')].filter(Boolean)
  return parts.join(', ') || 'nothing asked for'
}

interface StandsProps {
  person: Person
  work: Work
  asked: Asked
  onOpen?: () => void
}

/** How somebody stands with some work: alone, until when and by whom; else how much of what is asked for is done. */
function Stands({ person, work, asked, onOpen }: StandsProps) {
  const { today } = useCompany()
  const held = work.sign_off_id !== null
  const ready = work.passes >= asked.passes && work.visits >= asked.visits
  const words = !person.supervised ? (
    <span className="text-soft">alone</span>
  ) : held ? (
    <>
      <span className="flex items-center gap-1 font-semibold">
        <Check size={16} className="text-moss-deep" aria-hidden /> alone
        {work.until && ` until ${dateWords(work.until, today)}`}
      </span>
      <span className="block text-fine text-soft">{work.by}</span>
    </>
  ) : (
    <>
      <span className={clsx('block', ready && 'font-semibold')}>{ready ? 'ready' : 'under supervision'}</span>
      <span className="block text-fine text-soft">
        {asked.passes > 0 && `${work.passes} of ${times(asked.passes, 'practice')}, `}
        {work.visits} of {times(asked.visits, 'visit')}
      </span>
    </>
  )
  if (!onOpen) return words
  return (
    <button type="button" className="min-h-11 w-full rounded-md px-1.5 py-1 text-left hover:bg-sheet" onClick={onOpen}>
      <span className="sr-only">
        {person.name}, {WORK[work.work]}:{' '}
      </span>
      {words}
    </button>
  )
}

function Deciding({ person, work, asked, onDone }: Required<Omit<StandsProps, 'onOpen'>> & { onDone: () => void }) {
  const { today } = useCompany()
  const sign = useSignOff()
  const back = useTakenBack()
  const [until, setUntil] = useState(isoDay(addDays(today, 365)))
  const [why, setWhy] = useState('')
  const ready = work.passes >= asked.passes && work.visits >= asked.visits
  const title = `${person.name}: ${WORK[work.work]}`
  const problem = sign.error ?? back.error
  return (
    <Dialog open onOpenChange={onDone} title={title}>
      {work.sign_off_id !== null ? (
        <div className="mt-3 space-y-3">
          <p>
            Alone{work.until ? ` until ${dateWords(work.until, today)}` : ''}, said {work.by}.
            {work.why && ` “${work.why}”`}
          </p>
          <Button disabled={back.isPending} onClick={() => back.mutate(work.sign_off_id!, { onSuccess: onDone })}>
            Under supervision again
          </Button>
        </div>
      ) : (
        <form
          className="mt-3 space-y-3"
          noValidate
          onSubmit={(event) => {
            event.preventDefault()
            sign.mutate(
              { person_id: person.user_id, work: work.work, until: until || null, why },
              { onSuccess: onDone },
            )
          }}
        >
          <p>
            {asked.passes > 0 && `${work.passes} of ${times(asked.passes, 'practice')} passed without the guide; `}
            {work.visits} of {times(asked.visits, 'visit')} under supervision.
          </p>
          <Field
            label="Alone until"
            type="date"
            value={until}
            min={isoDay(addDays(today, 1))}
            hint="empty: for good"
            onChange={(event) => setUntil(event.target.value)}
          />
          {!ready && (
            <Field
              label="Why that is enough"
              value={why}
              maxLength={300}
              hint="less was done than is asked for"
              onChange={(event) => setWhy(event.target.value)}
            />
          )}
          <Button look="main" type="submit" disabled={sign.isPending}>
            Sign off
          </Button>
        </form>
      )}
      {problem && (
        <p role="alert" className="mt-3 font-semibold text-oxide">
          {problem.message}
        </p>
      )}
    </Dialog>
  )
}

function AskedFor({ asked, onDone }: { asked: Asked; onDone: () => void }) {
  const put = useAsked()
  const { version, onError } = useVersion(asked.version)
  const [passes, setPasses] = useState(String(asked.passes))
  const [visits, setVisits] = useState(String(asked.visits))
  return (
    <Dialog
      open
      onOpenChange={onDone}
      title={`Before ${WORK[asked.work]} is done alone`}
      description="Who is signed off already stays so."
    >
      <form
        className="mt-3 grid grid-cols-2 gap-3"
        noValidate
        onSubmit={(event) => {
          event.preventDefault()
          const said = { passes: Number(passes), visits: Number(visits) }
          put.mutate({ work: asked.work, ...said, version }, { onSuccess: onDone, onError })
        }}
      >
        <Field
          label="Practices passed"
          inputMode="numeric"
          value={passes}
          disabled={!asked.can_practise}
          hint={asked.can_practise ? 'without the guide' : 'no heater of the bench has it'}
          onChange={(event) => setPasses(event.target.value)}
        />
        <Field
          label="Supervised visits"
          inputMode="numeric"
          value={visits}
          onChange={(event) => setVisits(event.target.value)}
        />
        {put.error && (
          <p role="alert" className="col-span-2 font-semibold text-oxide">
            {put.error.message}
          </p>
        )}
        <Button look="main" type="submit" disabled={put.isPending} className="col-span-2 justify-self-start">
          Save
        </Button>
      </form>
    </Dialog>
  )
}
