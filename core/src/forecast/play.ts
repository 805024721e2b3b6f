import { DEVICE_TYPE, SOURCES } from '../market/index.js'
import { baseUnits, clearingPrice, eventCharge } from '../pricing/index.js'
import { conversionChance, groupAt, viewsAt, visitChance, type EventRates } from '../response/index.js'
import type { Tape } from '../tape/index.js'
import type { ExposuresBefore } from './exposures-before.js'
import { BID_ITSELF, type Matched } from './matched.js'
import type { ForecastMarket, ForecastQuestion } from './question.js'

/** What is replayed, at one bid. */
export interface Play {
  readonly tape: Tape
  readonly market: ForecastMarket
  readonly question: ForecastQuestion
  readonly matched: Matched
  /** Base bid in base units. */
  readonly base: number
  /** Base bid of each day of the replay, where the price has steps: of a flight, never of a week. */
  readonly bases?: readonly number[]
  /** Bids by placement and source in place of the base bid, in base units: for each weekday, Monday first, or one for all. */
  readonly pathBids?: readonly Int32Array[]
  /** Of an aim: chance of its event on each match, in millionths, and what one is worth, micros. Their product is the base bid. */
  readonly chances?: Uint32Array
  readonly worth?: number
}

export interface ReplayOptions {
  /** Whether totals by group, views, visits and conversions are wanted. */
  full: boolean
  /** Whether the rows that were won are wanted. */
  keep?: boolean
  /** Only every n-th person of the tape. */
  every?: number
  before?: ExposuresBefore
}

/** Base units of the bid that a question's line has at the moment it asks about. */
export function baseOf(question: ForecastQuestion, micros = question.price.bidMicros): number {
  return baseUnits(question.price.model, micros)
}

/** Base bid on a match, in base units. @param minute of the replay's clock @param weekday of its first day, Monday = 0 */
export function baseAt(
  { base, bases, pathBids, chances, worth, tape, matched }: Play,
  match: number,
  minute: number,
  weekday: number
): number {
  // Of an event that is paid for it is worth so much more as that one is rarer.
  if (chances && worth !== undefined)
    return Math.floor((chances[match] * worth) / (matched.chance ? Math.max(1, matched.chance[match]) : 1e6))
  if (pathBids) return pathBids[pathBids.length === 1 ? 0 : (weekday + Math.floor(minute / 1440)) % 7][tape.rows.path[matched.rows[match]]]
  return bases ? bases[Math.floor(minute / 1440)] : base
}

/** Whether all rows have the play's base bid, on every day. */
export const isOneBase = ({ bases, pathBids, chances }: Play) => !bases && !pathBids && !chances

/** The highest base bid of a replay: what it does not win is never won. */
export function mostBase({ base, bases, pathBids, chances }: Play): number {
  return bases && !pathBids && !chances ? Math.max(...bases) : base
}

/**
 * Effective bid on a match, micros an impression. @param seen earlier exposures of the person in 30 days @param own chain of another
 * ad than the one that the match was drawn
 */
export type BidOn = (match: number, base: number, seen: number, own?: number) => number

/** The bids of a match's rows. Made once for a loop, so that its arrays are looked up once. */
export function bidsOf({ chain, hour, chance, programme, isEvent }: Matched): BidOn {
  return (match, base, seen, own = chain ? chain[match] : 0) =>
    programme.bid(base, own, hour ? hour[match] : 1000, seen, chance ? chance[match] : 0, isEvent)
}

/** The same by whichever of the ads that fit bids most: what the exchange's price tests ask. */
export function dearestOf(matched: Matched): BidOn {
  const bidOn = bidsOf(matched)
  const { ads, programme } = matched
  if (!ads?.choice.bids) return bidOn
  const { choice, set, chain } = ads
  return (match, base, seen) => {
    const before = chain ? chain[match] : 0
    return choice.sets[set[match]].classes.reduce(
      (most, one) => Math.max(most, bidOn(match, base, seen, one.base < 0 ? before : programme.withOwn(before, one.base))),
      0
    )
  }
}

/** Whether one base bid is the same effective bid on every match, repeats and days aside. */
export function isPlain({ chain, hour, chance }: Matched): boolean {
  return chain === null && hour === null && chance === null
}

/** The effective bid on every match of a plain line. */
export function plainBid({ programme }: Matched, base: number): number {
  return programme.bid(base, 0, 1000, 0, 1_000_000, false)
}

/** Price of a match at an effective bid, micros an impression; the deal comes first where the bid reaches it. */
function pricesOf({ tape, market, question, matched }: Play): (match: number, bid: number) => number {
  const { pay, rows, deals: dealOf } = matched
  const { deals } = question.buys
  if (deals.length === 0) return (match, bid) => (pay[match] === BID_ITSELF ? bid : pay[match])
  const { path, rival } = tape.rows
  return (match, bid) => {
    const pathIndex = path[rows[match]]
    const best = rival[rows[match]]
    const kind = market.firstPrice[pathIndex] === 1 ? 'first price' : 'second price'
    const deal = deals[dealOf[Math.floor(pathIndex / SOURCES.length)]]
    if (deal?.kind === 'fixed' && bid >= deal.price) return deal.price
    if (deal?.kind === 'floor' && bid >= deal.price && bid > best) return clearingPrice(kind, bid, deal.price, best)
    return clearingPrice(kind, bid, market.inventory.floors[pathIndex], best)
  }
}

/**
 * What a won match is charged without data, micros: its price; for a price by the event what the event costs when it happens, times
 * its chance. @param base in base units; @param seen earlier exposures of the person in 30 days @param own as for a bid
 */
export type ChargeFor = (match: number, bid: number, base: number, seen: number, own?: number) => number

export function chargesOf(play: Play): ChargeFor {
  const price = pricesOf(play)
  const { chain, hour, chance, programme, isEvent } = play.matched
  if (!isEvent || !chance) return price
  return (match, bid, base, seen, own = chain ? chain[match] : 0) => {
    const event = programme.eventBid(base, own, hour ? hour[match] : 1000, seen)
    return (chance[match] / 1e6) * eventCharge(event, price(match, bid), chance[match])
  }
}

/** What is expected of an impression on a row: views, visits and conversions, in millionths. */
export interface Expected {
  views: number
  visits: number
  conversions: number
}
export function expectedOf(
  { tape, question, market: { benchmarks } }: Pick<Play, 'tape' | 'market' | 'question'>,
  rates: EventRates,
  row: number,
  country: number,
  into: Expected
): void {
  const group = groupAt(benchmarks.groupOf[Math.floor(tape.rows.path[row] / SOURCES.length)], tape.rows.state[row])
  into.views = viewsAt(benchmarks, question.viewPoint)[group]
  const type = DEVICE_TYPE[tape.rows.device[row]]
  into.visits = visitChance(benchmarks, group, type, country)
  into.conversions = conversionChance(benchmarks, rates, into.visits, group, type, country)
}
