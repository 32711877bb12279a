import { Check, X } from 'lucide-react'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'

interface Props {
  grade: Schema['GradeOut']
  harms: Schema['HarmOut'][]
  title: string
  /** The tank was cut open once. */
  looked?: boolean
  /** Where another heater of its like stands. */
  again: string
  words?: string
  /** Where all of its kind are. */
  all?: string
}

/** What was good, what would have hurt, and which step of the trade to read again. */
export function Graded({
  grade,
  harms,
  title,
  looked = false,
  again,
  words = 'Another heater like it',
  all = '/bench/practise',
}: Props) {
  const good = grade.marks.filter((one) => one.good)
  const missed = grade.marks.filter((one) => !one.good)
  const passed = grade.passed && !looked
  return (
    <div className="min-h-0 flex-1 overflow-auto px-5 py-4">
      <p className={`text-title font-bold ${passed ? 'text-moss-deep' : 'text-oxide'}`} role="status">
        {passed ? 'Passed' : looked && grade.passed ? 'Right, with a look inside' : 'Not passed'}:{' '}
        {Math.round(100 * grade.share)} % of what counts at “{title}”.
      </p>
      <div className="mt-3 flex max-w-6xl gap-10 narrow:flex-col">
        <div className="flex-1">
          {harms.length > 0 && (
            <section aria-label="What hurt" className="mb-4">
              <h2 className="font-bold">What would have hurt</h2>
              <ul>
                {harms.map((one) => (
                  <li key={one.name} className="mt-2 border-l-4 border-oxide pl-2.5">
                    <p className="font-semibold text-oxide">{one.says}</p>
                    <Read step={one.read} />
                  </li>
                ))}
              </ul>
            </section>
          )}
          {missed.length > 0 && (
            <section aria-label="To read again">
              <h2 className="font-bold">To do better</h2>
              <ul>
                {missed.map((one) => (
                  <li key={one.name} className="mt-2 flex gap-2">
                    <X size={18} className="mt-0.5 shrink-0 text-oxide" aria-label="missed" />
                    <div>
                      <p>
                        {one.says}
                        {one.must && <strong> Without it nothing is passed.</strong>}
                      </p>
                      {one.read && <Read step={one.read} />}
                    </div>
                  </li>
                ))}
              </ul>
            </section>
          )}
        </div>
        <section aria-label="What was good" className="flex-1">
          <h2 className="font-bold">What was good</h2>
          <ul>
            {good.map((one) => (
              <li key={one.name} className="mt-2 flex gap-2">
                <Check size={18} className="mt-0.5 shrink-0 text-moss-deep" aria-label="good" />
                {one.says}
              </li>
            ))}
          </ul>
        </section>
      </div>
      <p className="mt-6 flex gap-3">
        <Button look="main" asChild>
          <Link to={again}>{words}</Link>
        </Button>
        <Button asChild>
          <Link to={all}>All heaters</Link>
        </Button>
      </p>
    </div>
  )
}

function Read({ step }: { step: Schema['ToReadOut'] }) {
  return (
    <p className="mt-0.5 text-soft">
      <span className="text-fine">{step.title}:</span> {step.do} {step.why}
    </p>
  )
}
