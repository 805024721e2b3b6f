import type { AuctionKind, PriceModel } from '../taxonomy/index.js'
import type { Dimension } from '../dimensions/index.js'

/**
 * What a line bids. Amounts are micros a thousand for CPM, and micros a click, view or visit for the other models.
 */
export interface LinePrice {
  model: PriceModel
  /** Base bid; for CPM in steps of 1,000. */
  bidMicros: number
  /** Never above; null for no maximum. */
  maxMicros: number | null
  /** Multipliers and prices of their own by any targeting value, whether or not the line is restricted to it. */
  adjustments?: readonly Adjustment[]
  /** Thousandths by which each earlier exposure of the same person in 30 days lowers the bid. */
  repeatDiscount?: number
  /** Base bids that replace the first one from some moment on; the last that applies holds. */
  steps?: readonly BidStep[]
}

/** One of the two: a multiplier in whole thousandths, 0 to 10,000, or a price that takes the base bid's place. */
export interface Adjustment {
  dimension: Dimension
  value: string
  perMille: number | null
  ownMicros: number | null
}

/** A base bid from a market day on, after days live, or after impressions shown. */
export interface BidStep {
  after: 'date' | 'days live' | 'impressions'
  /** Market day, days, or impressions. */
  from: number
  bidMicros: number
}

/** Multipliers by hour of the week, Monday 00:00 first, in whole thousandths; 0 is off. */
export interface HourPlan {
  /** `viewer` reads the hour where the person is; otherwise the line's zone counts. */
  clock: 'viewer' | 'line'
  perMille: number[]
}

export const HOURS_PER_WEEK = 168
export const MOST_MULTIPLIER = 10_000

/** Base units of a price: micros an impression for CPM, micros an event for the others. */
export function baseUnits(model: PriceModel, micros: number): number {
  return model === 'CPM' ? Math.floor(micros / 1000) : micros
}

/** The base bid at a moment, in micros as typed. Steps by impressions follow what has been shown. */
export function bidAt({ bidMicros, steps = [] }: LinePrice, when: { day: number; daysLive: number; impressions: number }): number {
  const reached = { date: when.day, 'days live': when.daysLive, impressions: when.impressions }
  return steps.reduce((bid, step) => (reached[step.after] >= step.from ? step.bidMicros : bid), bidMicros)
}

/** A multiplier: floored to whole micros after each step. */
export function multiplied(micros: number, perMille: number): number {
  return Math.floor((micros * perMille) / 1000)
}

/** The least amount that a multiplier turns into `micros` or more; Infinity for a multiplier of 0. */
export function leastBefore(micros: number, perMille: number): number {
  return perMille === 0 ? Infinity : Math.ceil((micros * 1000) / perMille)
}

/** The bid that goes into the auction of a line without adjustments: base, then maximum last. Micros an impression. */
export function effectiveBid({ model, bidMicros, maxMicros }: LinePrice): number {
  return baseUnits(model, Math.min(bidMicros, maxMicros ?? bidMicros))
}

/** First price pays the bid; second price pays what it had to beat, never another bid of our own. */
export function clearingPrice(kind: AuctionKind, bid: number, floor: number, rival: number): number {
  return kind === 'first price' ? bid : Math.max(floor, rival)
}

/** Impression bid of an event's price: `p` in millionths, fixed for the hour; 0 does not bid. */
export function impressionBid(eventMicros: number, p: number): number {
  return Math.floor((eventMicros * p) / 1_000_000)
}

/** What the event costs when it happens. */
export function eventCharge(eventMicros: number, clearing: number, p: number): number {
  return p === 0 ? 0 : Math.min(eventMicros, Math.ceil((clearing * 1_000_000) / p))
}
