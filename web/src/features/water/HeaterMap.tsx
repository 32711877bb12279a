import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { extent } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import { select } from 'd3-selection'
import { arc } from 'd3-shape'
import { zoom, zoomIdentity, type ZoomBehavior, type ZoomTransform } from 'd3-zoom'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react'

import type { Schema } from '../../api/client'
import { wash } from '../../records/DistrictMap'
import { heaterMapOptions, type MapBox } from '../../records/waterQueries'
import { Button } from '../../ui/Button'
import { Failed, Loading } from '../../ui/States'

type Square = Schema['MapSquareOut']

interface Props {
  zones: Schema['ZoneOnMapOut'][]
  /** Of what it is asked when it is due; of whatever comes first if undefined. */
  component: Schema['Component'] | undefined
  width: number
  height: number
  onZone: (id: number) => void
  onSite: (id: number) => void
}

const MARGIN = 34
/** At the foot, where the signs are told. */
const KEY_HEIGHT = 36
const CLOSEST = 400
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

/** All heaters on the waters that they get, by when they are due: drawn from what is on record, nothing is fetched. */
export function HeaterMap({ zones, component, width, height, onZone, onSite }: Props) {
  const [asked, setAsked] = useState<MapBox | null>(null)
  const [view, setView] = useState<ZoomTransform>(zoomIdentity)
  const found = useQuery({ ...heaterMapOptions(asked, component), placeholderData: keepPreviousData })
  const drawing = useRef<SVGSVGElement>(null)
  const behavior = useRef<ZoomBehavior<SVGSVGElement, unknown>>(null)
  const box = found.data?.box
  const flat = useMemo(() => {
    const outlines = zones.flatMap((zone) => zone.outline ?? [])
    const every = box ? [...outlines, [box[0]!, box[1]!], [box[2]!, box[3]!]] : outlines
    return every.length ? projected(every, width, height) : null
  }, [zones, box, width, height])
  useEffect(() => {
    if (!drawing.current || !flat) return
    const moves = zoom<SVGSVGElement, unknown>()
      .extent([
        [0, 0],
        [width, height],
      ])
      .scaleExtent([1, CLOSEST])
      .translateExtent([
        [0, 0],
        [width, height],
      ])
      .on('zoom', (event: { transform: ZoomTransform }) => setView(event.transform))
      .on('end', (event: { transform: ZoomTransform }) => {
        const [west, north] = event.transform.invert([0, 0])
        const [east, south] = event.transform.invert([width, height])
        setAsked(
          event.transform.k === 1
            ? null
            : {
                west: flat.x.invert(west),
                south: flat.y.invert(south),
                east: flat.x.invert(east),
                north: flat.y.invert(north),
              },
        )
      })
    behavior.current = moves
    const svg = select(drawing.current)
    svg.call(moves)
    return () => void svg.on('.zoom', null)
  }, [flat, width, height])
  const act = (
    what: (moves: ZoomBehavior<SVGSVGElement, unknown>, svg: ReturnType<typeof select<SVGSVGElement, unknown>>) => void,
  ) => {
    if (drawing.current && behavior.current) what(behavior.current, select(drawing.current))
  }
  const nearer = (by: number) => act((moves, svg) => moves.scaleBy(svg, by))
  const whole = () => act((moves, svg) => moves.transform(svg, zoomIdentity))
  if (found.error && !found.data) return <Failed error={found.error} onRetry={() => void found.refetch()} />
  if (!found.data) return <Loading what="the map" />
  if (!flat) return <p className="p-5 text-soft">No heater has a place yet, and no zone an outline.</p>
  const at = (longitude: number, latitude: number) => view.apply([flat.x(longitude), flat.y(latitude)])
  const into = (square: Square) => {
    if (square.site_id) return onSite(square.site_id)
    const [west = 0, south = 0, east = 0, north = 0] = square.box
    const [left, right] = [flat.x(west), flat.x(east)]
    const [top, bottom] = [flat.y(north), flat.y(south)]
    const k = Math.min(CLOSEST, view.k * 6, 0.7 / Math.max((right - left) / width, (bottom - top) / height, 1e-6))
    const [x, y] = [(left + right) / 2, (top + bottom) / 2]
    const to = zoomIdentity
      .translate(width / 2, height / 2)
      .scale(Math.max(k, view.k * 1.5))
      .translate(-x, -y)
    act((moves, svg) => moves.transform(svg, to))
  }
  const squares = found.data.squares
  const marks = squares.map((square) => ({ square, place: at(square.longitude, square.latitude) }))
  const seen = marks.filter(({ place: [x, y] }) => x >= 0 && x <= width && y >= 0 && y <= height)
  const sum = (of: 'heaters' | 'overdue' | 'soon' | 'year') => seen.reduce((all, { square }) => all + square[of], 0)
  const onKey = (event: KeyboardEvent<SVGSVGElement>) => {
    if (event.key === '+' || event.key === '=') nearer(1.6)
    else if (event.key === '-') nearer(1 / 1.6)
    else if (event.key === 'Home') whole()
    else if (event.key in ARROWS) step(event.currentTarget, ARROWS[event.key]!)
    else return
    event.preventDefault()
  }
  const first = seen[0]?.square
  return (
    <div className="relative h-full">
      <svg
        ref={drawing}
        width={width}
        height={height}
        role="group"
        aria-label="Map of the heaters"
        onKeyDown={onKey}
        className={found.isPlaceholderData ? 'cursor-grab opacity-80' : 'cursor-grab'}
      >
        {zones.map((zone) => {
          if (!zone.outline) return null
          const ring = zone.outline.map(([longitude = 0, latitude = 0]) => at(longitude, latitude))
          return (
            <path
              key={zone.id}
              data-zone={zone.id}
              d={`M${ring.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`}
              className="cursor-pointer fill-ochre stroke-line"
              fillOpacity={0.6 * wash(zone.hardness_class)}
              strokeLinejoin="round"
              onClick={() => onZone(zone.id)}
            />
          )
        })}
        {seen.map(({ square, place: [x, y] }) => (
          <g
            key={`${square.longitude} ${square.latitude} ${square.heaters}`}
            transform={`translate(${x} ${y})`}
            role="button"
            tabIndex={square === first ? 0 : -1}
            data-mark={`${x} ${y}`}
            aria-label={words(square)}
            className="cursor-pointer outline-none [&:focus-visible>.ring]:stroke-water"
            onClick={() => into(square)}
            onKeyDown={(event) => (event.key === 'Enter' || event.key === ' ') && into(square)}
          >
            <title>{words(square)}</title>
            <Mark square={square} />
          </g>
        ))}
        {/* Over the heaters, which may stand where a zone is named. */}
        {zones.map((zone) => {
          if (!zone.outline) return null
          const ring = zone.outline.map(([longitude = 0, latitude = 0]) => at(longitude, latitude))
          const [left = 0, right = 0] = extent(ring, ([x]) => x)
          const [top = 0] = extent(ring, ([, y]) => y)
          return (
            <text
              key={zone.id}
              x={(left + right) / 2}
              y={top + 16}
              textAnchor="middle"
              className="pointer-events-none fill-ink stroke-ground/85 font-bold [paint-order:stroke]"
              strokeWidth={3}
            >
              {zone.name}
            </text>
          )
        })}
      </svg>
      <p className="absolute top-3 right-3 flex gap-1.5">
        <Button aria-label="Nearer" onClick={() => nearer(1.6)}>
          +
        </Button>
        <Button aria-label="Further" onClick={() => nearer(1 / 1.6)}>
          −
        </Button>
        <Button onClick={whole}>All of it</Button>
      </p>
      <p role="status" className="absolute bottom-3 left-4 rounded-md bg-ground/90 px-2 py-0.5">
        <strong>{sum('heaters')} heaters</strong>: <Sign of={{ overdue: 1 }} /> {sum('overdue')} overdue,{' '}
        <Sign of={{ soon: 1 }} /> {sum('soon')} due within four weeks, <Sign of={{ year: 1 }} /> {sum('year')} more
        within a year, <Sign of={{}} /> the others later
        {found.data.without_place > 0 && <span className="text-soft"> · {found.data.without_place} have no place</span>}
      </p>
    </div>
  )
}

/** Degrees onto a plain of so many pixels; degrees of longitude are shorter by the cosine of the latitude. */
function projected(every: number[][], width: number, height: number) {
  const [west = 0, east = 1] = extent(every, (one) => one[0])
  const [south = 0, north = 1] = extent(every, (one) => one[1])
  const squeeze = Math.cos((((south + north) / 2) * Math.PI) / 180)
  const across = Math.max((east - west) * squeeze, 1e-4)
  const up = Math.max(north - south, 1e-4)
  const free = height - KEY_HEIGHT
  const size = Math.max(Math.min((width - 2 * MARGIN) / across, (free - 2 * MARGIN) / up), 1)
  const [left, top] = [(width - across * size) / 2, (free - up * size) / 2]
  return {
    x: scaleLinear()
      .domain([west, west + across / squeeze])
      .range([left, left + across * size]),
    y: scaleLinear()
      .domain([south, south + up])
      .range([top + up * size, top]),
  }
}

/** From the mark that has the focus to the nearest one in a direction. */
function step(svg: SVGSVGElement, [right, down]: [number, number]) {
  const marks = [...svg.querySelectorAll<SVGGElement>('[data-mark]')]
  const from = marks.find((mark) => mark === document.activeElement) ?? marks[0]
  if (!from) return
  const [x, y] = placeOf(from)
  const [next] = marks
    .filter((mark) => mark !== from)
    .map((mark) => {
      const [atX, atY] = placeOf(mark)
      const along = (atX - x) * right + (atY - y) * down
      const aside = Math.abs((atX - x) * down) + Math.abs((atY - y) * right)
      return { mark, along, far: along + 2 * aside }
    })
    .filter(({ along }) => along > 0)
    .sort((one, other) => one.far - other.far)
  ;(next?.mark ?? from).focus()
}

const placeOf = (mark: SVGGElement) => mark.dataset['mark']!.split(' ').map(Number) as [number, number]

function words(square: Square) {
  const what = square.heaters === 1 ? '1 heater' : `${square.heaters} heaters`
  const due = [
    square.overdue && `${square.overdue} overdue`,
    square.soon && `${square.soon} due within four weeks`,
    square.year && `${square.year} within a year`,
  ].filter(Boolean)
  return [`${square.name ? `${square.name}: ` : ''}${what}`, ...(due.length ? due : ['none due within a year'])].join(
    ', ',
  )
}

/** A ring with how many are overdue and due soon; one site alone is a dot: full, half, empty, small. */
function Mark({ square }: { square: Square }) {
  if (square.site_id && square.heaters < 4) {
    const r = square.overdue || square.soon || square.year ? 6 : 4
    return (
      <>
        <circle r="11" fillOpacity="0" className="ring fill-sheet stroke-transparent" strokeWidth="2.5" />
        <circle
          r={r}
          className={square.overdue ? 'fill-oxide stroke-oxide' : 'fill-sheet stroke-ink'}
          strokeWidth="1.5"
        />
        {!square.overdue && square.soon > 0 && (
          <path d={`M0 ${-r}A${r} ${r} 0 0 0 0 ${r}Z`} className="fill-copper-deep" />
        )}
      </>
    )
  }
  const r = 8 + 4 * Math.log10(square.heaters)
  const parts: [number, string][] = [
    [square.overdue, 'fill-oxide'],
    [square.soon, 'fill-copper-deep'],
    [square.year, 'fill-soft'],
  ]
  const ring = arc<[number, number]>()
    .innerRadius(r - 3)
    .outerRadius(r)
  const ends = parts.map((_, at) => parts.slice(0, at + 1).reduce((sum, [count]) => sum + count, 0))
  return (
    <>
      <circle r={r + 3} className="ring fill-sheet stroke-line" strokeWidth="1.5" />
      {parts.map(([count, fill], at) => {
        const turn = (2 * Math.PI) / square.heaters
        const d = ring.startAngle((ends[at]! - count) * turn).endAngle(ends[at]! * turn)([0, 0])
        return count > 0 && d && <path key={fill} d={d} className={fill} />
      })}
      <text textAnchor="middle" y="4" className="fill-ink text-[11px] font-bold">
        {square.heaters}
      </text>
    </>
  )
}

/** How one heater's dot looks, in a line of text. */
function Sign({ of }: { of: Partial<Square> }) {
  const square = { heaters: 1, overdue: 0, soon: 0, year: 0, site_id: 1, longitude: 0, latitude: 0, name: '', box: [] }
  return (
    <svg width="14" height="14" viewBox="-7 -7 14 14" aria-hidden className="inline-block align-[-2px]">
      <Mark square={{ ...square, ...of }} />
    </svg>
  )
}
