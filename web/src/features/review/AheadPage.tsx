import { useQuery } from '@tanstack/react-query'
import { scaleBand, scaleLinear } from 'd3-scale'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { day, shortMonthYear } from '../../lib/dates'
import { Phrase } from '../../ui/Phrase'
import { Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { aheadOptions } from './queries'
import { ReviewNav } from './ReviewNav'
import { percent, PRACTICES } from './words'

type Ahead = Schema['AheadOut']
type Practice = Schema['Practice']

const LOOKS = [
  { bar: 'fill-water/25 stroke-water', mark: 'stroke-water', text: 'text-water', dash: '' },
  { bar: 'fill-copper/20 stroke-copper', mark: 'stroke-copper', text: 'text-copper-deep', dash: '5 3' },
] as const
const COUNTS: [string, string][] = [
  ['visits', 'Visits'],
  ['flushes', 'Flushes'],
  ['descales', 'Descales'],
  ['rods', 'Rods looked at or fitted'],
  ['relief_valves', 'Relief valves renewed'],
  ['leaks', 'Tanks that leak'],
]

/** What the base asks for in the coming years, under the practice as it is and under another beside it. */
export function AheadPage() {
  const [address, setAddress] = useSearchParams()
  const years = Math.min(5, Math.max(1, Number(address.get('years')) || 3))
  const practice = (address.get('practice') ?? 'annual') as Practice
  const { data, error, isPlaceholderData, refetch } = useQuery(aheadOptions(years, practice))
  const say = (name: string) => (value: string) =>
    setAddress(
      (now) => {
        now.set(name, value)
        return now
      },
      { replace: true },
    )
  return (
    <div className="flex h-full flex-col narrow:h-auto">
      <h1 className="sr-only">The years ahead</h1>
      <ReviewNav />
      <div className="flex min-h-[52px] shrink-0 items-center border-b border-line px-5">
        <p className="text-soft">
          The next
          <Phrase
            label="Years"
            value={String(years)}
            options={[1, 2, 3, 4, 5].map((one) => ({
              value: String(one),
              label: one === 1 ? 'year' : `${one} years`,
            }))}
            onChange={say('years')}
          />
          {data && (
            <>
              cleaning <strong className="text-water">{PRACTICES[data.sides[0]!.practice].name}</strong>, as it is set,
            </>
          )}{' '}
          beside
          <Phrase
            label="Practice beside it"
            value={practice}
            options={Object.entries(PRACTICES).map(([value, one]) => ({ value: value as Practice, label: one.name }))}
            onChange={say('practice')}
          />
          .
        </p>
      </div>
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the years" />}
      {data && (
        <div
          className={`flex min-h-0 flex-1 narrow:flex-col ${isPlaceholderData ? 'opacity-55' : ''}`}
          aria-busy={isPlaceholderData}
        >
          <Bars data={data} />
          <div
            tabIndex={0}
            role="region"
            aria-label="Figures by year"
            className="w-[560px] shrink-0 overflow-auto border-l border-line px-5 py-4 narrow:w-full narrow:border-l-0"
          >
            <Figures data={data} />
          </div>
        </div>
      )}
      {data && (
        <div className="shrink-0 border-t border-line px-5 py-3">
          <p className="text-lead">{sentences(data).join(' ')}</p>
          <p className="mt-1 text-fine text-soft">
            200 futures of the base as it is today; nobody joins or leaves, each tank that leaks is replaced once, and
            everything is done by the date of the accepted risk, where a season may put off what is not worth the way.
            The futures differ by what is not known of each pace, by what gives way and by how long visits take.
            {data.asked_of < data.heaters && ` ${data.asked_of} heaters answered for all ${data.heaters}.`}
          </p>
        </div>
      )}
    </div>
  )
}

/** The three sentences that somebody would tell the owner. */
export function sentences(data: Ahead): string[] {
  const [now, other] = data.sides as [Ahead['sides'][number], Ahead['sides'][number]]
  const sum = (fans: Schema['FanOut'][]) => fans.reduce((all, one) => all + one.middle, 0)
  const most = Math.max(...now.hours.map((one) => one.high))
  const share = data.crew_hours > 0 ? most / data.crew_hours : null
  const found = [
    share === null
      ? `The base asks for up to ${round(most)} hours a year.`
      : `The base asks for up to ${round(most)} hours a year, ${percent(share)} of the ` +
        `${round(data.crew_hours)} that the crew can plan.`,
  ]
  if (now.practice === other.practice) return [...found, 'Choose another practice to see it beside this one.']
  const more = sum(data.hours_more)
  const words =
    `${PRACTICES[other.practice].sentence} would take ${round(Math.abs(more))} hours ` +
    `${more < 0 ? 'fewer' : 'more'} over all`
  const sure = more < 0 ? data.fewer_share : 1 - data.fewer_share
  found.push(`${words}, so in ${sure === 1 ? 'all' : percent(sure)} of the futures.`)
  const flushes = (side: Ahead['sides'][number]) => sum(side.counts.find((one) => one.name === 'flushes')!.by_year)
  found.push(`It flushes ${round(flushes(other))} times, the practice as it is ${round(flushes(now))}.`)
  return found
}

const round = (value: number) => Math.round(value).toLocaleString('en')

function Bars({ data }: { data: Ahead }) {
  const [frame, size] = useSize()
  const width = Math.max(size.width, 300)
  const height = Math.max(size.height, 240)
  const top = Math.max(data.crew_hours, ...data.sides.flatMap((side) => side.hours.map((one) => one.high)))
  const y = scaleLinear()
    .domain([0, top * 1.08])
    .range([height - 48, 34])
  const x = scaleBand<number>()
    .domain(data.until.map((_, at) => at))
    .range([64, width - 20])
    .padding(0.35)
  const half = x.bandwidth() / 2
  return (
    <div ref={frame} className="min-h-0 min-w-0 flex-1 overflow-hidden narrow:h-[320px] narrow:flex-none">
      <svg width={width} height={height} role="img" aria-label={`Hours by year: ${barsWords(data)}`}>
        <text x="16" y="22" className="fill-ink text-[13px] font-bold">
          Hours a year
          <tspan className="fill-soft font-normal"> eight of ten futures lie in the bar, half below its line</tspan>
        </text>
        {y.ticks(5).map((tick) => (
          <g key={tick}>
            <line x1="56" x2={width - 12} y1={y(tick)} y2={y(tick)} className="stroke-line" />
            <text x="50" y={y(tick) + 4} textAnchor="end" className="fill-soft text-[12px]">
              {tick.toLocaleString('en')}
            </text>
          </g>
        ))}
        {data.crew_hours > 0 && (
          <>
            <line
              x1="56"
              x2={width - 12}
              y1={y(data.crew_hours)}
              y2={y(data.crew_hours)}
              className="stroke-ink"
              strokeWidth="2"
            />
            <text x={width - 16} y={y(data.crew_hours) - 6} textAnchor="end" className="fill-ink text-[12px]">
              the crew can plan {round(data.crew_hours)}
            </text>
          </>
        )}
        {data.until.map((until, year) => (
          <g key={until}>
            {data.sides.map((side, number) => {
              const fan = side.hours[year]!
              const left = x(year)! + number * half + 2
              return (
                <g key={number}>
                  <rect
                    x={left}
                    width={half - 4}
                    y={y(fan.high)}
                    height={Math.max(y(fan.low) - y(fan.high), 2)}
                    className={LOOKS[number]!.bar}
                    strokeDasharray={LOOKS[number]!.dash}
                  />
                  <line
                    x1={left}
                    x2={left + half - 4}
                    y1={y(fan.middle)}
                    y2={y(fan.middle)}
                    className={LOOKS[number]!.mark}
                    strokeWidth="3"
                  />
                  <text
                    x={left + half / 2 - 2}
                    y={y(fan.high) - 6}
                    textAnchor="middle"
                    className="fill-ink text-[12px]"
                  >
                    {round(fan.middle)}
                  </text>
                </g>
              )
            })}
            <text x={x(year)! + half} y={height - 26} textAnchor="middle" className="fill-ink text-[12px]">
              to {shortMonthYear(day(until))}
            </text>
          </g>
        ))}
        {data.sides.map((side, number) => (
          <text
            key={number}
            x={64 + number * 170}
            y={height - 6}
            className={`text-[12px] font-bold ${number === 0 ? 'fill-water' : 'fill-copper-deep'}`}
          >
            {number === 0 ? '■' : '□'} {PRACTICES[side.practice].name}
            {number === 0 ? ', as set' : ''}
          </text>
        ))}
      </svg>
    </div>
  )
}

const barsWords = (data: Ahead) =>
  data.sides
    .map((side) => `${PRACTICES[side.practice].name} ${side.hours.map((one) => round(one.middle)).join(', ')}`)
    .join('; ')

/** The same figures and the others as a table: the middle future, and what eight of ten lie between. */
function Figures({ data }: { data: Ahead }) {
  const rows: { name: string; fans: (side: Ahead['sides'][number]) => Schema['FanOut'][] }[] = [
    { name: 'Hours', fans: (side) => side.hours },
    ...COUNTS.map(([name, words]) => ({
      name: words,
      fans: (side: Ahead['sides'][number]) => side.counts.find((one) => one.name === name)!.by_year,
    })),
  ]
  return (
    <>
      {data.sides.map((side, number) => (
        <table key={number} className="mb-5 w-full table-fixed border-collapse">
          <caption className={`pb-1 text-left font-bold ${LOOKS[number]!.text}`}>
            {PRACTICES[side.practice].sentence}
            {number === 0 ? ', as it is set' : ''}
          </caption>
          <thead>
            <tr className="border-b border-ink text-left">
              <th scope="col" className="w-44 font-normal text-soft">
                a year
              </th>
              {data.until.map((one) => (
                <th key={one} scope="col" className="pl-2 text-right">
                  to {shortMonthYear(day(one))}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.name} className="border-b border-line">
                <th scope="row" className="py-0.5 text-left font-normal">
                  {row.name}
                </th>
                {row.fans(side).map((fan, year) => (
                  <td key={year} className="pl-2 text-right whitespace-nowrap">
                    {round(fan.middle)}
                    <span className="block text-fine text-soft">
                      {round(fan.low)}–{round(fan.high)}
                    </span>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </>
  )
}
