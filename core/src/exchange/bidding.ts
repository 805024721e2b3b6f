import { POSTAL_ZONE } from '../places/index.js'
import {
  DEVICE_TYPE,
  FIRST_PRICE,
  PERSON_WORDS,
  SOURCES,
  postalOf,
  type Inventory,
  type Opportunities,
  type World
} from '../market/index.js'
import { clearingPrice, eventCharge, impressionBid, rowNeed, type PriceStep } from '../pricing/index.js'
import { DID, type Benchmarks } from '../response/index.js'
import { failures } from '../targeting/index.js'
import { expectations, noExpectations } from './expectations.js'
import { learnedRate, priorOf, type Learned, type LearnedEvent } from './learning.js'
import { OFF } from './preparing.js'
import { laneValues, type LaneValues } from '../dimensions/index.js'
import type { RunningAd, RunningLine } from './running.js'

/** What of a line's bid follows from the opportunity looked at, the ad aside. */
export interface BidTerms {
  /** Number of the chain of adjustments. */
  chain: number
  /** Multiplier of the hour. */
  hourPerMille: number
  /** Chance of what the line aims at, or else pays for, in millionths; and of what it pays for. */
  rate: number
  paid: number
}
/** Of a line that bids the same for every opportunity. */
export const PLAIN_TERMS: BidTerms = { chain: 0, hourPerMille: 1000, rate: 0, paid: 0 }

/** Where a bid begins, and what it becomes: the steps of a price, and before and after them those of chances. */
export type BiddingStep =
  | PriceStep
  | { kind: 'ad' | 'base' | 'followed' }
  | { kind: 'aim'; event: LearnedEvent }
  | { kind: 'average'; perMillion: number }
  | { kind: 'learned'; perMillion: number; events: number }
  | { kind: 'corrected'; perMille: number }
  | { kind: 'each'; perMillion: number }
  | { kind: 'chance'; perMillion: number }
export type NoteBidding = (step: BiddingStep, micros: number) => void

/**
 * What a line bids for an opportunity, whether that wins, and what it costs then. Nothing here asks what was bought before. One
 * opportunity is looked at at a time.
 */
export class Bidding {
  private readonly expected = noExpectations()
  private readonly inventory: Inventory
  /** Lane values of the opportunity looked at, when anybody asked for them. */
  private values: LaneValues | null = null
  private rows: Opportunities | null = null
  private i = 0
  /** Placement x source, and placement, of the opportunity looked at; its floor and its best rival. */
  path = 0
  placement = 0
  floor = 0
  rival = 0

  constructor(
    private readonly world: World,
    private readonly benchmarks: Benchmarks
  ) {
    this.inventory = world.inventory
  }

  /** To be called for each opportunity before anything is asked of it. */
  look(rows: Opportunities, i: number): void {
    this.rows = rows
    this.i = i
    this.values = null
    this.path = rows.path[i]
    this.placement = Math.floor(this.path / SOURCES.length)
    this.floor = this.inventory.floors[this.path]
    this.rival = rows.rival[i]
  }

  private get row(): Opportunities {
    if (!this.rows) throw new Error('No opportunity is looked at.')
    return this.rows
  }

  lanes(): LaneValues {
    return (this.values ??= laneValues(this.world.persons.words, this.row.person[this.i], this.row, this.i))
  }

  fits(ad: RunningAd): boolean {
    return ad.targeting === null || failures(ad.targeting, this.lanes()) === 0
  }

  /** The terms of a line here; null where its hours are off for the viewer. */
  termsOf(line: RunningLine): BidTerms | null {
    const hourPerMille = line.zoneHours ? line.zoneHours[this.zoneHalf()] : 1000
    if (hourPerMille === OFF) return null
    const { learned, paid } = line
    const rate = learned ? this.rateOf(learned, line) : 0
    return {
      chain: line.adjusting ? line.programme.chainOf(failures(line.adjusting, this.lanes())) : 0,
      hourPerMille,
      rate,
      paid: paid && paid !== learned ? this.rateOf(paid, line) : rate
    }
  }

  /** Place of the viewer's zone and half of the hour in `zoneHours`. */
  private zoneHalf(): number {
    const { person, minute } = this.row
    const zone = POSTAL_ZONE[postalOf(this.world.persons.words[person[this.i] * PERSON_WORDS])]
    return 2 * zone + (minute[this.i] % 60 < 30 ? 0 : 1)
  }

  /** The trade's average chance of what a line pays for or aims at, in millionths. */
  private averageOf({ event, rates }: Learned, { rules }: RunningLine): number {
    const { row, i } = this
    expectations(this.benchmarks, row, i, this.world.persons.words, this.expected, rules.viewPoint)
    return priorOf(event, this.expected, rates)
  }

  /** The same as the line's own results have it, the ad aside. */
  private rateOf(learned: Learned, line: RunningLine): number {
    const device = DEVICE_TYPE[this.row.device[this.i]]
    return Math.min(1_000_000, learnedRate(learned, this.averageOf(learned, line), this.placement, device, line.localHour))
  }

  /** Chance in millionths, with an ad, of what its line aims at or else pays for. */
  adRate({ learned }: Pick<RunningLine, 'learned'>, ad: RunningAd, rate: number): number {
    return Math.min(1_000_000, Math.floor(rate * (learned?.ad.get(ad.rules.ad) ?? 1)))
  }

  /** The same of what its line pays for. */
  paidRate({ paid }: RunningLine, ad: RunningAd, terms: BidTerms): number {
    return this.adRate({ learned: paid }, ad, terms.paid)
  }

  /** Where a bid begins, in base units: the ad's own, what follows the market, what an aim is worth here, or the line's base. */
  private startOf(line: RunningLine, ad: RunningAd, terms: BidTerms, note: NoteBidding | null): number {
    const { aim } = line.rules
    if (ad.base >= 0) {
      if (note) note({ kind: 'ad' }, ad.base)
      return ad.base
    }
    if (line.followed) {
      if (note) note({ kind: 'followed' }, line.followed[this.path])
      return line.followed[this.path]
    }
    if (!aim || !line.learned) {
      if (note) note({ kind: 'base' }, line.base)
      return line.base
    }
    const worth = aim.event === 'value' ? (line.learned.valueMicros * 1000) / aim.micros : aim.micros
    const chance = this.adRate(line, ad, terms.rate)
    // Of each event that is paid for it is worth so much more as that one is rarer.
    const paid = line.event === 'none' ? 1_000_000 : this.paidRate(line, ad, terms)
    const worthOf = (perMillion: number) => (paid > 0 ? (perMillion * worth) / paid : 0)
    const micros = Math.floor((worthOf(chance) * line.correction) / 1000)
    if (note) {
      const average = this.averageOf(line.learned, line)
      note({ kind: 'aim', event: aim.event }, Math.floor(worth))
      note({ kind: 'average', perMillion: average }, Math.floor((average * worth) / 1e6))
      // Without an event yet, what was expected and did not come is learned as well.
      if (line.learned.events > 0 || chance !== average)
        note({ kind: 'learned', perMillion: chance, events: line.learned.events }, Math.floor((chance * worth) / 1e6))
      if (line.event !== 'none') note({ kind: 'each', perMillion: paid }, Math.floor(worthOf(chance)))
      if (line.correction !== 1000) note({ kind: 'corrected', perMille: line.correction }, micros)
    }
    return micros
  }

  /**
   * What an ad of a line bids here, micros an impression.
   * @param seen earlier exposures of the person to the line in 30 days
   * @param note told of each step, where it is to be explained
   */
  bidOf(line: RunningLine, ad: RunningAd, terms: BidTerms, seen: number, note: NoteBidding | null = null): number {
    const start = this.startOf(line, ad, terms, note)
    const event = line.programme.eventBid(start, terms.chain, terms.hourPerMille, seen, note)
    if (line.event === 'none') return event
    const chance = this.paidRate(line, ad, terms)
    const micros = impressionBid(event, chance)
    if (note) note({ kind: 'chance', perMillion: chance }, micros)
    return micros
  }

  /** The ad of a line with the dearest bid among those that fit, before repeats; null for none. */
  dearest(line: RunningLine, terms: BidTerms): { ad: RunningAd; bid: number } | null {
    const shape = this.inventory.placements[this.placement].shape
    let best: { ad: RunningAd; bid: number } | null = null
    for (const ad of line.byShape[shape]) {
      if (ad.weight <= 0 || !this.fits(ad)) continue
      const bid = this.bidOf(line, ad, terms, 0)
      if (!best || bid > best.bid) best = { ad, bid }
    }
    return best
  }

  private dealOf(line: RunningLine) {
    const deal = line.deals ? line.deals[this.placement] : -1
    return deal < 0 ? null : line.buys.deals[deal]
  }

  /** Least bid that anything asks for here. */
  lowest(line: RunningLine): number {
    const deal = this.dealOf(line)
    return deal ? (line.buys.open ? Math.min(this.floor, deal.price) : deal.price) : this.floor
  }

  /** Least bid that wins here. */
  need(line: RunningLine): number {
    return rowNeed(this.floor, this.rival, line.buys.open, this.dealOf(line))
  }

  wins(line: RunningLine, bid: number): boolean {
    return this.byDeal(line, bid) || (line.buys.open && bid >= this.floor && bid > this.rival)
  }

  /** Whether a bid reaches the line's deal here. */
  byDeal(line: RunningLine, bid: number): boolean {
    const deal = this.dealOf(line)
    return deal !== null && bid >= deal.price && (deal.kind === 'fixed' || bid > this.rival)
  }

  /** What an impression costs by the thousand at a bid that wins: by the deal where it is reached, else on the open market. */
  clearing(line: RunningLine, bid: number): number {
    const kind = FIRST_PRICE[this.path % SOURCES.length] === 1 ? 'first price' : 'second price'
    const deal = this.byDeal(line, bid) ? this.dealOf(line) : null
    if (deal) return deal.kind === 'fixed' ? deal.price : clearingPrice(kind, bid, deal.price, this.rival)
    return clearingPrice(kind, bid, this.floor, this.rival)
  }

  /** The most that an event can cost by any ad here, before repeats. */
  dearestEvent(line: RunningLine, terms: BidTerms): number {
    const { chain, hourPerMille } = terms
    if (line.rules.aim)
      return Math.max(0, ...line.ads.map((ad) => line.programme.eventBid(this.startOf(line, ad, terms, null), chain, hourPerMille, 0)))
    const most = line.programme.eventBid(line.base, chain, hourPerMille, 0)
    if (line.isSimple) return most
    const own = line.byShape[this.inventory.placements[this.placement].shape].filter((ad) => ad.base >= 0)
    return Math.max(most, ...own.map((ad) => line.programme.eventBid(ad.base, chain, hourPerMille, 0)))
  }

  /** What a win costs without data, by what the person did. @param price by the thousand */
  mediaCost(line: RunningLine, ad: RunningAd, terms: BidTerms, { did, price, seen }: { did: number; price: number; seen: number }): number {
    if (line.event === 'none') return price
    if ((did & (line.event === 'click' ? DID.clicked : DID.viewed)) === 0) return 0
    const start = this.startOf(line, ad, terms, null)
    const event = line.programme.eventBid(start, terms.chain, terms.hourPerMille, line.discount > 0 ? seen : 0)
    return eventCharge(event, price, this.paidRate(line, ad, terms))
  }
}
