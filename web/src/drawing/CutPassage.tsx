import { useId } from 'react'

import { Grains } from './Grains'

interface Props {
  /** Of the passage's half width, what scale takes, 0 to 1. */
  scale: number
  /** From where the wall bears no more, as a share of it. */
  limit: number
  words: string
  scaleWords: string
}

const WALL = 128

/** A passage of an exchanger, cut across: its wall, the scale on it, and the water that is left room. */
export function CutPassage({ scale, limit, words, scaleWords }: Props) {
  const grains = useId()
  const room = WALL * (1 - Math.min(Math.max(scale, 0), 0.97))
  return (
    <svg viewBox="0 0 340 340" width="320" height="320" role="img" aria-label={words}>
      <defs>
        <Grains id={grains} />
      </defs>
      {Array.from({ length: 24 }, (_, at) => (
        <path
          key={at}
          d="M170 6v24"
          transform={`rotate(${15 * at} 170 170)`}
          className="stroke-copper"
          strokeOpacity="0.55"
          strokeWidth="7"
        />
      ))}
      <circle cx="170" cy="170" r={WALL + 12} className="fill-copper" fillOpacity="0.75" />
      <circle cx="170" cy="170" r={WALL} className="fill-ochre" />
      <circle cx="170" cy="170" r={WALL} fill={`url(#${grains})`} />
      <circle cx="170" cy="170" r={room} className="fill-water-pale" />
      <circle
        cx="170"
        cy="170"
        r={WALL * (1 - limit)}
        fill="none"
        className="stroke-oxide"
        strokeWidth="1.6"
        strokeDasharray="5 5"
      />
      <text
        x="170"
        y="168"
        textAnchor="middle"
        strokeWidth="4"
        className="fill-ink stroke-ground text-[18px] font-bold [paint-order:stroke]"
      >
        {scaleWords}
      </text>
      <text
        x="170"
        y="188"
        textAnchor="middle"
        strokeWidth="4"
        className="fill-ink stroke-ground text-[12px] [paint-order:stroke]"
      >
        of scale
      </text>
    </svg>
  )
}
