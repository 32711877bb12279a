import type { Schema } from '../../api/client'
import { CutTank } from '../../drawing/CutTank'
import { shown, type Units } from '../../lib/units'
import { useCompany } from '../../session/session'
import { useSize } from '../../ui/useSize'
import { Courses } from './Courses'
import { Figures } from './Figures'
import { ForCustomer } from './ForCustomer'
import { tankCourses } from './livesCourses'
import { TimeLine } from './TimeLine'
import type { AskedLives } from './useAskedLives'
import { CARES, eventsOf, LOUD } from './words'

type Life = Schema['LifeOut']

interface Props {
  data: Schema['LivesOut']
  lives: AskedLives
  many: boolean
  asTable: boolean
  at: number
  onChange: (at: number) => void
}

/** Two lives of a tank, cut open at any year. */
export function TankLives({ data, lives, many, asTable, at, onChange }: Props) {
  const { units } = useCompany()
  const [frame, size] = useSize()
  // What is drawn under it takes some of the height.
  const tall = Math.min(430, Math.max(240, size.height - 64))
  const { sides, capacity } = lives
  const year = data.years[at] ?? 0
  const money = { currency: data.currency, energyPrice: lives.energyPrice }
  const courses = tankCourses(data.sides, data.years, units, many, money)
  return (
    <>
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        <div className="flex min-w-0 flex-1 items-center justify-evenly narrow:flex-wrap">
          {data.sides.map((life, number) => (
            <figure key={number} className="text-center">
              <CutTank
                deposit={life.depth_mm[at]! / data.height_mm}
                rodLeft={life.rod_left[at]!}
                hot={life.hot_l[at]! / capacity}
                fired={data.is_fired}
                loud={life.loud[at]!}
                leaks={life.leaks_in_year !== null && year >= life.leaks_in_year}
                height={tall}
                words={lifeWords(life, at, year, units)}
                depositWords={shown(units, 'length_mm', life.depth_mm[at]!)}
                rodWords={life.rod_left[at]! > 0 ? `${Math.round(100 * life.rod_left[at]!)} % left` : 'bare wire'}
              />
              <figcaption className={number === 0 ? 'text-water' : 'text-copper-deep'}>
                <strong className="block">{CARES[sides[number]!.care].words}</strong>
                <span className="text-soft">
                  {life.leaks_in_year !== null && year >= life.leaks_in_year
                    ? `leaked in year ${Math.floor(life.leaks_in_year) + 1}`
                    : LOUD[life.loud[at]!]}
                </span>
              </figcaption>
            </figure>
          ))}
        </div>
        <div
          ref={frame}
          className="min-h-0 w-[500px] shrink-0 overflow-hidden py-2 pr-2 narrow:h-[420px] narrow:w-full"
        >
          {asTable ? (
            <Figures years={data.years} courses={courses} lives={sides.map((one) => CARES[one.care].words)} />
          ) : (
            size.width > 0 && (
              <Courses
                years={data.years}
                courses={courses}
                ends={data.sides.map((one) => one.leaks_in_year)}
                at={at}
                width={size.width - 8}
                height={size.height - 16}
              />
            )
          )}
        </div>
      </div>
      <div className="shrink-0 border-t border-line px-8 pt-1 pb-3 narrow:px-3">
        <TimeLine years={data.years} events={data.sides.map(eventsOf)} at={at} onChange={onChange} />
        <p className="mt-1 text-fine text-soft">
          Computed by the laws that the forecast uses, with {shown(units, 'hardness_mg_l', data.hardness_mg_l)} of
          hardness; a single tank may do better or worse. It shows what care changes, not when a certain tank fails.
          Nothing here is kept.
        </p>
        <ForCustomer lives={lives} year={Math.max(1, Math.round(year))} unpriced={data.unpriced} />
      </div>
    </>
  )
}

function lifeWords(life: Life, at: number, year: number, units: Units): string {
  const leaked = life.leaks_in_year !== null && year >= life.leaks_in_year
  return [
    `Year ${year.toFixed(1)}: ${shown(units, 'length_mm', life.depth_mm[at]!)} of deposit`,
    life.rod_left[at]! > 0 ? `${Math.round(100 * life.rod_left[at]!)} % of the rod left` : 'the rod is bare wire',
    `${shown(units, 'volume_l', life.hot_l[at]!)} hot in one draw, heated again in ${life.recover_min[at]} min`,
    LOUD[life.loud[at]!],
    ...(leaked ? ['it has leaked'] : []),
  ].join(', ')
}
