import type { PriceProgramme } from '../pricing/index.js'
import type { CompiledTargeting } from '../targeting/index.js'
import type { AdChoice } from './ad-choice.js'

/** Need of a row that no bid can win. */
export const NEVER = 0xffffffff
/** Payment of a first-price row. */
export const BID_ITSELF = 0xffffffff

/**
 * All rows that match a line, with what they would take to win: kept while only bid, caps or money change.
 */
export interface Matched {
  /** Positions on the tape of the people who have any, and the first of each one's rows; one entry more. */
  people: Uint32Array
  starts: Uint32Array
  rows: Uint32Array
  /** Least effective bid that wins the row and that reaches its floor, micros an impression; `NEVER` for none. */
  need: Uint32Array
  /** Least base bid that wins it, the maximum ignored, in base units; `NEVER` where the base bid has no say. */
  base: Uint32Array
  /** What a second price pays; `BID_ITSELF` where the bid is paid. */
  pay: Uint32Array
  /** Minute of the tape; chance of a visit in millionths; format x branch. */
  minute: Uint16Array
  visits: Uint32Array
  group: Uint8Array
  /** Chain of adjustments, multiplier of the hour, and chance of the paid event in millionths; null when all rows are plain. */
  chain: Uint16Array | null
  hour: Uint16Array | null
  chance: Uint32Array | null
  /** Rows by week x group. */
  byGroup: Float64Array
  programme: PriceProgramme
  isEvent: boolean
  deals: Int16Array
  compiled: CompiledTargeting
  /** Rows whose price is their own, so that the base bid has no say. */
  ownPriced: number
  /** Of ads with rules of their own; null where all are alike. */
  ads: MatchedAds | null
}

/** Which ads fit each match, by place in the choice's sets, and its adjustments before any ad's own bid. */
export interface MatchedAds {
  choice: AdChoice
  set: Uint16Array
  chain: Uint16Array | null
}
