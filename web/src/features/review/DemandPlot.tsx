import { scaleBand, scaleLinear } from 'd3-scale'

import { monthWords } from '../../lib/dates'
import { useSize } from '../../ui/useSize'
import { laterMonth, wordsOf, type KindMonths } from './demandWords'

/** So many months back are drawn; the table has all of them. */
const SHOWN = 48

/** Each month that is over as a bar; each that comes as where eight of ten futures lie, with the middle one. */
export function DemandPlot({ one, first }: { one: KindMonths; first: string }) {
  const [frame, size] = useSize()
  const width = Math.max(size.width, 300)
  const height = Math.max(size.height, 180)
  const counts = one.counts.slice(-SHOWN)
  const begins = laterMonth(one.first, one.counts.length - counts.length)
  const months = [
    ...counts.map((came, at) => ({ month: laterMonth(begins, at), came, fan: null })),
    ...one.months.map((fan, at) => ({ month: laterMonth(first, at), came: 0, fan })),
  ]
  const most = Math.max(1, ...counts, ...one.months.map((fan) => fan.high))
  const y = scaleLinear()
    .domain([0, 1.08 * most])
    .range([height - 34, 26])
  const x = scaleBand<number>()
    .domain(months.map((_, at) => at))
    .range([48, width - 16])
    .padding(0.2)
  const expected = one.months.map((fan) => fan.middle).join(', ')
  return (
    <div ref={frame} className="min-h-[180px] min-w-0 flex-1 overflow-hidden narrow:h-[260px] narrow:flex-none">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`${wordsOf(one.kind)} by month; expected in the coming twelve: ${expected}`}
      >
        <text x="16" y="16" className="fill-soft text-[13px]">
          What came, and from the line on where eight of ten futures lie
        </text>
        {y.ticks(4).map((tick) => (
          <g key={tick}>
            <line x1="44" x2={width - 12} y1={y(tick)} y2={y(tick)} className={tick ? 'stroke-line' : 'stroke-soft'} />
            <text x="38" y={y(tick) + 4} textAnchor="end" className="fill-soft text-[12px]">
              {tick}
            </text>
          </g>
        ))}
        {months.map(({ month, came, fan }, at) => {
          const left = x(at)!
          const wide = x.bandwidth()
          return (
            <g key={`${month}${at}`}>
              {fan ? (
                <>
                  <rect
                    x={left}
                    width={wide}
                    y={y(fan.high)}
                    height={Math.max(2, y(fan.low) - y(fan.high))}
                    className="fill-copper/20 stroke-copper"
                  />
                  <line
                    x1={left}
                    x2={left + wide}
                    y1={y(fan.middle)}
                    y2={y(fan.middle)}
                    className="stroke-copper-deep"
                    strokeWidth="2.5"
                  />
                </>
              ) : (
                <rect x={left} width={wide} y={y(came)} height={y(0) - y(came)} className="fill-water" />
              )}
              {month.slice(5, 7) === '01' && (
                <>
                  <line x1={left - 1} x2={left - 1} y1={y(0)} y2={y(0) + 8} className="stroke-soft" />
                  <text x={left + 2} y={height - 14} className="fill-ink text-[12px]">
                    {month.slice(0, 4)}
                  </text>
                </>
              )}
              <title>
                {fan
                  ? `${monthWords(month)}: ${fan.middle}, between ${fan.low} and ${fan.high}`
                  : `${monthWords(month)}: ${came}`}
              </title>
            </g>
          )
        })}
        <line
          x1={(x(counts.length) ?? 48) - x.step() * 0.1}
          x2={(x(counts.length) ?? 48) - x.step() * 0.1}
          y1="24"
          y2={y(0)}
          className="stroke-ink"
          strokeDasharray="3 3"
        />
      </svg>
    </div>
  )
}
