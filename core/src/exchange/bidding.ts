import { DEVICE_TYPE, FIRST_PRICE, SOURCES, type Inventory, type Opportunities, type World } from '../market/index.js'
import { clearingPrice, eventCharge } from '../pricing/index.js'
import { DID, type Benchmarks } from '../response/index.js'
import { failures, laneValues, type LaneValues } from '../targeting/index.js'
import { expectations } from './expectations.js'
import { learnedRate, priorOf } from './learning.js'
import type { RunningAd, RunningLine } from './running.js'

/**
 * What a line bids for an opportunity, whether that wins, and what it costs then. Nothing here asks what was bought before.
 */
export class Bidding {
  private readonly expected = { views: 0, visits: 0, conversions: 0 }
  private readonly inventory: Inventory
  /** Lane values of the opportunity looked at, when anybody asked for them. */
  private values: LaneValues | null = null

  constructor(
    private readonly world: World,
    private readonly benchmarks: Benchmarks
  ) {
    this.inventory = world.inventory
  }

  /** To be called for each opportunity before anything is asked of it. */
  next(): void {
    this.values = null
  }

  lanes(rows: Opportunities, i: number): LaneValues {
    return (this.values ??= laneValues(this.world.persons.words, rows.person[i], rows, i))
  }

  fits(ad: RunningAd, rows: Opportunities, i: number): boolean {
    return ad.targeting === null || failures(ad.targeting, this.lanes(rows, i)) === 0
  }

  /** Chance of what the line pays for or aims at, in millionths, the ad aside. */
  rateOf(line: RunningLine, rows: Opportunities, i: number, placement: number): number {
    const { learned } = line
    if (!learned) return 0
    expectations(this.benchmarks, rows.path[i], rows.device[i], this.world.persons.words, rows.person[i], this.expected)
    return Math.min(
      1_000_000,
      learnedRate(learned, priorOf(learned.event, this.expected), placement, DEVICE_TYPE[rows.device[i]], line.localHour)
    )
  }

  adRate({ learned }: RunningLine, ad: RunningAd, rate: number): number {
    return Math.min(1_000_000, Math.floor(rate * (learned?.ad.get(ad.rules.ad) ?? 1)))
  }

  /** Base bid in base units: the ad's own, what follows the market, what an aim is worth here, or the line's. */
  baseOf(line: RunningLine, ad: RunningAd, path: number, rate: number): number {
    const { aim } = line.rules
    if (ad.base >= 0) return ad.base
    if (line.followed) return line.followed[path]
    if (!aim || !line.learned) return line.base
    const worth = aim.event === 'value' ? (line.learned.valueMicros * 1000) / aim.micros : aim.micros
    return Math.floor((this.adRate(line, ad, rate) * worth * line.correction) / 1e9)
  }

  bidOf(line: RunningLine, ad: RunningAd, path: number, chain: number, hour: number, rate: number, seen: number): number {
    const isEvent = line.event !== 'none'
    return line.programme.bid(this.baseOf(line, ad, path, rate), chain, hour, seen, isEvent ? this.adRate(line, ad, rate) : 0, isEvent)
  }

  dealOf(line: RunningLine, placement: number) {
    const at = line.deals ? line.deals[placement] : -1
    return at < 0 ? null : line.buys.deals[at]
  }

  /** Least bid that anything asks for here. */
  lowest(line: RunningLine, placement: number, floor: number): number {
    const deal = this.dealOf(line, placement)
    return deal ? (line.buys.open ? Math.min(floor, deal.price) : deal.price) : floor
  }

  wins(line: RunningLine, placement: number, floor: number, rival: number, bid: number): boolean {
    return this.byDeal(line, placement, rival, bid) || (line.buys.open && bid >= floor && bid > rival)
  }

  /** Whether a bid reaches the line's deal here. */
  byDeal(line: RunningLine, placement: number, rival: number, bid: number): boolean {
    const deal = this.dealOf(line, placement)
    return deal !== null && bid >= deal.price && (deal.kind === 'fixed' || bid > rival)
  }

  /** What an impression costs by the thousand at a bid that wins: by the deal where it is reached, else on the open market. */
  clearing(line: RunningLine, path: number, placement: number, rival: number, bid: number): number {
    const kind = FIRST_PRICE[path % SOURCES.length] === 1 ? 'first price' : 'second price'
    const deal = this.byDeal(line, placement, rival, bid) ? this.dealOf(line, placement) : null
    if (deal) return deal.kind === 'fixed' ? deal.price : clearingPrice(kind, bid, deal.price, rival)
    return clearingPrice(kind, bid, this.inventory.floors[path], rival)
  }

  dearestEvent(line: RunningLine, shape: number, chain: number, hour: number): number {
    if (line.isSimple) return 0
    return Math.max(0, ...line.byShape[shape].map((ad) => (ad.base >= 0 ? line.programme.eventBid(ad.base, chain, hour, 0) : 0)))
  }

  mediaCost(
    line: RunningLine,
    ad: RunningAd,
    path: number,
    did: number,
    price: number,
    chain: number,
    hour: number,
    rate: number,
    seen: number
  ): number {
    if (line.event === 'none') return price
    if ((did & (line.event === 'click' ? DID.clicked : DID.viewed)) === 0) return 0
    return eventCharge(
      line.programme.eventBid(this.baseOf(line, ad, path, rate), chain, hour, line.discount > 0 ? seen : 0),
      price,
      this.adRate(line, ad, rate)
    )
  }
}
