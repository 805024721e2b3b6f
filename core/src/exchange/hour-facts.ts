import type { Pending } from './conversions.js'
import type { ExposureBook } from './exposures.js'
import type { SpentSoFar } from './limits.js'
import type { Supply } from './pacing.js'
import type { HourTotal, PlacementTotal } from './rollups.js'
import type { OpeningLine } from './running.js'
import type { DaySoFar } from './sharing.js'
import type { ToldEventName, ToldOutcome } from './told.js'

/** All state at the start of a market hour: the log of the last 30 days and a small row a line. */
export interface OpeningState {
  hour: number
  balanceMicros: number
  lines: ReadonlyMap<number, Partial<OpeningLine>>
  campaigns: ReadonlyMap<number, SpentSoFar>
  exposures: ExposureBook
  /** Conversions that are still to come, from the log. */
  pending?: readonly Pending[]
  /** What was told of impressions of the last 30 days and entered earlier hours. */
  told?: readonly { hour: number; index: number; event: ToldEventName }[]
  /** Spent today by line and placement, where that is limited. */
  onPlacement?: ReadonlyMap<number, Map<number, number>>
}

/** Everything one market hour brought; committed in one transaction. */
export interface HourFacts {
  hour: number
  publication: number
  opportunities: number
  log: Uint8Array
  wins: number
  crc: number
  events: Uint8Array
  eventCount: number
  eventsCrc: number
  hourTotals: HourTotal[]
  placementTotals: PlacementTotal[]
  /** Counts by line and position in `OUTCOMES`; they add up to matched. */
  outcomes: { line: number; counts: number[] }[]
  /** Lost bids by line and bin of `SHORT_BY`. */
  shorts: { line: number; counts: number[] }[]
  spendMicros: number
  /** What earned the conversions that were told. */
  told: ToldOutcome[]
  /** The small row of each line, to be stored beside it. */
  lineStates: { line: number; supply: Supply; correction: number; soFar: DaySoFar }[]
}
