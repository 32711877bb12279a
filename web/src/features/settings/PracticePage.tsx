import clsx from 'clsx'
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'

import type { Schema } from '../../api/client'
import { METHODS } from '../../lib/words'
import { Failed, Loading } from '../../ui/States'
import { faultsOf } from './CompanyPage'
import { ChoiceSetting, Group, NumberSetting } from './controls'
import { settingsOptions, useSet } from './queries'
import { SettingsShell } from './SettingsShell'

/** When things are due, how far a risk is accepted, and the option taken where practitioners differ. */
export function PracticePage() {
  const { data, error, refetch } = useQuery(settingsOptions)
  return (
    <SettingsShell title="Practice">
      {error && !data && <Failed error={error} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the practice" />}
      {data && <Practice ours={data} />}
    </SettingsShell>
  )
}

function Practice({ ours }: { ours: Schema['SettingsOut'] }) {
  const set = useSet()
  const faults = faultsOf(set.error)
  const disabled = !ours.may_change
  const put = (body: Schema['SettingsPatch']) => set.mutate(body)
  return (
    <>
      <p className="mb-4 max-w-[75ch] text-soft">
        After a change every date is computed anew within a minute.{' '}
        <Link to="/review/practices" className="text-copper-deep underline underline-offset-2">
          Which practice on which water
        </Link>{' '}
        tries all of them on your own heaters first. No practice lengthens what safety asks for: a relief valve is tried
        within twelve months.
        {disabled && ' The lead changes these.'}
      </p>
      {faults[''] && (
        <p role="alert" className="mb-3 font-semibold text-oxide">
          {faults['']}
        </p>
      )}
      <div className="grid gap-x-12 lg:grid-cols-2">
        <div>
          <Group title="When things are due">
            <ChoiceSetting
              label="Flush and descale"
              value={ours.practice}
              disabled={disabled}
              options={PRACTICES}
              onSet={(practice) => put({ practice: practice as Schema['Practice'] })}
            />
            <ChoiceSetting
              label="Usual flush"
              value={ours.flush_method}
              disabled={disabled}
              options={FLUSHES.map((one) => [one, METHODS[one]])}
              onSet={(method) => put({ flush_method: method as Schema['FlushMethod'] })}
            />
            <NumberSetting
              label="Accepted risk"
              value={ours.tolerance}
              scale={100}
              unit="% may be over their limit on the day they are due"
              fault={faults.tolerance}
              disabled={disabled}
              onSet={(tolerance) => put({ tolerance })}
            />
            <NumberSetting
              label="No tank unopened for"
              value={ours.longest_flush_months}
              unit="months, however soft the water"
              fault={faults.longest_flush_months}
              disabled={disabled}
              onSet={(longest_flush_months) => put({ longest_flush_months })}
            />
            <NumberSetting
              label="Stuck valves accepted"
              value={ours.relief_valve_target}
              scale={100}
              decimals={2}
              unit="% of relief valves at any time"
              fault={faults.relief_valve_target}
              disabled={disabled}
              onSet={(relief_valve_target) => put({ relief_valve_target })}
            />
            <NumberSetting
              label="Left alone from"
              value={ours.never_flushed_cutoff_years}
              decimals={1}
              unit="years on, if never flushed"
              fault={faults.never_flushed_cutoff_years}
              disabled={disabled}
              onSet={(never_flushed_cutoff_years) => put({ never_flushed_cutoff_years })}
            />
          </Group>
          <Group title="Planning">
            <NumberSetting
              label="First round"
              value={ours.first_round_weeks}
              unit="weeks for the safety looks of a base taken over"
              fault={faults.first_round_weeks}
              disabled={disabled}
              onSet={(first_round_weeks) => put({ first_round_weeks })}
            />
            <NumberSetting
              label="A year over its limit"
              value={ours.worth_hours}
              decimals={1}
              unit="hours of work are worth avoiding it"
              fault={faults.worth_hours}
              disabled={disabled}
              onSet={(worth_hours) => put({ worth_hours })}
            />
            <NumberSetting
              label="A level year"
              value={ours.level_hours}
              decimals={1}
              unit="hours of work are worth an hour less over next year’s mean; 0: weeks may crowd"
              fault={faults.level_hours}
              disabled={disabled}
              onSet={(level_hours) => put({ level_hours })}
            />
          </Group>
        </div>
        <Group
          title="Where practitioners differ"
          about={
            <>
              Your choice decides what the guide and the forecast say. How single steps are done is under{' '}
              <Link to="/review/steps" className="text-copper-deep underline underline-offset-2">
                How steps are done
              </Link>
              .
            </>
          }
        >
          {ours.practice_questions.map((one) => (
            <fieldset
              key={one.options[0]!.option}
              disabled={disabled || set.isPending}
              className="border-t border-line py-2.5"
            >
              <legend className="float-left mb-1 w-full font-semibold">{one.question}</legend>
              <div className="clear-both space-y-0.5">
                {one.options.map((option, at) => (
                  <label
                    key={option.option}
                    className={clsx(
                      'flex items-baseline gap-3 border-l-4 py-1 pl-3',
                      option.option === one.chosen ? 'border-copper' : 'border-transparent',
                    )}
                  >
                    <input
                      type="radio"
                      name={one.options[0]!.option}
                      checked={option.option === one.chosen}
                      onChange={() => put({ practice_options: [option.option as Schema['PracticeOption']] })}
                      className="accent-copper"
                    />
                    <span>
                      {option.says} {at === 0 && <span className="text-soft">· usual</span>}
                    </span>
                  </label>
                ))}
              </div>
            </fieldset>
          ))}
        </Group>
      </div>
    </>
  )
}

const PRACTICES: [Schema['Practice'], string][] = [
  ['condition', 'by condition: when its own risk is reached'],
  ['annual', 'yearly'],
  ['hard_water_half_yearly', 'yearly, half-yearly on hard water'],
  ['long_service', 'long service: every four to five years, jetted'],
]
const FLUSHES: Schema['FlushMethod'][] = ['drain_and_pulse', 'pressure_blowout', 'jetting']
