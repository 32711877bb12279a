import Dexie, { type EntityTable } from 'dexie'

import type { Schema } from '../api/client'

/** A visit that was saved here and that the server does not have yet. */
export interface Unsent {
  /** The visit's own id, chosen on this device: sending it twice records it once. */
  clientId: string
  /** The order in which they were saved, which is the order in which they are sent. */
  order: number
  /** Whose visit it is; nobody else sends it. */
  by: number
  heater: string
  body: Schema['VisitIn']
  /** Why the server would not have it, where it said so. */
  trouble: string
}

/** A visit that was begun here, until all of it is with the server and it is saved. */
export interface VisitSession {
  clientId: string
  heaterId: number
  by: number
  name: string
  /** Which of its guides it goes by: another one is taken where the visit joined one begun elsewhere. */
  revision: number
  /** How far this device knows what the server was told. */
  cursor: number
  /** What it was told last did not go through. */
  waits: boolean
  /** Why, where it was the server that would not have it. */
  trouble: string
  /** Saved on this device, or set aside: only to be sent. */
  closing: boolean
  /** Set aside: nothing is recorded of it. */
  aside: boolean
  /** Saved on another device meanwhile. */
  recorded: Schema['VisitOut'] | null
}

/**
 * The guide as it was given, so that it is here without a signal; the procedures may change under way, this visit does
 * not. It lies by itself: a visit is read anew at every tap, and a guide is large.
 */
export interface KeptGuide {
  visit: string
  guide: Schema['GuideOut']
}

/** One tap of a visit, of this device or another one. */
export interface Tap extends Required<Omit<Schema['EventOut'], 'client_id' | 'kind'>> {
  clientId: string
  kind: Schema['EventKind']
  visit: string
  sent: 0 | 1
  /** Why the server would not have it. */
  refused: string
}

export interface Photo {
  clientId: string
  visit: string
  heaterId: number
  by: number
  caption: string
  /** Which piece of the heater it shows; none in what an older version kept. */
  piece?: string
  /** Why the server would not have it: it stays here until somebody looked at it. */
  trouble?: string
  picture: Blob
}

/** What was read from the server, to be shown without a signal; and who this device is. */
interface Kept {
  key: string
  value: string
}

interface Tables {
  unsent: EntityTable<Unsent, 'clientId'>
  kept: EntityTable<Kept, 'key'>
  visits: EntityTable<VisitSession, 'clientId'>
  guides: EntityTable<KeptGuide, 'visit'>
  taps: EntityTable<Tap, 'clientId'>
  photos: EntityTable<Photo, 'clientId'>
}

// A tap is answered only when it is on the disk: a device that dies loses nothing that it has answered.
export const device = new Dexie('aquifer', { chromeTransactionDurability: 'strict' }) as Dexie & Tables
device.version(1).stores({ unsent: 'clientId, order', kept: 'key' })
device.version(2).stores({
  visits: 'clientId, heaterId, by',
  taps: 'clientId, visit, [visit+sent], [visit+clock]',
  photos: 'clientId, visit, by',
})
device
  .version(3)
  .stores({ guides: 'visit' })
  .upgrade(async (disk) => {
    const visits = await disk.table<VisitSession & { guide: Schema['GuideOut'] }>('visits').toArray()
    for (const { guide, ...visit } of visits) {
      await disk.table('guides').put({ visit: visit.clientId, guide })
      await disk.table('visits').put({ ...visit, revision: 1 })
    }
  })

/** What a visit that was begun before the renewal calls by other names: it goes on in those of today. */
const KINDS: Record<string, string> = { otherwise: 'deviation', despite: 'override', took_back: 'undo' }
const KEYS: Record<string, string> = {
  '"otherwise":': '"deviations":',
  '"moments":': '"on_site_rules":',
  '"sides":': '"options":',
  '"vessel_pin"': '"expansion_tank_pin"',
  '"vessel.': '"expansion_tank.',
}
const renewed = (text: string) => Object.entries(KEYS).reduce((told, [was, now]) => told.replaceAll(was, now), text)

device
  .version(4)
  .stores({})
  .upgrade(async (disk) => {
    await disk
      .table<Tap & { kind: string }>('taps')
      .toCollection()
      .modify((tap) => {
        tap.kind = (KINDS[tap.kind] ?? tap.kind) as Tap['kind']
        tap.field = tap.field.replace(/^vessel\./, 'expansion_tank.')
      })
    await disk
      .table<KeptGuide>('guides')
      .toCollection()
      .modify((kept) => {
        kept.guide = JSON.parse(renewed(JSON.stringify(kept.guide))) as Schema['GuideOut']
      })
    await disk
      .table<Kept>('kept')
      .toCollection()
      .modify((kept) => {
        kept.value = renewed(kept.value)
      })
  })
