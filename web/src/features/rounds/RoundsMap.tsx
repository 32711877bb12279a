import { useQuery } from '@tanstack/react-query'
import { extent } from 'd3-array'
import { scaleLinear } from 'd3-scale'

import type { Schema } from '../../api/client'
import { wash } from '../../records/DistrictMap'
import { zoneMapOptions } from '../../records/waterQueries'
import { roadsOptions } from '../../records/roundQueries'
import { DASHES, FILLS, MARKS, STROKES } from '../../records/roundWords'

interface Props {
  rounds: Schema['RoundOut'][]
  width: number
  height: number
  chosen: number | undefined
  onChoose: (id: number) => void
}

/** The rounds on the district's water: the same letters and lines as the ropes. */
export function RoundsMap({ rounds, width, height, chosen, onChoose }: Props) {
  const zones = useQuery(zoneMapOptions).data ?? []
  const outlines = zones.flatMap((zone) => zone.outline ?? [])
  const stops = rounds.flatMap((one) => one.way.map((at) => [at.longitude, at.latitude]))
  const every = [...outlines, ...stops]
  const [west = 0, east = 1] = extent(every, (at) => at[0])
  const [south = 0, north = 1] = extent(every, (at) => at[1])
  const roads =
    useQuery({ ...roadsOptions({ west, south, east, north }), enabled: every.length > 0 && east - west < 1 }).data ?? []
  if (every.length === 0) return null
  const squeeze = Math.cos((((south + north) / 2) * Math.PI) / 180)
  const size = Math.min((width - 24) / ((east - west) * squeeze), (height - 24) / (north - south))
  const x = scaleLinear()
    .domain([west, east])
    .range([0, (east - west) * squeeze * size])
  const y = scaleLinear()
    .domain([south, north])
    .range([(north - south) * size, 0])
  const line = (points: { longitude: number; latitude: number }[]) =>
    points
      .map((at, number) => `${number ? 'L' : 'M'}${x(at.longitude).toFixed(1)} ${y(at.latitude).toFixed(1)}`)
      .join('')
  return (
    <svg width={width} height={height} role="group" aria-label="Map of the rounds">
      <g transform={`translate(${(width - x(east)) / 2} ${(height - y(south)) / 2})`}>
        {zones.map((zone) => (
          <path
            key={zone.id}
            d={`${line((zone.outline ?? []).map(([longitude = 0, latitude = 0]) => ({ longitude, latitude })))}Z`}
            className="fill-ochre stroke-transparent"
            fillOpacity={0.5 * wash(zone.hardness_class) + 0.04}
          />
        ))}
        {roads.map((road) => (
          <path key={line(road.line)} d={line(road.line)} fill="none" className="stroke-sheet" strokeWidth="3" />
        ))}
        {zones.map((zone) => {
          const [left = 0, right = 0] = extent(zone.outline ?? [], (at) => at[0])
          const [low = 0] = extent(zone.outline ?? [], (at) => at[1])
          return (
            <text
              key={zone.id}
              x={x((left + right) / 2)}
              y={y(low) - 6}
              textAnchor="middle"
              className="fill-ink text-[11px] font-bold"
            >
              {zone.name}
            </text>
          )
        })}
        {rounds.map((one, at) => (
          <path
            key={one.member_id}
            d={line(one.way)}
            fill="none"
            className={STROKES[at % STROKES.length]}
            strokeWidth="2"
            strokeDasharray={DASHES[at % DASHES.length]}
            strokeLinejoin="round"
          />
        ))}
        {rounds.map((one, at) =>
          one.calls.map((call, number) => {
            const isChosen = call.appointment.id === chosen
            return (
              <g
                key={call.appointment.id}
                className="cursor-pointer"
                transform={`translate(${x(call.appointment.longitude)} ${y(call.appointment.latitude)})`}
                onClick={() => onChoose(call.appointment.id)}
              >
                <title>{call.appointment.site}</title>
                <circle
                  r={isChosen ? 11 : 9}
                  className={`fill-sheet ${isChosen ? 'stroke-copper' : STROKES[at % STROKES.length]}`}
                  strokeWidth={isChosen ? 3.5 : 2}
                />
                <text textAnchor="middle" y="3.5" className={`${FILLS[at % FILLS.length]} text-[9.5px] font-bold`}>
                  {MARKS[at]}
                  {number + 1}
                </text>
              </g>
            )
          }),
        )}
        {rounds[0]?.way[0] && (
          <g transform={`translate(${x(rounds[0].way[0].longitude)} ${y(rounds[0].way[0].latitude)})`}>
            <rect x="-6" y="-6" width="12" height="12" className="fill-ink" />
            <text x="9" y="-7" className="fill-ink text-[11px] font-bold">
              {rounds[0].place}
            </text>
          </g>
        )}
      </g>
    </svg>
  )
}
