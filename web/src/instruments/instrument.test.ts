import { expect, it } from 'vitest'

import { courseText, crept, parsed, type Reading } from './instrument'
import { serialInstrument, serialOf, type SerialPortLike } from './serial'

it.each([
  ['412.3 kPa', 'pressure_kpa', 412.3],
  ['60 psi', 'pressure_kpa', 413.685],
  [' 4,1 bar', 'pressure_kpa', 410],
  ['140 °F', 'temperature_c', 60],
  ['25 mV', 'volts', 0.025],
  ['2.5 gpm', 'flow_l_min', 9.4635],
])('reads %s as %s', (line, quantity, stored) => {
  expect(parsed(line, quantity)).toBeCloseTo(stored, 3)
})

it.each(['412.3', 'OL', 'kPa 4', '60 psi gauge', '12 kPa 14 kPa', ''])('takes %j for no figure', (line) => {
  expect(parsed(line, 'pressure_kpa')).toBeNull()
})

it('is no pressure what is a temperature, and none of a quantity that nothing reads', () => {
  expect(parsed('60 °C', 'pressure_kpa')).toBeNull()
  expect(parsed('60 °C', 'volume_l')).toBeNull()
})

const line = (length: number, value: (at: number) => number): Reading[] =>
  Array.from({ length }, (_, second) => ({ second, value: value(second) }))

it('creeps from the middle of its first readings to the middle of its last', () => {
  const course = line(30, (at) => 400 + at)
  course[0]!.value = 900
  course[29]!.value = 0
  // One flicker at either end is none of it.
  expect(crept(course)).toBe(427 - 402)
  expect(crept(line(1, () => 400))).toBe(0)
})

it('keeps a course with its instrument in no more than can be told', () => {
  const told = courseText(
    'gauge 4',
    line(900, (at) => 400 + at / 10),
  )
  expect(told.startsWith('gauge 4; 0 400, ')).toBe(true)
  expect(told.length).toBeLessThanOrEqual(300)
  expect(
    courseText(
      'g',
      line(3, () => 412.34),
    ),
  ).toBe('g; 0 412.3, 1 412.3, 2 412.3')
})

function port(...written: string[]) {
  const told: string[] = []
  const one: SerialPortLike = {
    open: ({ baudRate }) => {
      told.push(`open ${baudRate}`)
      return Promise.resolve()
    },
    close: () => {
      told.push('close')
      return Promise.resolve()
    },
    readable: new ReadableStream({
      start(stream) {
        for (const part of written) stream.enqueue(new TextEncoder().encode(part))
        stream.close()
      },
    }),
  }
  return { one, told }
}

it('reads lines off a wire, however they are cut, and closes it', async () => {
  const { one, told } = port('412.0 k', 'Pa\r\n41', '2.5 kPa\nERR\n413 kPa\n4')
  let clock = 0
  const instrument = serialInstrument(one, 'pressure_kpa', () => (clock += 1000))
  const found: Reading[] = []
  for await (const reading of instrument.readings(new AbortController().signal)) found.push(reading)
  expect(found.map((reading) => reading.value)).toEqual([412, 412.5, 413])
  expect(found.map((reading) => reading.second)).toEqual([1, 2, 3])
  expect(told).toEqual(['open 9600', 'close'])
})

it('lets go of the wire when it is told to stop', async () => {
  const { one, told } = port()
  one.readable = new ReadableStream({ start: (stream) => stream.enqueue(new TextEncoder().encode('1 kPa\n')) })
  const stop = new AbortController()
  for await (const reading of serialInstrument(one, 'pressure_kpa').readings(stop.signal)) {
    expect(reading.value).toBe(1)
    stop.abort()
  }
  expect(told).toEqual(['open 9600', 'close'])
  expect(serialOf({} as Navigator)).toBeNull()
})
