import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { useCompany } from '../../session/session'
import { trueNow } from '../../api/clock'
import { minutesIn } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { Choice, Field } from '../../ui/Field'
import { SitePicker } from '../../records/SitePicker'
import { siteOptions } from '../../records/placeQueries'
import { useDisturb, usualCallsOptions } from '../../records/roundQueries'
import { clock, minutesOf } from '../../lib/clock'
import { WhatChanged } from './WhatChanged'

const LICENCES = ['gas', 'electrical', 'plumbing'] as const
const LENGTHS = [45, 60, 90, 120, 180]

/**
 * Somebody rings with water on the floor: who goes, and what that changes for the rest of today. The address may say
 * where and what, from a call that is being answered.
 */
export function Emergency({ today }: { today: string }) {
  const [address, setAddress] = useSearchParams()
  const siteId = Number(address.get('emergency'))
  const from = useQuery({ ...siteOptions(siteId), enabled: siteId > 0 }).data
  const [open, setOpen] = useState(false)
  const close = () => {
    setOpen(false)
    setAddress(
      (now) => {
        now.delete('emergency')
        now.delete('said')
        return now
      },
      { replace: true },
    )
  }
  return (
    <>
      <Button look="quiet" className="mr-2 min-h-8 px-2" onClick={() => setOpen(true)}>
        Emergency
      </Button>
      {open && <Asked today={today} site={null} said="" onClose={close} />}
      {!open && from && <Asked today={today} site={from.site} said={address.get('said') ?? ''} onClose={close} />}
    </>
  )
}

interface AskedProps {
  today: string
  site: Schema['SiteOut'] | null
  said: string
  onClose: () => void
}

function Asked({ today, site: from, said, onClose }: AskedProps) {
  const usual = useQuery(usualCallsOptions).data ?? []
  const disturb = useDisturb(today)
  const now = minutesIn(useCompany().timezone, trueNow())
  const [site, setSite] = useState(from)
  const [needs, setNeeds] = useState<string[]>([])
  const [minutes, setMinutes] = useState('90')
  const [words, setWords] = useState(said)
  const [decides, setDecides] = useState('')
  const [since, setSince] = useState(clock(now))
  const at = minutesOf(since)
  return (
    <Dialog
      open
      onOpenChange={(next) => !next && onClose()}
      title="An emergency today"
      description={
        'It is begun within an hour and a half; the rest of the day is planned anew around it, ' +
        'changing as little as possible.'
      }
    >
      {disturb.data ? (
        <WhatChanged changes={disturb.data.changes} onClose={onClose} />
      ) : (
        <form
          className="mt-3 grid gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            if (site && at !== null)
              disturb.mutate({
                kind: 'emergency',
                at,
                site_id: site.id,
                minutes: Number(minutes),
                needs,
                words,
                decides,
              })
          }}
        >
          <div className="border-l-4 border-oxide pl-2.5">
            <strong>Say first on the telephone</strong>
            <ul className="list-disc pl-5">
              <li>Gas smell or CO alarm: everyone out, no switch, call emergency from outside.</li>
              <li>Relief pipe roaring: gas or breaker off, leave the cold water ON, keep away.</li>
              <li>Water running out: shut the cold or the main, then gas or breaker. Keep out of standing water.</li>
            </ul>
          </div>
          <SitePicker chosen={site} onChoose={setSite} />
          <Field
            label="What they say"
            list="usual-complaints"
            maxLength={140}
            placeholder="no hot water since last night; the tank hisses"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          <datalist id="usual-complaints">
            {usual
              .filter((one) => one.reason === 'complaint' || one.is_urgent)
              .map((one) => (
                <option key={one.name} value={one.says} />
              ))}
          </datalist>
          <Field
            label="Who may approve more work"
            maxLength={70}
            placeholder="the owner, 555 0141"
            value={decides}
            onChange={(event) => setDecides(event.target.value)}
          />
          <fieldset>
            <legend className="mb-1 font-semibold">Who may do it</legend>
            {LICENCES.map((one) => (
              <label key={one} className="mr-5">
                <input
                  type="checkbox"
                  checked={needs.includes(one)}
                  onChange={(event) =>
                    setNeeds(event.target.checked ? [...needs, one] : needs.filter((other) => other !== one))
                  }
                  className="mr-1.5 size-4 align-[-3px]"
                />
                {one} license
              </label>
            ))}
          </fieldset>
          <div className="grid grid-cols-2 gap-3">
            <Field
              label="From"
              value={since}
              fault={at === null ? 'a time such as 14:30' : undefined}
              onChange={(event) => setSince(event.target.value)}
            />
            <Choice label="About how long" value={minutes} onChange={(event) => setMinutes(event.target.value)}>
              {LENGTHS.map((one) => (
                <option key={one} value={one}>
                  {one} min
                </option>
              ))}
            </Choice>
          </div>
          {disturb.error && (
            <p role="alert" className="font-semibold text-oxide">
              {disturb.error.message}
            </p>
          )}
          <div className="flex gap-2">
            <Button look="main" type="submit" disabled={!site || at === null || disturb.isPending}>
              {disturb.isPending ? 'Planning …' : 'Add emergency call'}
            </Button>
            <Button look="quiet" onClick={onClose}>
              Not now
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  )
}
