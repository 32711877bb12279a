import { useId } from 'react'
import { Grains } from './Grains'

interface Props {
  /** Share of the height that is deposit, 0 to 1. */
  deposit: number
  /** Share of the rod, 0 is bare wire. */
  rodLeft: number
  /** Share of the water that comes hot. */
  hot: number
  fired: boolean
  loud: number
  leaks: boolean
  height: number
  words: string
  depositWords: string
  rodWords: string
}

const WIDTH = 300
const LEFT = 70
const WIDE = 150
const TOP = 40

/** A tank cut open, to scale in its height: what lies on the floor, what is left of the rod, how much comes hot. */
export function CutTank({ deposit, rodLeft, hot, fired, loud, leaks, height, words, depositWords, rodWords }: Props) {
  const clip = useId()
  const grains = useId()
  const tall = height - TOP - 44
  const floor = TOP + tall
  const up = (share: number) => floor - share * tall
  const rodX = LEFT + WIDE * 0.78
  const rodLong = tall * 0.66
  const tip = TOP + rodLong * (0.4 + 0.6 * rodLeft)
  const rodWide = 15
  const thin = 1.5 + rodWide * rodLeft
  const bed = up(Math.max(deposit, 0))
  const warm = Math.min(up(1 - hot), bed)
  return (
    <svg width={WIDTH} height={height} role="img" aria-label={words}>
      <defs>
        <clipPath id={clip}>
          <rect x={LEFT} y={TOP} width={WIDE} height={tall} rx="30" />
        </clipPath>
        <Grains id={grains} />
      </defs>
      <rect
        x={LEFT - 10}
        y={TOP - 9}
        width={WIDE + 20}
        height={tall + 18}
        rx="38"
        className="fill-line/60 stroke-rule"
        strokeWidth="1"
      />
      <g clipPath={`url(#${clip})`}>
        <rect x={LEFT} y={TOP} width={WIDE} height={tall} className="fill-water-pale" />
        <rect x={LEFT} y={TOP} width={WIDE} height={Math.max(warm - TOP, 0)} className="fill-water/25" />
        <rect x={LEFT} y={bed} width={WIDE} height={Math.max(floor - bed, 0)} fill={`url(#${grains})`} />
      </g>
      {fired && (
        <rect
          x={LEFT + WIDE / 2 - 13}
          y={TOP - 26}
          width="26"
          height={tall + 26}
          className="fill-ground stroke-rule"
          strokeWidth="1"
        />
      )}
      <rect x={LEFT} y={TOP} width={WIDE} height={tall} rx="30" className="fill-none stroke-ink" strokeWidth="2.6" />
      <path d={`M${LEFT + 34} ${TOP - 26}V${floor - 70}`} className="stroke-ink" strokeWidth="8" />
      <path d={`M${LEFT + 34} ${TOP - 26}V${floor - 72}`} className="stroke-sheet" strokeWidth="5" />
      <line x1={rodX} x2={rodX} y1={TOP + 3} y2={TOP + rodLong} className="stroke-ink" strokeWidth="1.6" />
      {rodLeft > 0 && (
        <path
          d={`M${rodX - thin / 2} ${TOP + 3}h${thin}L${rodX + thin / 5} ${tip}h-${(2 * thin) / 5}Z`}
          className="fill-slate"
        />
      )}
      <path d={`M${LEFT + WIDE - 3} ${up(0.1) - 5}h22v9h-22z`} className="fill-sheet stroke-ink" strokeWidth="1.5" />
      {fired && (
        <path
          d={`M${LEFT + WIDE / 2 - 24} ${floor + 22}q6-17 12 0q6-19 12 0q6-19 12 0q6-17 12 0`}
          className="fill-none stroke-copper"
          strokeWidth="2"
        />
      )}
      {loud > 0 &&
        Array.from({ length: loud }, (_, at) => (
          <path
            key={at}
            d={`M${LEFT - 22 - 9 * at} ${floor - 130 - 4 * at}q-9 ${14 + 4 * at} 0 ${28 + 8 * at}`}
            className="fill-none stroke-oxide"
            strokeWidth="1.8"
          />
        ))}
      {leaks && (
        <path
          d={`M${LEFT + 26} ${floor + 12}v9M${LEFT + 40} ${floor + 14}v12M${LEFT + 12} ${floor + 16}v8`}
          className="stroke-water"
          strokeWidth="3"
          strokeLinecap="round"
        />
      )}
      <path d={`M${rodX + 3} ${TOP + rodLong * 0.4}H${LEFT + WIDE + 14}`} className="stroke-soft" strokeWidth="0.8" />
      <text x={LEFT + WIDE + 18} y={TOP + rodLong * 0.4 + 4} className="fill-ink text-[12px]">
        {rodWords}
      </text>
      <path d={`M${LEFT + 8} ${Math.min(bed, floor - 4)}H${LEFT - 12}`} className="stroke-soft" strokeWidth="0.8" />
      <text x={LEFT - 16} y={Math.min(bed, floor - 4) + 4} textAnchor="end" className="fill-ink text-[12px]">
        {depositWords}
      </text>
    </svg>
  )
}
