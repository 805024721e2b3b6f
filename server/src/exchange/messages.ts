import type { HourFacts, HourMoney, OpeningLine, PublicationRules, SpentSoFar, ToldEventName, ToldInput } from '@tin-harbor/core/exchange'
import type { StoredLog, StoredFacts } from '../delivery/stored.js'

/** A market day in shared memory. */
export interface SharedDay {
  day: number
  count: number
  buffer: SharedArrayBuffer
  hourStart: Uint32Array
}

/** Makes a day, in the memory of one that is done with when there is some. */
export interface DayWork {
  requests: { day: { asks: { day: number; memory: SharedArrayBuffer | null }; tells: never; answers: SharedDay } }
  notices: Record<never, never>
}

/** The state at an hour's start, in a form that crosses threads. */
export interface StoredOpening {
  hour: number
  lines: [number, Omit<OpeningLine, 'facts'> & { facts: StoredFacts | null }][]
  campaigns: [number, SpentSoFar][]
  logs: StoredLog[]
  /** What was told of their impressions and entered hours before. */
  told: { hour: number; index: number; event: ToldEventName }[]
}

export interface MarketWork {
  requests: {
    open: { asks: { publication: PublicationRules; opening: StoredOpening }; tells: never; answers: void }
    /**
     * `target` is the hour the run goes to: days before it are made ahead. Null when this thread was not opened, as one is that
     * took the place of another.
     */
    hour: { asks: { target: number; told: ToldInput; money: HourMoney }; tells: never; answers: HourFacts | null }
  }
  notices: Record<never, never>
}
