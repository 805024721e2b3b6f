import type { AuctionKind } from '../taxonomy/index.js'

/**
 * The price of one impression. All amounts are whole micros an impression unless named otherwise.
 */
export interface LinePrice {
  model: 'CPM'
  /** Base bid, micros a thousand, in steps of 1,000. */
  bidMicros: number
  /** Never above, micros a thousand; null for no maximum. */
  maxMicros: number | null
}

/** The bid that goes into the auction: base, then maximum last. Adjustments come between the two in a later stage. */
export function effectiveBid({ bidMicros, maxMicros }: LinePrice): number {
  return Math.floor(Math.min(bidMicros, maxMicros ?? bidMicros) / 1000)
}

/** First price pays the bid; second price pays what it had to beat, never another bid of our own. */
export function clearingPrice(kind: AuctionKind, bid: number, floor: number, rival: number): number {
  return kind === 'first price' ? bid : Math.max(floor, rival)
}
