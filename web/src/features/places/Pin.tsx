import { useQuery } from '@tanstack/react-query'
import { extent } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import { useState } from 'react'

import { client, unwrap, type Schema } from '../../api/client'
import { numberOf } from '../../lib/units'
import { placeOptions, useSetPlace } from '../../records/placeQueries'
import { useVersion } from '../../records/version'
import { Button } from '../../ui/Button'
import { Field } from '../../ui/Field'
import { Failed, Loading } from '../../ui/States'

const WIDTH = 520
const HEIGHT = 360
/** Around a place without neighbours: some ten kilometres. */
const ALONE = 0.1

/** Where a site is: a pin among the other sites, an address looked up, or coordinates typed. */
export function Pin({ siteId, onDone }: { siteId: number; onDone: () => void }) {
  const { data, error, refetch } = useQuery(placeOptions(siteId))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="the map" />
  return <Loaded siteId={siteId} place={data as Schema['PlaceOut']} onDone={onDone} />
}

function Loaded({ siteId, place, onDone }: { siteId: number; place: Schema['PlaceOut']; onDone: () => void }) {
  const set = useSetPlace(siteId)
  const { version, onError } = useVersion(place.version)
  const [typed, setTyped] = useState({
    latitude: place.latitude?.toString() ?? '',
    longitude: place.longitude?.toString() ?? '',
    looked_up: false,
  })
  const found = useQuery({
    queryKey: ['sites', 'found-places', siteId],
    queryFn: () => unwrap(client.GET('/api/sites/{site_id}/place/found', { params: { path: { site_id: siteId } } })),
    enabled: false,
    retry: false,
  })
  const latitude = numberOf(typed.latitude)
  const longitude = numberOf(typed.longitude)
  const at = latitude !== null && longitude !== null ? ([longitude, latitude] as const) : null
  const put = (x: number, y: number, looked_up = false) =>
    setTyped({ latitude: y.toFixed(5), longitude: x.toFixed(5), looked_up })
  return (
    <form
      className="mt-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault()
        set.mutate({ latitude, longitude, looked_up: typed.looked_up, version }, { onSuccess: onDone, onError })
      }}
    >
      <Pad place={place} at={at} onPut={put} />
      <p className="mt-1 text-fine text-soft">
        Each dot is another site; touch where this one is. North is up. Or type its coordinates.
      </p>
      <div className="mt-3 flex items-end gap-3">
        <Field
          label="Latitude"
          inputMode="decimal"
          className="w-32"
          value={typed.latitude}
          onChange={(event) => setTyped({ ...typed, latitude: event.target.value, looked_up: false })}
        />
        <Field
          label="Longitude"
          inputMode="decimal"
          className="w-32"
          value={typed.longitude}
          onChange={(event) => setTyped({ ...typed, longitude: event.target.value, looked_up: false })}
        />
        {place.looks_up && (
          <Button disabled={found.isFetching} onClick={() => void found.refetch()}>
            Look the address up
          </Button>
        )}
      </div>
      {found.data && (
        <ul className="mt-2" aria-label="Places found">
          {found.data.map((one) => (
            <li key={`${one.latitude} ${one.longitude}`}>
              <Button look="quiet" onClick={() => put(one.longitude, one.latitude, true)}>
                {one.words}
              </Button>
            </li>
          ))}
          {found.data.length === 0 && <li className="text-soft">Nothing is found for this address.</li>}
        </ul>
      )}
      {(set.error ?? found.error) && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {(set.error ?? found.error)?.message}
        </p>
      )}
      <div className="mt-4 flex gap-3">
        <Button look="main" type="submit" disabled={set.isPending || (latitude === null) !== (longitude === null)}>
          {at ? 'It is here' : 'Nobody knows'}
        </Button>
      </div>
    </form>
  )
}

interface PadProps {
  place: Schema['PlaceOut']
  at: readonly [number, number] | null
  onPut: (longitude: number, latitude: number) => void
}

function Pad({ place, at, onPut }: PadProps) {
  const own = place.longitude !== null && place.latitude !== null ? [[place.longitude, place.latitude]] : []
  const every = [...place.neighbours, ...own, ...(place.middle ? [place.middle] : [])]
  const [west = 0, east = 0] = extent(every, (one) => one[0])
  const [south = 0, north = 0] = extent(every, (one) => one[1])
  // Degrees of longitude are shorter by the cosine of the latitude.
  const squeeze = Math.cos((((south + north) / 2) * Math.PI) / 180) || 1
  const reach = Math.max((1.1 * (north - south)) / HEIGHT, (1.1 * (east - west) * squeeze) / WIDTH, ALONE / HEIGHT)
  const across = (reach * WIDTH) / squeeze / 2
  const up = (reach * HEIGHT) / 2
  const x = scaleLinear()
    .domain([(west + east) / 2 - across, (west + east) / 2 + across])
    .range([0, WIDTH])
  const y = scaleLinear()
    .domain([(south + north) / 2 - up, (south + north) / 2 + up])
    .range([HEIGHT, 0])
  if (every.length === 0)
    return (
      <p className="rounded-md border border-line bg-sheet p-4 text-soft">
        No site has a place yet, so there is no map: type the coordinates
        {place.looks_up ? ', look the address up' : ''}, or say under Settings where the yard is.
      </p>
    )
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label="Map of the sites, with a pin on this one"
      className="cursor-crosshair rounded-md border border-rule bg-sheet"
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect()
        onPut(x.invert(event.clientX - box.left), y.invert(event.clientY - box.top))
      }}
    >
      {place.neighbours.map((one) => (
        <circle key={one.join()} cx={x(one[0])} cy={y(one[1])} r="2.5" className="fill-water" fillOpacity="0.6" />
      ))}
      {at && (
        <g transform={`translate(${x(at[0])} ${y(at[1])})`} className="text-copper">
          <path d="M0 0L-7 -16A8 8 0 1 1 7 -16Z" fill="currentColor" className="stroke-sheet" strokeWidth="1.5" />
          <circle cy="-19" r="2.8" className="fill-sheet" />
        </g>
      )}
    </svg>
  )
}
