import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Schema } from '../../api/client'
import { CutTank } from '../../drawing/CutTank'
import { isTank } from '../../drawing/HeaterSign'
import { numberOf, shown, type Units } from '../../lib/units'
import { KINDS } from '../../lib/words'
import { zoneMapOptions } from '../../records/waterQueries'
import { useCompany } from '../../session/session'
import { Button } from '../../ui/Button'
import { Phrase } from '../../ui/Phrase'
import { Failed, Loading } from '../../ui/States'
import { useSize } from '../../ui/useSize'
import { BenchNav } from './BenchNav'
import { Courses, type Course } from './Courses'
import { ExchangerLives } from './ExchangerLives'
import { Figures } from './Figures'
import { TimeLine } from './TimeLine'
import { livesOptions, type Asked, type Side } from './queries'
import { CARES, DESCALED, eventsOf, LOUD } from './words'

type Kind = Schema['HeaterKind']
type Life = Schema['LifeOut']
type CareName = Side['care']

const LIVED = Object.keys(KINDS) as Kind[]
const SIZES = [115, 150, 190, 280, 455]
const PEOPLE = [1, 2, 3, 4, 6, 8]
const SETTINGS = [50, 55, 60, 65, 70]

/** Years in a minute: one tank lived twice with the same luck, cut open at any year. */
export function LivesPage() {
  const { units } = useCompany()
  const [address, setAddress] = useSearchParams()
  const zones = useQuery(zoneMapOptions)
  const [at, setAt] = useState(44)
  const [many, setMany] = useState(false)
  const [asTable, setAsTable] = useState(false)
  const [frame, size] = useSize()
  const said = (name: string, usual: string) => address.get(name) ?? usual
  const say = (name: string) => (value: string) =>
    setAddress(
      (now) => {
        now.set(name, value)
        return now
      },
      { replace: true },
    )
  const kind = said('kind', 'gas_tank') as Kind
  const hardest = zones.data?.toSorted((one, other) => other.hardness_mg_l - one.hardness_mg_l)[0]
  const zone = said('zone', String(hardest?.id ?? ''))
  const side = (which: string, care: CareName): Side => ({
    care: said(`${which}_care`, care) as CareName,
    softened: said(`${which}_water`, 'hard') === 'soft',
    setpoint_c: Number(said(`${which}_set`, '60')),
  })
  const sides = [side('a', 'yearly'), side('b', 'never')]
  const luck = said('luck', '0')
  const price = said('kwh', '')
  const capacity = Number(said('size', '190'))
  const people = Number(said('people', '4'))
  const body: Asked = {
    kind,
    capacity_l: capacity,
    people,
    ...(Number(zone) ? { zone_id: Number(zone) } : {}),
    ...(Number(luck) ? { seed: Number(luck) } : {}),
    care: sides.map((one) => one.care),
    softened: sides.map((one) => one.softened),
    setpoint_c: sides.map((one) => one.setpoint_c),
  }
  const tank = isTank(kind)
  const { data, error, refetch } = useQuery({ ...livesOptions(body), enabled: tank && zones.data !== undefined })
  const year = data?.years[at] ?? 0
  if (error ?? zones.error)
    return (
      <>
        <h1 className="sr-only">Years in a minute</h1>
        <BenchNav />
        <Failed error={(error ?? zones.error)!} onRetry={() => void refetch()} />
      </>
    )
  if ((tank && !data) || !zones.data)
    return (
      <>
        <h1 className="sr-only">Years in a minute</h1>
        <BenchNav />
        <Loading what="the years" />
      </>
    )
  const courses = data ? coursesOf(data.sides, units, many) : []
  const head = (
    <div className="flex min-h-[52px] shrink-0 items-center border-b border-line px-5">
      <p className="text-soft">
        A
        <Phrase
          label="Kind of heater"
          value={kind}
          options={LIVED.map((one) => ({ value: one, label: KINDS[one] }))}
          onChange={say('kind')}
        />
        {tank && (
          <>
            of
            <Phrase
              label="Size"
              value={String(capacity)}
              options={withOne(SIZES, capacity).map((one) => ({
                value: String(one),
                label: shown(units, 'volume_l', one),
              }))}
              onChange={say('size')}
            />
          </>
        )}{' '}
        on
        <Phrase
          label="Water"
          value={zone}
          options={zones.data.map((one) => ({ value: String(one.id), label: one.name }))}
          onChange={say('zone')}
        />
        for
        <Phrase
          label="Household"
          value={String(people)}
          options={withOne(PEOPLE, people).map((one) => ({
            value: String(one),
            label: one === 1 ? 'one person' : `${one} people`,
          }))}
          onChange={say('people')}
        />
        : <Kept which="a" side={sides[0]!} tank={tank} units={units} say={say} /> beside{' '}
        <Kept which="b" side={sides[1]!} tank={tank} units={units} say={say} />, with
        <Phrase
          label="Luck"
          value={luck}
          options={[
            { value: '0', label: 'ordinary luck' },
            ...[1, 2, 3, 4, 5].map((one) => ({ value: String(one), label: `the luck of household ${one}` })),
          ]}
          onChange={say('luck')}
        />
        .
      </p>
      <div className="flex-1" />
      <Button look="quiet" aria-pressed={many} className="min-h-8 shrink-0" onClick={() => setMany(!many)}>
        {many ? 'One life' : '200 lives'}
      </Button>
      <Button look="quiet" aria-pressed={asTable} className="min-h-8 shrink-0" onClick={() => setAsTable(!asTable)}>
        {asTable ? 'Drawn' : 'As a table'}
      </Button>
    </div>
  )
  if (!data || !tank)
    return (
      <div className="flex h-full flex-col">
        <h1 className="sr-only">Years in a minute</h1>
        <BenchNav />
        {head}
        <ExchangerLives asked={body} sides={sides} many={many} asTable={asTable} at={at} onChange={setAt} />
      </div>
    )
  return (
    <div className="flex h-full flex-col">
      <h1 className="sr-only">Years in a minute</h1>
      <BenchNav />
      {head}
      <div className="flex min-h-0 flex-1">
        <div className="flex min-w-0 flex-1 items-center justify-evenly">
          {data.sides.map((life, number) => (
            <figure key={number} className="text-center">
              <CutTank
                deposit={life.depth_mm[at]! / data.height_mm}
                rodLeft={life.rod_left[at]!}
                hot={life.hot_l[at]! / capacity}
                fired={data.is_fired}
                loud={life.loud[at]!}
                leaks={life.leaks_in_year !== null && year >= life.leaks_in_year}
                height={430}
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
        <div ref={frame} className="min-h-0 w-[500px] shrink-0 overflow-hidden py-2 pr-2">
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
      <div className="shrink-0 border-t border-line px-8 pt-1 pb-3">
        <TimeLine years={data.years} events={data.sides.map(eventsOf)} at={at} onChange={setAt} />
        <p className="mt-1 text-fine text-soft">
          Computed by the laws that the forecast uses, with {shown(units, 'hardness_mg_l', data.hardness_mg_l)} of
          hardness; a single tank may do better or worse. It shows what care changes, not when a certain tank fails.
          Nothing here is kept.
        </p>
        <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
          <label className="flex items-center gap-2">
            What a kWh costs
            <input
              inputMode="decimal"
              value={price}
              onChange={(event) => say('kwh')(event.target.value)}
              className="h-9 w-20 rounded-md border border-rule bg-sheet px-2"
            />
          </label>
          <a
            href={paperOf(body, Math.round(year), numberOf(price))}
            target="_blank"
            rel="noreferrer"
            className="inline-flex min-h-9 items-center text-copper-deep underline underline-offset-2"
          >
            Page for the customer, cut open after {Math.max(1, Math.round(year))} years
          </a>
        </p>
      </div>
    </div>
  )
}

/** Where these two lives are on paper. */
function paperOf(body: Asked, year: number, price: number | null): string {
  const query = new URLSearchParams()
  for (const [name, value] of Object.entries(body))
    for (const one of Array.isArray(value) ? value : [value]) query.append(name, String(one))
  query.set('at_year', String(Math.max(1, year)))
  if (price !== null && Number.isFinite(price)) query.set('energy_price', String(price))
  return `/api/bench/lives.pdf?${query.toString()}`
}

/** The usual figures with the one that a link brought. */
const withOne = (usual: number[], one: number) =>
  usual.includes(one) ? usual : [...usual, one].toSorted((a, b) => a - b)

interface KeptProps {
  which: string
  side: Side
  tank: boolean
  units: Units
  say: (name: string) => (value: string) => void
}

function Kept({ which, side, tank, units, say }: KeptProps) {
  const name = which === 'a' ? 'First' : 'Second'
  return (
    <span className="whitespace-nowrap">
      <Phrase label={`${name} life: care`} value={side.care} options={caresOf(tank)} onChange={say(`${which}_care`)} />
      on
      <Phrase
        label={`${name} life: water`}
        value={side.softened ? 'soft' : 'hard'}
        options={[
          { value: 'hard', label: 'water as it comes' },
          { value: 'soft', label: 'softened water' },
        ]}
        onChange={say(`${which}_water`)}
      />
      at
      <Phrase
        label={`${name} life: setting`}
        value={String(side.setpoint_c)}
        options={withOne(SETTINGS, side.setpoint_c).map((one) => ({
          value: String(one),
          label: shown(units, 'temperature_c', one),
        }))}
        onChange={say(`${which}_set`)}
      />
    </span>
  )
}

/** What can be done about it: a tankless heater is descaled, and has no rod to look after. */
const caresOf = (tank: boolean): { value: CareName; label: string }[] =>
  (Object.keys(CARES) as CareName[])
    .filter((one) => tank || one !== 'rods_only')
    .map((one) => ({ value: one, label: tank ? CARES[one].words : DESCALED[one] }))

function coursesOf(sides: Life[], units: Units, many: boolean): Course[] {
  const most = (lines: number[][]) => Math.max(...lines.flat())
  const percent = (value: number) => `${Math.round(100 * value)} %`
  const depth = sides.map((one) => one.depth_mm)
  const fans = sides.map((one) => one.depth_fan_mm)
  const hot = sides.map((one) => one.hot_l)
  const energy = sides.map((one) => one.energy_kwh)
  const leaks = sides.map((one) => (many ? one.leaked_share : one.leak_within_year))
  return [
    {
      name: 'Deposit',
      unit: many ? 'eight of ten lives between' : 'on the floor',
      lines: depth,
      ...(many ? { fans } : {}),
      least: 0,
      most: many ? most(fans.flat()) : most(depth),
      words: (value) => shown(units, 'length_mm', value),
    },
    { name: 'Anode rod', unit: 'left', lines: sides.map((one) => one.rod_left), least: 0, most: 1, words: percent },
    {
      name: 'Hot water',
      unit: `in one draw; heats again in ${sides.map((one) => one.recover_min.at(-1)).join(' and ')} min at the end`,
      lines: hot,
      least: 0.5 * Math.min(...hot.flat()),
      most: most(hot),
      words: (value) => shown(units, 'volume_l', value),
    },
    {
      name: 'Energy',
      unit: 'a year',
      lines: energy,
      least: 0.85 * Math.min(...energy.flat()),
      most: most(energy),
      words: (value) => `${(Math.round(value / 10) * 10).toLocaleString('en')} kWh`,
    },
    {
      name: 'Relief valve stuck',
      unit: 'if it were needed',
      lines: sides.map((one) => one.valve_stuck),
      least: 0,
      most: Math.max(0.2, most(sides.map((one) => one.valve_stuck))),
      words: percent,
    },
    {
      name: many ? 'Have leaked' : 'Leaks within the year',
      unit: many ? 'of 200' : '',
      lines: leaks,
      least: 0,
      most: Math.max(0.2, most(leaks)),
      words: percent,
    },
  ]
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
