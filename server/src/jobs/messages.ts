import type { WorldSize } from '@tin-harbor/core/market'
import type { Tape, TapeHead } from '@tin-harbor/core/tape'
import type { Forecast, ForecastQuestion, PropertyRow } from '@tin-harbor/core/forecast'
import type { HourFacts, PublicationRules, Spent } from '@tin-harbor/core/exchange'
import type { Targeting } from '@tin-harbor/core/targeting'

/** A world whose people lie in shared memory. */
export interface SharedWorld {
  size: WorldSize
  people: SharedArrayBuffer
}

/** A tape in shared memory. */
export interface SharedTape {
  head: TapeHead
  buffers: Tape['buffers']
}

export type ToTape = { kind: 'build'; lastDay: number }
export type FromTape =
  | { kind: 'world'; people: SharedArrayBuffer; milliseconds: number }
  | { kind: 'progress'; done: number; of: number }
  | { kind: 'tape'; tape: SharedTape; milliseconds: number }

export type ToForecast =
  | { kind: 'tape'; tape: SharedTape }
  | { kind: 'ask'; job: number; cancel: SharedArrayBuffer; question: ForecastQuestion }
  | { kind: 'properties'; job: number; cancel: SharedArrayBuffer; targeting: Targeting }
export type FromForecast =
  | { kind: 'answer'; job: number; forecast: Forecast; milliseconds: number }
  | { kind: 'properties'; job: number; rows: PropertyRow[] }
  | { kind: 'cancelled'; job: number }
  | { kind: 'failed'; job: number; message: string }

/** An hour of the delivery log as it is stored. */
export interface StoredLog {
  hour: number
  n: number
  crc: number
  data: Uint8Array
}

/** The state at an hour's start, in a form that crosses threads. */
export interface StoredOpening {
  hour: number
  balanceMicros: number
  lines: [number, Spent & { supply: number }][]
  campaigns: [number, Spent][]
  logs: StoredLog[]
}

export type ToMarket =
  | { kind: 'open'; publication: PublicationRules; opening: StoredOpening }
  | { kind: 'hour'; cancel: SharedArrayBuffer }
export type FromMarket =
  | { kind: 'opened' }
  | { kind: 'facts'; facts: HourFacts }
  | { kind: 'stopped' }
  | { kind: 'failed'; message: string }
