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

/** What was read from the server, to be shown without a signal. */
interface Kept {
  key: string
  value: string
}

export const device = new Dexie('aquifer') as Dexie & { unsent: EntityTable<Unsent, 'clientId'>; kept: EntityTable<Kept, 'key'> }
device.version(1).stores({ unsent: 'clientId, order', kept: 'key' })
