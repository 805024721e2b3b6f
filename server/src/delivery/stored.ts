import type { LineFacts, Knowledge, Tally } from '@tin-harbor/core/exchange'

/** An hour of the delivery log as it is stored. */
export interface StoredLog {
  hour: number
  n: number
  crc: number
  data: Uint8Array
  eventCount: number
  eventCrc: number
  events: Uint8Array
  /** In force in that hour. */
  publication: number
}

/** A line's results in a form that crosses threads; `factsFrom` makes maps of them again. */
export interface StoredFacts {
  total: Tally
  byAd: [number, Tally][]
  byPlacement: [number, Tally][]
  byDevice: [number, Tally][]
  byHour: [number, Tally][]
  byDay: [number, Tally][]
}

/** What is known of a line that learns, in a form that crosses threads. */
export type StoredKnowledge = [line: number, Omit<Knowledge, 'facts'> & { facts: StoredFacts }]

/** A line's results as the exchange reads them. */
export function factsFrom({ total, byAd, byPlacement, byDevice, byHour, byDay }: StoredFacts): LineFacts {
  return {
    total,
    byAd: new Map(byAd),
    byPlacement: new Map(byPlacement),
    byDevice: new Map(byDevice),
    byHour: new Map(byHour),
    byDay: new Map(byDay)
  }
}
