import { scaleLinear } from 'd3-scale'

export interface Course {
  name: string
  unit: string
  /** Of each side. */
  lines: number[][]
  /** Between the tenth and the ninetieth of many lives, of each side. */
  fans?: number[][][]
  least: number
  most: number
  words: (value: number) => string
}

interface Props {
  years: number[]
  courses: Course[]
  /** The year in which each life ends, null where it outlasts them. */
  ends: (number | null)[]
  at: number
  width: number
  height: number
}

const LEFT = 4
const RIGHT = 96
const LOOKS = [
  { line: 'stroke-water', fill: 'fill-water', fan: 'fill-water/15', dash: '' },
  { line: 'stroke-copper', fill: 'fill-copper', fan: 'fill-copper/15', dash: '6 4' },
] as const

/** What changes over the years, one small plot a figure, both lives in each; the line is where the years stand. */
export function Courses({ years, courses, ends: over, at, width, height }: Props) {
  const x = scaleLinear()
    .domain([0, years.at(-1)!])
    .range([LEFT, width - RIGHT])
  const tall = height / courses.length
  return (
    <svg width={width} height={height} aria-hidden>
      {courses.map((course, number) => {
        const top = number * tall + 24
        const y = scaleLinear()
          .domain([course.least, Math.max(course.most, course.least + 1e-9)])
          .range([number * tall + tall - 12, top])
        const path = (line: number[]) => `M${line.map((value, n) => `${x(years[n]!)} ${y(value)}`).join('L')}`
        const ends = course.lines.map((line) => y(line[at]!))
        // Figures that would lie on one another are set apart.
        const apart = ends.length > 1 && Math.abs(ends[0]! - ends[1]!) < 15
        const middle = ends.reduce((sum, one) => sum + one, 0) / ends.length
        const upper = ends.length > 1 && ends[0]! <= ends[1]! ? 0 : 1
        return (
          <g key={course.name}>
            <text x={LEFT} y={number * tall + 13} className="fill-ink text-[13px] font-bold">
              {course.name}
              <tspan className="fill-soft font-normal"> {course.unit}</tspan>
            </text>
            <line x1={LEFT} x2={width - RIGHT} y1={y(course.least)} y2={y(course.least)} className="stroke-line" />
            {course.fans?.map((fan, side) => (
              <path
                key={side}
                d={`${path(fan[0]!)}L${[...fan[2]!]
                  .map((value, n) => `${x(years[n]!)} ${y(value)}`)
                  .reverse()
                  .join('L')}Z`}
                className={LOOKS[side]!.fan}
              />
            ))}
            {course.lines.map((line, side) => (
              <path
                key={side}
                d={path(line)}
                fill="none"
                className={LOOKS[side]!.line}
                strokeWidth="2.2"
                strokeDasharray={LOOKS[side]!.dash}
              />
            ))}
            {course.lines.map((line, side) => {
              const label = apart ? middle + (side === upper ? -8 : 8) : ends[side]!
              const here = y(line[at]!)
              return (
                <g key={side} className={LOOKS[side]!.fill}>
                  {side === 0 ? (
                    <circle cx={x(years[at]!)} cy={here} r="4.5" />
                  ) : (
                    <rect x={x(years[at]!) - 4} y={here - 4} width="8" height="8" />
                  )}
                  <text x={width - RIGHT + 10} y={label + 4} className="text-[13px] font-semibold">
                    {course.words(line[at]!)}
                  </text>
                </g>
              )
            })}
          </g>
        )
      })}
      <line x1={x(years[at]!)} x2={x(years[at]!)} y1="4" y2={height} className="stroke-ink" strokeWidth="1.4" />
      {over.map(
        (year, side) =>
          year !== null && (
            <line
              key={side}
              x1={x(year)}
              x2={x(year)}
              y1={height - tall}
              y2={height - 6}
              className={LOOKS[side]!.line}
              strokeWidth="1.2"
              strokeDasharray="2 3"
            />
          ),
      )}
    </svg>
  )
}
