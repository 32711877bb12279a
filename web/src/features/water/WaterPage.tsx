import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'

import { useState } from 'react'
import { useCompany, useMay } from '../../session/session'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { HeaterMap } from './HeaterMap'
import { ZoneForm } from './ZoneForm'
import { monthWords } from '../../lib/dates'
import { shown } from '../../lib/units'
import { Failed, Loading } from '../../ui/States'
import { Phrase } from '../../ui/Phrase'
import { useSize } from '../../ui/useSize'
import { RegisterNav } from '../../records/RegisterNav'
import { wash } from '../../records/DistrictMap'
import { zoneMapOptions } from '../../records/waterQueries'

/** How many of a zone's heaters a softener stands before. */
const softenedOf = ({ softened_heaters, heaters }: Schema['ZoneOnMapOut']) =>
  `${softened_heaters === heaters ? 'all' : softened_heaters} softened`

/** What falls due by a date of its own. */
const DATED: { value: Schema['Component']; label: string }[] = [
  { value: 'sediment', label: 'a flush' },
  { value: 'scale', label: 'a descale' },
  { value: 'anode', label: 'an anode rod' },
  { value: 'relief_valve', label: 'a relief valve' },
  { value: 'expansion_tank', label: 'an expansion tank' },
]

/** Every supply of the district: where it is, how hard, what it leaves behind, how well it is known. */
export function WaterPage() {
  const { units } = useCompany()
  const navigate = useNavigate()
  const { data, error, refetch } = useQuery(zoneMapOptions)
  const [frame, size] = useSize()
  const edits = useMay('edit_register')
  const [adding, setAdding] = useState(false)
  const [address, setAddress] = useSearchParams()
  const component = (address.get('due') as Schema['Component'] | null) ?? undefined
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="the waters" />
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Water</h1>
      <RegisterNav>
        <p className="text-soft">
          By when
          <Phrase
            label="What is due"
            value={component ?? ''}
            options={[{ value: '', label: 'anything' }, ...DATED]}
            onChange={(value) => setAddress(value ? { due: value } : {}, { replace: true })}
          />
          is due
        </p>
        {edits && <Button onClick={() => setAdding(true)}>New zone</Button>}
      </RegisterNav>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_540px] narrow:grid-cols-1">
        <div ref={frame} className="min-h-0 overflow-hidden narrow:h-[60dvh] narrow:min-h-[280px]">
          {size.width > 0 && (
            <HeaterMap
              zones={data}
              component={component}
              width={size.width}
              height={size.height}
              onZone={(id) => void navigate(`/water/${id}`)}
              onSite={(id) => void navigate(`/sites/${id}`)}
            />
          )}
        </div>
        <section aria-label="Zones" className="overflow-y-auto border-l border-line bg-sheet">
          <ul>
            {data.map((zone) => (
              <li key={zone.id} className="border-b border-line">
                <Link
                  to={`/water/${zone.id}`}
                  className="grid w-full grid-cols-[14px_1fr_auto] gap-x-4 px-5 py-3 hover:bg-ground"
                >
                  <svg width="14" height="40" aria-hidden>
                    <rect
                      width="14"
                      height="40"
                      className="fill-ochre stroke-ink"
                      fillOpacity={wash(zone.hardness_class)}
                    />
                  </svg>
                  <span>
                    <strong className="text-lead">{zone.name}</strong>
                    <span className="block text-soft">{zone.note}</span>
                    <span className="block">{zone.in_words.replace(/^Your supply is /, 'It is ')}</span>
                    <span className="block text-fine text-soft">
                      {zone.last_test ? `${zone.tests} tests, the last ${monthWords(zone.last_test)}` : 'never tested'}
                      {zone.log_sd > 0.05 && (
                        <strong className="text-ochre-deep">
                          {' '}
                          · what is unknown of it makes dates unsure by a factor of {Math.exp(zone.log_sd).toFixed(1)}
                        </strong>
                      )}
                    </span>
                  </span>
                  <span className="text-right">
                    <strong className="block text-lead">{shown(units, 'hardness_mg_l', zone.hardness_mg_l)}</strong>
                    <span className="block text-soft">{zone.hardness_class}</span>
                    <span className="block text-fine text-soft">
                      {zone.heaters} heaters
                      {zone.softened_heaters > 0 && `, ${softenedOf(zone)}`}
                    </span>
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      </div>
      <Dialog open={adding} onOpenChange={setAdding} title="New zone" wide>
        <ZoneForm
          zone={null}
          onDone={(id) => {
            setAdding(false)
            if (id) void navigate(`/water/${id}`)
          }}
        />
      </Dialog>
    </div>
  )
}
