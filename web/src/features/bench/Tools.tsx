import type { Schema } from '../../api/client'
import { shown, type Units } from '../../lib/units'

type Seen = Schema['SeenOut']

interface Props {
  seen: Seen
  fired: boolean
  units: Units
  onTurn: (handle: string, to: string) => void
}

interface Tool {
  words: string
  act: [string, string]
}

/** What lies within reach besides what is turned on the drawing. */
export function Tools({ seen, fired, units, onTurn }: Props) {
  return (
    <div role="group" aria-label="Within reach" className="grid grid-cols-3 gap-1.5">
      {toolsOf(seen, fired).map((one) => (
        <button
          key={one.words}
          type="button"
          onClick={() => onTurn(...one.act)}
          className="min-h-11 rounded-md border border-rule bg-sheet px-1.5 py-1 leading-tight hover:border-copper"
        >
          {one.words}
        </button>
      ))}
      <label className="col-span-3 mt-1 flex items-center gap-2">
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

function toolsOf(seen: Seen, fired: boolean): Tool[] {
  const way = (words: string, handle: string, to: string): Tool => ({ words, act: [handle, to] })
  return [
    way('Tell the house', 'tell', 'what goes off'),
    seen.outlet === 'capped'
      ? way('Cap off the pipe', 'outlet', 'uncapped')
      : way('Follow the relief pipe', 'look', 'relief pipe'),
    seen.relief_bucket
      ? way('Take the bucket away', 'relief_bucket', 'away')
      : way('Bucket under the pipe', 'relief_bucket', 'under the pipe'),
    seen.hose ? way('Hose off', 'hose', 'off') : way('Hose on', 'hose', 'on'),
    seen.hose_in === 'bucket'
      ? way('Hose into the drain', 'hose_in', 'floor drain')
      : way('Hose into a bucket', 'hose_in', 'bucket'),
    way('Empty the buckets', 'bucket', 'emptied'),
    way('Crack the drain', 'drain', 'cracked'),
    way('Wire through the drain', 'wire', 'through the drain'),
    seen.cap ? way('Cap off', 'cap', 'off') : way('Cap on the drain', 'cap', 'on'),
    seen.gauge ? way('Gauge off', 'gauge', 'off') : way('Gauge on the drain', 'gauge', 'on'),
    way('New relief valve', 'relief_valve', 'new'),
    ...(fired
      ? [
          seen.dial === 'on' ? way('Dial to OFF', 'dial', 'off') : way('Dial to the mark', 'dial', 'on'),
          way('Light the pilot', 'pilot', 'lit'),
        ]
      : [way('Breaker off, no lock', 'breaker', 'off')]),
    way('Say what was done', 'tell', 'what was done'),
  ]
}
