import { extent } from 'd3-array'
import { scaleLinear } from 'd3-scale'

/** [longitude, latitude] */
type Place = number[]
const longitude = (at: Place) => at[0] ?? 0
const latitude = (at: Place) => at[1] ?? 0

interface MappedZone {
  id: number
  name: string
  hardness_class: string
  outline: Place[] | null
}

interface Props {
  zones: MappedZone[]
  points?: Place[]
  chosen?: number | undefined
  onChoose?: (id: number) => void
  width: number
  height: number
}

/** Depth of the ochre wash, by the class of hardness that the server names. */
const WASHES: Record<string, number> = { soft: 0.12, moderate: 0.3, hard: 0.5, 'very hard': 0.75 }
export const wash = (hardnessClass: string) => WASHES[hardnessClass] ?? 0

/** The district as the supplies divide it, drawn from their outlines; nothing is fetched. */
export function DistrictMap({ zones, points = [], chosen, onChoose, width, height }: Props) {
  const every = [...zones.flatMap((zone) => zone.outline ?? []), ...points]
  if (every.length === 0) return <p className="p-5 text-soft">No zone has an outline yet.</p>
  const [west = 0, east = 1] = extent(every, longitude)
  const [south = 0, north = 1] = extent(every, latitude)
  // Degrees of longitude are shorter by the cosine of the latitude.
  const squeeze = Math.cos((((south + north) / 2) * Math.PI) / 180)
  const size = Math.min((width - 40) / ((east - west) * squeeze || 1), (height - 40) / (north - south || 1))
  const x = scaleLinear()
    .domain([west, east])
    .range([0, (east - west) * squeeze * size])
  const y = scaleLinear()
    .domain([south, north])
    .range([(north - south) * size, 0])
  const across = (width - x(east)) / 2
  const down = (height - y(south)) / 2
  const path = (ring: Place[]) =>
    `M${ring.map((at) => `${x(longitude(at)).toFixed(1)} ${y(latitude(at)).toFixed(1)}`).join('L')}Z`
  return (
    <svg width={width} height={height} role="img" aria-label={`Map of ${zones.map((zone) => zone.name).join(', ')}`}>
      <g transform={`translate(${across} ${down})`}>
        {zones.map((zone) => {
          if (!zone.outline) return null
          const [left = 0, right = 0] = extent(zone.outline, (at) => x(longitude(at)))
          const [top = 0, bottom = 0] = extent(zone.outline, (at) => y(latitude(at)))
          return (
            <g
              key={zone.id}
              onClick={onChoose && (() => onChoose(zone.id))}
              className={onChoose ? 'cursor-pointer' : ''}
            >
              <path
                d={path(zone.outline)}
                className="fill-ochre stroke-ink"
                fillOpacity={wash(zone.hardness_class)}
                strokeWidth={zone.id === chosen ? 2.5 : 1}
                strokeLinejoin="round"
              />
              {zones.length > 1 && (
                <text x={(left + right) / 2} y={(top + bottom) / 2} textAnchor="middle" className="fill-ink font-bold">
                  {zone.name}
                </text>
              )}
            </g>
          )
        })}
        {points.map((at) => (
          <circle key={at.join()} cx={x(longitude(at))} cy={y(latitude(at))} r="2" className="fill-water" />
        ))}
      </g>
    </svg>
  )
}
