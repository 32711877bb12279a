import clsx from 'clsx'
import { Check } from 'lucide-react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { HeaterSign } from '../../drawing/HeaterSign'

export type Offered = Schema['ScenarioOut'] | Schema['TroubleOut']

interface HeatersProps {
  title: string
  all: Offered[]
  at: string
}

/** Heaters to practise on, in both ways, and how one did at each. */
export function Heaters({ title, all, at }: HeatersProps) {
  const passed = all.filter((one) => one.passed_free).length
  return (
    <section aria-label={title} className="mb-6">
      <h2 className="mb-2 text-title font-bold">
        {title}{' '}
        <span className="text-base font-normal text-soft">
          {passed} of {all.length} passed without the guide
        </span>
      </h2>
      <ul className="grid max-w-6xl grid-cols-[repeat(auto-fill,minmax(330px,1fr))] gap-x-8">
        {all.map((one) => (
          <Scenario key={one.name} one={one} at={at} />
        ))}
      </ul>
    </section>
  )
}

function Scenario({ one, at }: { one: Offered; at: string }) {
  return (
    <li className="flex gap-3 border-t border-line py-4">
      <HeaterSign kind={one.kind} depthShare={null} anodeLeft={null} height={48} />
      <div className="min-w-0">
        <h3 className="text-lead font-bold">{one.title}</h3>
        <p className="mt-0.5 min-h-10">{one.says}</p>
        <p className="mt-1 text-fine text-soft">{stoodWords(one)}</p>
        <p className="mt-1 flex gap-4">
          <Way one={one} at={at} way="guided" passed={one.passed_guided !== null} />
          <Way one={one} at={at} way="free" passed={one.passed_free !== null} />
        </p>
      </div>
    </li>
  )
}

function Way({ one, at, way, passed }: { one: Offered; at: string; way: string; passed: boolean }) {
  return (
    <Link
      to={`${at}/${one.name}?way=${way}&heater=${one.tries + 1}`}
      aria-label={`${one.title}, ${way}${passed ? ', passed' : ''}`}
      className={clsx(
        'inline-flex min-h-11 items-center gap-1.5 font-semibold text-copper-deep',
        'underline-offset-4 hover:underline',
      )}
    >
      {passed && <Check size={16} className="text-moss-deep" aria-hidden />}
      {way === 'guided' ? 'Guided' : 'Free'}
    </Link>
  )
}

function stoodWords(one: Offered): string {
  if (one.tries === 0) return 'not tried yet'
  const best = `${Math.round(100 * (one.best_share ?? 0))} % at best`
  const passed = one.passed_free ? 'passed free' : one.passed_guided ? 'passed with the guide' : 'not passed yet'
  return `${passed}; ${one.tries} ${one.tries === 1 ? 'try' : 'tries'}, ${best}`
}
