import clsx from 'clsx'

import type { Schema } from '../api/client'
import { FLOOR, TANK } from './tank'

type Inside = Schema['InsideOut']

/** What warms a tank. */
export type Heats = 'burner' | 'elements' | 'coil'

interface Props {
  inside: Inside
  grains: string
  heats: Heats
  words: (celsius: number) => string
}

/** Water by its warmth, layer over layer, and what lies on the floor. */
export function TankInside({ inside, grains, heats, words }: Props) {
  const up = (share: number) => FLOOR - share * TANK.tall
  const bed = inside.loose_share + inside.hard_share
  const layers = inside.layers.map((one, place) => ({ ...one, from: inside.layers[place - 1]?.to ?? 0 }))
  const top = layers.at(-1)
  return (
    <>
      {layers.map((one) => (
        <rect
          key={one.to}
          x={TANK.x}
          y={up(one.to)}
          width={TANK.wide}
          height={Math.max(up(one.from) - up(one.to), 0.5)}
          className={one.celsius > 35 ? 'fill-copper' : 'fill-water'}
          fillOpacity={one.celsius > 35 ? 0.12 + (one.celsius - 35) / 120 : 0.42 - one.celsius / 130}
        />
      ))}
      {heats === 'coil' && (
        <path
          d={`M${TANK.x + TANK.wide} ${FLOOR - 96}h-130q-14 0 -14 9t14 9h90q14 0 14 9t-14 9h-90q-14 0 -14 9t14 9h130`}
          className="stroke-ochre-deep"
          strokeWidth="6"
          fill="none"
        />
      )}
      {inside.rod_left !== null && (
        <path
          d={`M358 ${TANK.y}V${TANK.y + 210}`}
          className="stroke-slate"
          strokeWidth={2 + 10 * Math.sqrt(inside.rod_left)}
          strokeOpacity="0.75"
        />
      )}
      {heats === 'elements' && (
        <>
          <Element share={0.7} burnt={inside.upper_burnt} />
          <Element share={0.12} burnt={inside.lower_burnt} />
        </>
      )}
      <path d={`M318 ${TANK.y}V${FLOOR - 30}`} className="stroke-rule" strokeWidth="3" />
      <rect x={TANK.x} y={up(bed)} width={TANK.wide} height={bed * TANK.tall + 2} fill={`url(#${grains})`} />
      {top && inside.share > 0.08 && (
        <text
          x={TANK.x + TANK.wide - 14}
          y={up(top.to) + 22}
          textAnchor="end"
          className="fill-ink text-[13px] narrow:text-[20px]"
        >
          {words(top.celsius)}
        </text>
      )}
      {layers[0] && top && top.celsius - layers[0].celsius > 3 && (
        <text
          x={TANK.x + TANK.wide - 14}
          y={up(bed) - 8}
          textAnchor="end"
          className="fill-ink text-[13px] narrow:text-[20px]"
        >
          {words(layers[0].celsius)}
        </text>
      )}
    </>
  )
}

const Element = ({ share, burnt }: { share: number; burnt: boolean }) => (
  <g>
    <rect
      x={TANK.x}
      y={FLOOR - share * TANK.tall - 5}
      width="118"
      height="10"
      rx="5"
      className={clsx('stroke-ink', burnt ? 'fill-oxide' : 'fill-ochre-pale')}
    />
    {burnt && (
      <path d={`M${TANK.x + 60} ${FLOOR - share * TANK.tall - 8}l8 16`} className="stroke-sheet" strokeWidth="3" />
    )}
  </g>
)
