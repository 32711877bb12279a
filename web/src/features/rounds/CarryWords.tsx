import clsx from 'clsx'
import type { Schema } from '../../api/client'
import { day, shortDate } from '../../lib/dates'
import { clock } from '../../lib/clock'
import { weekday } from '../../records/roundWords'
import { Button } from '../../ui/Button'
import type { Carry, Target } from './useCarry'

interface Props {
  carry: Carry
  rounds: Schema['RoundOut'][]
  on: string
  today: string
}

/** What putting a carried visit down here would do, beside the pointer and for who listens; and what it broke. */
export function CarryWords({ carry, rounds, on, today }: Props) {
  const { visit, target, at } = carry
  const words = visit && target ? targetWords(visit, target, rounds, on, today, carry.isHere) : ''
  const breaks = visit !== null && target !== null && target.faults.length > 0
  return (
    <>
      <p role="status" className="sr-only">
        {carry.byKeys &&
          (words || `${visit?.site} is lifted. Arrows carry it, Enter puts it down, Escape leaves it where it is.`)}
      </p>
      {visit && (at || carry.byKeys) && (
        <p
          aria-hidden
          className={clsx(
            'pointer-events-none fixed z-30 max-w-72 rounded-md border bg-sheet px-3 py-1.5',
            'shadow-[0_2px_8px_rgb(0_0_0/0.12)]',
            breaks || target?.refused ? 'border-oxide' : 'border-ink',
          )}
          style={
            at
              ? { left: Math.min(at.x + 14, innerWidth - 300), top: Math.min(at.y + 14, innerHeight - 90) }
              : { right: 20, top: 132 }
          }
        >
          <strong className="block">{visit.site}</strong>
          <span className={breaks || target?.refused ? 'text-oxide' : ''}>
            {words || (carry.byKeys ? 'Arrows carry it, Enter puts it down, Esc leaves it.' : 'Over no round')}
          </span>
        </p>
      )}
      {carry.error && (
        <p
          role="alert"
          className="flex shrink-0 items-center gap-3 border-b border-line bg-sheet px-5 py-1 font-semibold text-oxide"
        >
          {carry.error.message}
          {carry.breaks && (
            <Button look="quiet" className="min-h-8" onClick={carry.again}>
              Move it all the same
            </Button>
          )}
          <Button look="quiet" className="min-h-8" onClick={carry.leave}>
            Leave it where it is
          </Button>
        </p>
      )}
    </>
  )
}

/** "Joss, about 9:40: +12 min driving, back 16:40; all kept" */
export function targetWords(
  visit: Schema['AppointmentOut'],
  target: Target,
  rounds: Schema['RoundOut'][],
  on: string,
  today: string,
  isHere: boolean,
): string {
  const name = 'name' in target ? String(target.name) : rounds.find((one) => one.member_id === target.member_id)?.name
  const who = name?.split(' ')[0] ?? ''
  const when = target.on === on ? '' : `${weekday(target.on)} ${shortDate(day(target.on), today)}, `
  const where = `${when}${who}, about ${clock(target.begins)}`
  if (isHere) return `${where}: where it is`
  if (target.refused) return `${where}: ${target.faults.join('; ')}`
  const driving = `${target.driving >= 0 ? '+' : '−'}${Math.abs(target.driving)} min driving`
  const back = target.ends === null ? '' : `, back ${clock(target.ends)}`
  const told = visit.standing === 'promised' || visit.standing === 'offered' ? '. They are told in five minutes' : ''
  return `${where}: ${driving}${back}; ${[...target.faults, ...target.lateness].join('; ') || 'all kept'}${told}`
}
