import type { Schema } from '../../api/client'
import type { Heats } from '../../drawing/TankInside'
import { shown, type Units } from '../../lib/units'

type Seen = Schema['SeenOut']

interface Props {
  seen: Seen
  heats: Heats
  units: Units
  onTurn: (handle: string, to: string) => void
}

interface Tool {
  words: string
  act: [string, string]
}

/** What lies within reach besides what is turned on the drawing. */
export function Tools({ seen, heats, units, onTurn }: Props) {
  return (
    <div className="space-y-2">
      {groupsOf(seen, heats).map(([name, tools]) => (
        <div key={name} role="group" aria-label={name} className="grid grid-cols-3 gap-1.5">
          <h3 className="col-span-3 -mb-1 text-soft">{name}</h3>
          {tools.map((one) => (
            <button
              key={one.words}
              type="button"
              onClick={() => onTurn(...one.act)}
              className="min-h-11 rounded-md border border-rule bg-sheet px-1.5 py-1 leading-tight hover:border-copper"
            >
              {one.words}
            </button>
          ))}
        </div>
      ))}
      <label className="flex items-center gap-2">
        Setting
        <select
          value=""
          onChange={(event) => onTurn('mark', event.target.value)}
          className="h-9 rounded-md border border-rule bg-sheet px-2"
        >
          <option value="">{shown(units, 'temperature_c', seen.mark_c)}, leave it</option>
          {[50, 55, 60, 65, 70].map((one) => (
            <option key={one} value={one}>
              {shown(units, 'temperature_c', one)}
            </option>
          ))}
        </select>
      </label>
    </div>
  )
}

function groupsOf(seen: Seen, heats: Heats): [string, Tool[]][] {
  const way = (words: string, handle: string, to: string): Tool => ({ words, act: [handle, to] })
  return [
    ['House', [way('Tell the house', 'tell', 'what goes off'), way('Say what was done', 'tell', 'what was done')]],
    [
      'Drain',
      [
        ...(seen.at_drain ? [way('Follow both drains', 'look', 'drain')] : []),
        seen.hose ? way('Hose off', 'hose', 'off') : way('Hose on', 'hose', 'on'),
        seen.hose_in === 'bucket'
          ? way('Hose into the drain', 'hose_in', 'floor drain')
          : way('Hose into a bucket', 'hose_in', 'bucket'),
        way('Empty the buckets', 'bucket', 'emptied'),
        way('Crack the drain', 'drain', 'cracked'),
        way('Wire through the drain', 'wire', 'through the drain'),
        seen.cap ? way('Cap off', 'cap', 'off') : way('Cap on the drain', 'cap', 'on'),
        seen.gauge ? way('Gauge off', 'gauge', 'off') : way('Gauge on the drain', 'gauge', 'on'),
        way('New drain valve', 'drain_valve', 'new'),
      ],
    ],
    [
      'Relief valve',
      [
        seen.outlet === 'capped'
          ? way('Cap off the pipe', 'outlet', 'uncapped')
          : way('Follow the relief pipe', 'look', 'relief pipe'),
        seen.relief_bucket
          ? way('Take the bucket away', 'relief_bucket', 'away')
          : way('Bucket under the pipe', 'relief_bucket', 'under the pipe'),
        way('Measure its probe', 'look', 'relief valve'),
        way('New, probe in the water', 'relief_valve', 'new'),
        way('New, as long as the old', 'relief_valve', 'as the old'),
      ],
    ],
    ['Rod', rodTools(seen, way)],
    [
      'Heat',
      heats === 'burner'
        ? [
            seen.dial === 'on' ? way('Dial to OFF', 'dial', 'off') : way('Dial to the mark', 'dial', 'on'),
            way('Light the pilot', 'pilot', 'lit'),
          ]
        : [way(heats === 'coil' ? 'Switches off, no tag' : 'Breaker off, no lock', 'breaker', 'off')],
    ],
  ]
}

function rodTools(seen: Seen, way: (words: string, handle: string, to: string) => Tool): Tool[] {
  const pipe = seen.hot_pipe ? way('Hot pipe off', 'hot_pipe', 'off') : way('Hot pipe on', 'hot_pipe', 'on')
  if (seen.rod === 'out') return [way('New rod in', 'rod', 'new'), way('Same rod in', 'rod', 'back'), pipe]
  return [
    way('Look for its head', 'look', 'rod'),
    seen.rod === 'loose' ? way('Rod out', 'rod', 'out') : way('Bar on it, tank held', 'rod', 'cracked'),
    way('Pipe on the bar, alone', 'rod', 'forced'),
    pipe,
  ]
}
