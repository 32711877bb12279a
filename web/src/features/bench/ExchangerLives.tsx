import { useQuery } from '@tanstack/react-query'

import type { Schema } from '../../api/client'
import { CutPassage } from '../../drawing/CutPassage'
import { shown, type Units } from '../../lib/units'
import { useCompany } from '../../session/session'
import { Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { Courses } from './Courses'
import { Figures } from './Figures'
import { ForCustomer } from './ForCustomer'
import { exchangerCourses, millimetres } from './livesCourses'
import { exchangerLivesOptions } from './queries'
import { TimeLine } from './TimeLine'
import type { AskedLives } from './useAskedLives'
import { DESCALED } from './words'

type Life = Schema['ExchangerLifeOut']

interface Props {
  lives: AskedLives
  many: boolean
  asTable: boolean
  at: number
  onChange: (at: number) => void
}

/** Two lives of a tankless heater: a passage of its exchanger cut across, at any year. */
export function ExchangerLives({ lives, many, asTable, at, onChange }: Props) {
  const { units } = useCompany()
  const [frame, size] = useSize()
  const { data, error, refetch } = useQuery(exchangerLivesOptions(lives.asked))
  if (error) return <Failed error={error} onRetry={() => void refetch()} />
  if (!data) return <Loading what="the years" />
  const { sides } = lives
  const money = { currency: data.currency, energyPrice: lives.energyPrice }
  const courses = exchangerCourses(data.sides, data.years, units, many, money)
  const year = data.years[at] ?? 0
  return (
    <>
      <div className="flex min-h-0 flex-1 narrow:flex-col">
        <div className="flex min-w-0 flex-1 items-center justify-evenly narrow:flex-wrap">
          {data.sides.map((life, number) => (
            <figure key={number} className="text-center">
              <CutPassage
                scale={life.thickness_mm[at]! / data.passage_mm}
                limit={data.limit_mm / data.passage_mm}
                words={lifeWords(life, at, year, units)}
                scaleWords={millimetres(life.thickness_mm[at]!, units)}
              />
              <figcaption className={number === 0 ? 'text-water' : 'text-copper-deep'}>
                <strong className="block">{DESCALED[sides[number]!.care]}</strong>
                <span className="text-soft">
                  {life.thickness_mm[at]! >= data.limit_mm ? 'cuts out at full draw' : 'holds at full draw'}
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
            <Figures years={data.years} courses={courses} lives={sides.map((one) => DESCALED[one.care])} />
          ) : (
            size.width > 0 && (
              <Courses
                years={data.years}
                courses={courses}
                ends={data.sides.map((one) => one.cuts_out_in_year)}
                at={at}
                width={size.width - 8}
                height={size.height - 16}
              />
            )
          )}
        </div>
      </div>
      <div className="shrink-0 border-t border-line px-8 pt-1 pb-3 narrow:px-3">
        <TimeLine
          years={data.years}
          events={data.sides.map((one) =>
            one.cuts_out_in_year === null ? [] : [{ year: one.cuts_out_in_year, words: 'cuts out' }],
          )}
          at={at}
          onChange={onChange}
        />
        <p className="mt-1 text-fine text-soft">
          Computed by the laws that the forecast uses, with {shown(units, 'hardness_mg_l', data.hardness_mg_l)} of
          hardness; a single heater may do better or worse. Nothing here is kept.
        </p>
        <ForCustomer lives={lives} year={Math.max(1, Math.round(year))} unpriced={data.unpriced} />
      </div>
    </>
  )
}

function lifeWords(life: Life, at: number, year: number, units: Units): string {
  const scale = millimetres(life.thickness_mm[at]!, units)
  const flow = shown(units, 'flow_l_min', life.flow_l_min[at]!)
  return `Year ${year.toFixed(1)}: ${scale} of scale, ${flow} hot at full draw`
}
