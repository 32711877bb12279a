import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { dateWords, day, shortMonthYear } from '../../lib/dates'
import { Button } from '../../ui/Button'
import { Phrase } from '../../ui/Phrase'
import { LOOKS } from './AheadBars'
import { figure, groupName, GROUPED, rangeOf, round, SERIES, seriesOf, told, type Projection } from './aheadWords'
import { projectionsHeldOptions } from './queries'
import { percent } from './words'

interface Side {
  projection: Projection
  name: string
}

/** Every figure as a table: the middle future, and what eight of ten lie between. */
export function AheadFigures({ sides, today }: { sides: Side[]; today: string }) {
  return (
    <>
      {sides.map((side, number) => (
        <Figures key={side.projection.id} side={side} look={LOOKS[number]!.text} />
      ))}
      <Groups projection={sides.at(-1)!.projection} />
      <Losing projection={sides.at(-1)!.projection} />
      <Rests projection={sides[0]!.projection} today={today} />
      <Held today={today} />
    </>
  )
}

function Figures({ side: { projection, name }, look }: { side: Side; look: string }) {
  const { until, currency } = projection
  return (
    <table className={`mb-5 w-full border-collapse ${until.length > 5 ? '' : 'table-fixed'}`}>
      <caption className={`pb-1 text-left font-bold ${look}`}>{name[0]!.toUpperCase() + name.slice(1)}</caption>
      <thead>
        <tr className="border-b border-ink text-left">
          <th scope="col" className={`font-normal text-soft ${until.length > 3 ? 'w-32' : 'w-44'}`}>
            a year
          </th>
          {until.map((one) => (
            <th key={one} scope="col" className="pl-2 text-right whitespace-nowrap">
              {until.length > 3 ? one.slice(0, 4) : `to ${shortMonthYear(day(one))}`}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {told(projection).map(([key, words]) => (
          <tr key={key} className="border-b border-line">
            <th scope="row" className="py-0.5 text-left font-normal">
              {words}
            </th>
            {seriesOf(projection, key).map((fan, year) => (
              <td key={year} className="pl-2 text-right whitespace-nowrap">
                {figure(key, fan.middle, currency)}
                <span className="block text-fine text-soft">{rangeOf(key, fan)}</span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Where it comes from: hours and money by water, kind, age or plan. */
function Groups({ projection }: { projection: Projection }) {
  const [by, setBy] = useState('water')
  const rows = projection.groups.find((one) => one.by === by)?.rows ?? []
  const { currency } = projection
  const most = Math.max(1, ...rows.map((row) => row.hours))
  return (
    <section className="mb-5" aria-label="Where it comes from">
      <h2 className="text-base">
        Where it comes from, by
        <Phrase
          label="Grouped by"
          value={by}
          options={GROUPED.map(([value, label]) => ({ value, label }))}
          onChange={setBy}
        />
      </h2>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-ink text-left text-soft">
            <th scope="col" className="font-normal">
              a year, on average
            </th>
            <th scope="col" className="pl-2 text-right font-normal">
              heaters
            </th>
            <th scope="col" className="pl-2 text-right font-normal">
              hours
            </th>
            <th scope="col" className="pl-2 text-right font-normal">
              hours each
            </th>
            <th scope="col" className="pl-2 text-right font-normal">
              left
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className="border-b border-line">
              <th scope="row" className="py-0.5 text-left font-normal">
                {groupName(by, row.name)}
                <span className="block h-1 bg-water" style={{ width: `${(100 * row.hours) / most}%` }} />
              </th>
              <td className="pl-2 text-right">{round(row.heaters)}</td>
              <td className="pl-2 text-right">{round(row.hours)}</td>
              <td className="pl-2 text-right">{(row.hours / Math.max(row.heaters, 1)).toFixed(1)}</td>
              <td className="pl-2 text-right whitespace-nowrap">{figure('left', row.income - row.cost, currency)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

/** Sites whose plan, or price without one, does not carry what they ask for. */
function Losing({ projection: { losing, currency } }: { projection: Projection }) {
  const [all, setAll] = useState(false)
  if (losing.of === 0) return null
  const rows = all ? losing.rows : losing.rows.slice(0, FIRST)
  return (
    <section className="mb-5" aria-label="Sites that cost more than they bring">
      <h2 className="text-base">
        {losing.sites === 0
          ? `None of ${round(losing.of)} sites costs more than it brings`
          : `${round(losing.sites)} of ${round(losing.of)} sites cost more than they bring`}
      </h2>
      {rows.length > 0 && (
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-ink text-left text-soft">
              <th scope="col" className="font-normal">
                a year, on average
              </th>
              <th scope="col" className="pl-2 font-normal">
                plan
              </th>
              <th scope="col" className="pl-2 text-right font-normal">
                hours
              </th>
              <th scope="col" className="pl-2 text-right font-normal">
                brings
              </th>
              <th scope="col" className="pl-2 text-right font-normal">
                left
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.site_id} className="border-b border-line">
                <th scope="row" className="py-0.5 text-left font-normal">
                  <Link className="underline underline-offset-2" to={`/sites/${row.site_id}`}>
                    {row.site}
                  </Link>
                  {row.heaters > 1 && <span className="text-soft"> · {row.heaters} heaters</span>}
                </th>
                <td className="pl-2">{row.plan || <span className="text-soft">none</span>}</td>
                <td className="pl-2 text-right">{row.hours.toFixed(1)}</td>
                <td className="pl-2 text-right whitespace-nowrap">{figure('income', row.income, currency)}</td>
                <td className="pl-2 text-right whitespace-nowrap">{figure('left', row.income - row.cost, currency)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {losing.rows.length > FIRST && !all && (
        <Button look="quiet" className="mt-1 min-h-8 px-0!" onClick={() => setAll(true)}>
          Show {losing.rows.length === losing.sites ? 'all of them' : `the ${losing.rows.length} worst`}
        </Button>
      )}
      {losing.sites > 0 && (
        <p className="mt-1 text-fine text-soft">
          On the page of a site, “Which plan fits” prices its coming years under each plan.
        </p>
      )}
    </section>
  )
}

const FIRST = 8

/** What the figures rest on, from the company's own record. */
function Rests({ projection: one, today }: { projection: Projection; today: string }) {
  return (
    <section className="mb-5 text-fine text-soft" aria-label="What it rests on">
      <p>
        By our record {one.joining.toFixed(one.joining < 10 ? 1 : 0)} heaters join in a year and
        {` ${percent(one.leaving)}`} of the sites leave; {round(one.calls_a_year)} calls a year are not planned;
        {` ${percent(one.accepted)}`} of owners follow the advice to replace.
        {one.missing.length > 0 && ` ${missingWords(one.missing)}`}
      </p>
      {one.season && <p className="mt-1">{seasonWords(one.season, one, today)}</p>}
    </section>
  )
}

/** The plan in force, made by the planner's own search, against the first year that is told here. */
const seasonWords = (season: NonNullable<Projection['season']>, one: Projection, today: string) => {
  const said = (['visits', 'flushes', 'descales'] as const).map((name) => {
    const first = seriesOf(one, name)[0]
    return `${round(season[name])} ${name}${first ? ` (told here: ${rangeOf(name, first)})` : ''}`
  })
  return (
    `The season planned from ${dateWords(season.first_week, today)} has ${said.join(', ')} in its year. ` +
    'It works off what is late in its own order, and leaves what is not worth the way yet.'
  )
}

const missingWords = (keys: string[]) =>
  `The price book does not know ${keys.length} of what is reckoned with ` +
  `(${keys.slice(0, 3).join(', ')}${keys.length > 3 ? ' …' : ''}); it counts as nothing.`

/** What came of what was told, where a year has passed since. */
function Held({ today }: { today: string }) {
  const { data } = useQuery(projectionsHeldOptions)
  if (!data || data.rows.length === 0) return null
  return (
    <table className="mb-5 w-full border-collapse">
      <caption className="pb-1 text-left font-bold">
        What came of it: {data.inside} of {data.rows.length} in their range
      </caption>
      <thead>
        <tr className="border-b border-ink text-left text-soft">
          <th scope="col" className="font-normal">
            told on, of the year to
          </th>
          <th scope="col" className="pl-2 text-right font-normal">
            told
          </th>
          <th scope="col" className="pl-2 text-right font-normal">
            came
          </th>
        </tr>
      </thead>
      <tbody>
        {data.rows.map((row) => (
          <tr key={`${row.asked_on} ${row.until} ${row.name}`} className="border-b border-line">
            <th scope="row" className="text-left font-normal">
              {wordsOf(row.name)}
              <span className="block text-fine text-soft">
                {dateWords(row.asked_on, today)}, {dateWords(row.until, today)}
              </span>
            </th>
            <td className="pl-2 text-right whitespace-nowrap">
              {round(row.low)}–{round(row.high)}
            </td>
            <td className={`pl-2 text-right ${isInside(row) ? '' : 'font-bold text-oxide'}`}>
              {round(row.came)}
              {!isInside(row) && <span className="block text-fine">outside</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

const isInside = (row: Schema['HeldYearOut']) => row.came >= row.low && row.came <= row.high
const wordsOf = (name: string) => SERIES.find(([key]) => key === name)?.[1] ?? name
