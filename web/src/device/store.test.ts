import 'fake-indexeddb/auto'

import Dexie from 'dexie'
import { expect, it } from 'vitest'

it('goes on in the words of today with a visit that was begun before the renewal', async () => {
  const before = new Dexie('aquifer')
  before.version(3).stores({
    unsent: 'clientId, order',
    kept: 'key',
    visits: 'clientId, heaterId, by',
    taps: 'clientId, visit, [visit+sent], [visit+clock]',
    photos: 'clientId, visit, by',
    guides: 'visit',
  })
  const tap = { visit: 'v', sent: 0, clock: 1, step: 'trial.crack', field: '', why: '', refused: '' }
  await before.table('taps').bulkAdd([
    { ...tap, clientId: 'a', kind: 'otherwise', choice: 1 },
    { ...tap, clientId: 'b', kind: 'despite', why: 'otherwise it freezes' },
    { ...tap, clientId: 'c', kind: 'took_back', of: 'a' },
    { ...tap, clientId: 'd', kind: 'answered', field: 'vessel.precharge_kpa', value: 310 },
    { ...tap, clientId: 'e', kind: 'done' },
  ])
  const step = { id: 'trial.crack', asks: ['vessel_pin'], otherwise: [{ says: 'Not a drop otherwise' }] }
  const guide = { procedures: { trial: { steps: [step] } }, moments: [{ sides: [] }], usual: { 'vessel.volume_l': 8 } }
  await before.table('guides').add({ visit: 'v', guide })
  await before.table('kept').bulkAdd([
    { key: 'device', value: 'mine' },
    { key: 'queries', value: JSON.stringify({ guide }) },
  ])
  before.close()

  const { device } = await import('./store')
  const taps = Object.fromEntries((await device.taps.toArray()).map((one) => [one.clientId, one]))
  expect(Object.values(taps).map((one) => one.kind)).toEqual(['deviation', 'override', 'undo', 'answered', 'done'])
  expect(taps.b!.why).toBe('otherwise it freezes')
  expect(taps.d).toMatchObject({ field: 'expansion_tank.precharge_kpa', value: 310 })
  const renewed = {
    procedures: {
      trial: {
        steps: [{ id: 'trial.crack', asks: ['expansion_tank_pin'], deviations: [{ says: 'Not a drop otherwise' }] }],
      },
    },
    on_site_rules: [{ options: [] }],
    usual: { 'expansion_tank.volume_l': 8 },
  }
  expect((await device.guides.get('v'))!.guide).toEqual(renewed)
  expect((await device.kept.get('device'))!.value).toBe('mine')
  expect(JSON.parse((await device.kept.get('queries'))!.value)).toEqual({ guide: renewed })
})
