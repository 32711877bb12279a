import { scaleBand, scaleLinear } from 'd3-scale'

import { day, shortMonthYear } from '../../lib/dates'
import { useSize } from '../../ui/useSize'
import { figure, isMoney, seriesOf, type Projection } from './aheadWords'

/** How the two are told apart: by place, line and dash, not by colour alone. */
export const LOOKS = [
  { bar: 'fill-water/25 stroke-water', mark: 'stroke-water', text: 'text-water', fill: 'fill-water', dash: '' },
  {
    bar: 'fill-copper/20 stroke-copper',
    mark: 'stroke-copper',
    text: 'text-copper-deep',
    fill: 'fill-copper-deep',
    dash: '5 3',
  },
] as const

interface Props {
  name: string
  words: string
  sides: { projection: Projection; name: string }[]
}

/** One figure of every year: where eight of ten futures lie, with the middle one. */
export function AheadBars({ name, words, sides }: Props) {
  const [frame, size] = useSize()
  const width = Math.max(size.width, 300)
  const height = Math.max(size.height, 240)
  const { until, crew_hours: crew, currency } = sides[0]!.projection
  const every = sides.flatMap((side) => seriesOf(side.projection, name))
  const showsCrew = name === 'hours' && crew > 0 && crew < 3 * Math.max(...every.map((one) => one.high), 1)
  const y = scaleLinear()
    .domain([
      Math.min(0, ...every.map((one) => one.low)),
      1.1 * Math.max(showsCrew ? crew : 1, ...every.map((one) => one.high)),
    ])
    .range([height - 48, 34])
  const x = scaleBand<number>()
    .domain(until.map((_, at) => at))
    .range([72, width - 20])
    .padding(sides.length > 1 ? 0.12 : 0.35)
  const wide = x.bandwidth() / sides.length
  const told = sides.map(
    (side) =>
      `${side.name} ${seriesOf(side.projection, name)
        .map((one) => figure(name, one.middle, currency))
        .join(', ')}`,
  )
  return (
    <div ref={frame} className="min-h-0 min-w-0 flex-1 overflow-hidden narrow:h-[320px] narrow:flex-none">
      <svg width={width} height={height} role="img" aria-label={`${words} by year: ${told.join('; ')}`}>
        <text x="16" y="22" className="fill-soft text-[13px]">
          Eight of ten futures lie in the bar, half below its line
        </text>
        {y.ticks(5).map((tick) => (
          <g key={tick}>
            <line x1="64" x2={width - 12} y1={y(tick)} y2={y(tick)} className={tick ? 'stroke-line' : 'stroke-soft'} />
            <text x="58" y={y(tick) + 4} textAnchor="end" className="fill-soft text-[12px]">
              {isMoney(name) ? figure(name, tick, currency) : tick.toLocaleString('en')}
            </text>
          </g>
        ))}
        {showsCrew && (
          <>
            <line x1="64" x2={width - 12} y1={y(crew)} y2={y(crew)} className="stroke-ink" strokeWidth="2" />
            <text x={width - 16} y={y(crew) - 6} textAnchor="end" className="fill-ink text-[12px]">
              the crew can plan {figure('hours', crew, currency)}
            </text>
          </>
        )}
        {until.map((one, year) => (
          <g key={one}>
            {sides.map((side, number) => {
              const fan = seriesOf(side.projection, name)[year]
              if (!fan) return null
              const left = x(year)! + number * wide + 2
              return (
                <g key={number}>
                  <rect
                    x={left}
                    width={wide - 4}
                    y={y(fan.high)}
                    height={Math.max(y(fan.low) - y(fan.high), 2)}
                    className={LOOKS[number]!.bar}
                    strokeDasharray={LOOKS[number]!.dash}
                  />
                  <line
                    x1={left}
                    x2={left + wide - 4}
                    y1={y(fan.middle)}
                    y2={y(fan.middle)}
                    className={LOOKS[number]!.mark}
                    strokeWidth="3"
                  />
                  <text
                    x={left + wide / 2 - 2}
                    y={y(fan.high) - 6}
                    textAnchor="middle"
                    className="fill-ink text-[12px]"
                  >
                    {figure(name, fan.middle, currency)}
                  </text>
                </g>
              )
            })}
            <text x={x(year)! + x.bandwidth() / 2} y={height - 26} textAnchor="middle" className="fill-ink text-[12px]">
              {until.length > 5 ? one.slice(0, 4) : `to ${shortMonthYear(day(one))}`}
            </text>
          </g>
        ))}
        {sides.length > 1 &&
          sides.map((side, number) => (
            <text
              key={number}
              x={72 + number * 170}
              y={height - 6}
              className={`text-[12px] font-bold ${LOOKS[number]!.fill}`}
            >
              {number === 0 ? '■' : '□'} {side.name.length > 60 ? `${side.name.slice(0, 58)}…` : side.name}
            </text>
          ))}
      </svg>
    </div>
  )
}
