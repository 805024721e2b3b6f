import { FIRST_PRICE, SOURCES, type Opportunities, type World } from '../market/index.js'
import { MINUTES_PER_DAY, ZONES, dayOfHour } from '../time/index.js'
import { STREAM, draw } from '../random/index.js'
import { DID, type Responses } from '../response/index.js'
import { allocate, bookMoney, exposed } from './allocation.js'
import { PLAIN_TERMS, type BidTerms, type Bidding } from './bidding.js'
import type { Conversions } from './conversions.js'
import { EXPOSED, type ExposureBook } from './exposures.js'
import { ASK_ACCOUNT, type LineTable } from './line-table.js'
import type { Means } from './means.js'
import type { WinLog, WinRow } from './log.js'
import { OUTCOME } from './outcomes.js'
import { WINDOW_MINUTES } from './pacing.js'
import type { RunningAd, RunningLine } from './running.js'
import { shownOf, zoneOffsets, type ShownRow } from './shown.js'

const { won: WON, own_line: OWN_LINE } = OUTCOME
/** Candidates, and opportunities that have any, after which they are sold. */
const CANDIDATES = 4096
const CONTESTED = 2048

/** What an auction among our lines asks and changes. */
export interface AuctionParts {
  world: World
  /** Whether every line buys as if it were alone. */
  apart: boolean
  /** The lines in the matcher's order. */
  lines: readonly RunningLine[]
  table: LineTable
  bidding: Bidding
  exposures: ExposureBook
  conversions: Conversions
  responses: Responses
  shapeByPath: Uint8Array
  means: Means
}

/** An opportunity that is being sold. */
interface Lot {
  rows: Opportunities
  i: number
  path: number
  key: number
  person: number
  /** Of the market. */
  minute: number
  /** What a second price pays; -1 where the bid is paid. */
  second: number
}

/**
 * Lines that would win opportunities, and which of them buys each: dearest first, within its money, pace and caps. Those of some
 * opportunities are gathered before they are sold, so that finding and selling each keep to their own tables.
 */
export class Auction {
  private readonly world: World
  private readonly apart: boolean
  private readonly lines: readonly RunningLine[]
  private readonly table: LineTable
  private readonly bidding: Bidding
  private readonly exposures: ExposureBook
  private readonly conversions: Conversions
  private readonly responses: Responses
  private readonly shapeByPath: Uint8Array
  private readonly means: Means
  /** Floors of paths that sell at the second price; -1 for the others. */
  private readonly secondPriceFloors: Int32Array
  /** Candidates of some opportunities, one after another: place of the line, dearest bid, and what it was made of. */
  private readonly candidates: Int32Array
  private readonly bids: Float64Array
  private readonly terms: BidTerms[]
  /** What the plain tests answered to each candidate. */
  private readonly answers: Int8Array
  private readonly order: Int32Array
  private count = 0
  /** Opportunities with candidates, and the first of each one's. */
  private readonly contested = new Int32Array(CONTESTED)
  private readonly firstOf = new Int32Array(CONTESTED + 1)
  private contests = 0
  /** Offset of each zone from UTC in the hour, minutes. */
  private readonly offsets = new Int32Array(ZONES.length)
  /** First minute of the hour's UTC day. */
  private dayStart = 0

  constructor(parts: AuctionParts) {
    this.world = parts.world
    this.apart = parts.apart
    this.lines = parts.lines
    this.table = parts.table
    this.bidding = parts.bidding
    this.exposures = parts.exposures
    this.conversions = parts.conversions
    this.responses = parts.responses
    this.shapeByPath = parts.shapeByPath
    this.means = parts.means
    this.secondPriceFloors = Int32Array.from(parts.world.inventory.floors, (floor, path) =>
      FIRST_PRICE[path % SOURCES.length] === 1 ? -1 : floor
    )
    const room = parts.lines.length + CANDIDATES
    this.candidates = new Int32Array(room)
    this.bids = new Float64Array(room)
    this.terms = new Array<BidTerms>(room).fill(PLAIN_TERMS)
    this.answers = new Int8Array(room)
    this.order = new Int32Array(parts.lines.length)
  }

  beginHour(hour: number): void {
    zoneOffsets(hour, this.offsets)
    this.dayStart = dayOfHour(hour) * MINUTES_PER_DAY
  }

  /** Puts a line that would win the opportunity looked at into its candidates. */
  enter(place: number, bid: number): void {
    const n = this.count++
    this.candidates[n] = place
    this.bids[n] = bid
  }

  /** The same for a line that bids for each row apart. */
  enterApart(place: number, bid: number, terms: BidTerms): void {
    this.terms[this.count] = terms
    this.enter(place, bid)
  }

  /** Closes the candidates of an opportunity; sells what was gathered when that is enough. */
  close(rows: Opportunities, i: number, wins: WinLog): void {
    const { firstOf, contests } = this
    if (this.count === (contests === 0 ? 0 : firstOf[contests])) return
    this.contested[contests] = i
    firstOf[++this.contests] = this.count
    if (this.count >= CANDIDATES || this.contests === CONTESTED) this.sell(rows, wins)
  }

  /** Sells the opportunities that were gathered, in the order of the market. */
  sell(rows: Opportunities, wins: WinLog): void {
    for (let o = 0; o < this.contests; o++) this.award(this.firstOf[o], this.firstOf[o + 1], rows, this.contested[o], wins)
    this.contests = this.count = 0
  }

  /**
   * Asks what stops each candidate before anything is booked. Of most opportunities nobody's pace wants any, and then it is the same in
   * which order they are asked; else they compete.
   */
  private award(first: number, end: number, rows: Opportunities, i: number, wins: WinLog): void {
    const { candidates, bids, answers, table, means } = this
    const key = rows.key[i]
    const path = rows.path[i]
    const minute = this.dayStart + rows.minute[i]
    const window = Math.floor(minute / WINDOW_MINUTES)
    const floor = this.secondPriceFloors[path]
    const second = floor < 0 ? -1 : Math.max(floor, rows.rival[i])
    let goesOn = false
    for (let c = first; c < end; c++) {
      const place = candidates[c]
      const answer = table.ask(place, window, key, second < 0 ? bids[c] : second, means.of(place))
      answers[c] = answer
      if (answer === WON || answer === ASK_ACCOUNT) goesOn = true
      else table.stop(place, answer, second < 0 ? bids[c] : second)
    }
    if (goesOn) this.compete(first, end, { rows, i, path, key, person: rows.person[i], minute, second }, wins)
  }

  /** Dearest own bid first; ties by a hash of key and line, so that no line is favoured for its number. */
  private compete(first: number, end: number, lot: Lot, wins: WinLog): void {
    const { key, second } = lot
    const { candidates, bids, answers, order, table } = this
    // Few compete for one opportunity: each is put in its place among those before it.
    for (let c = 0; c < end - first; c++) {
      let place = c
      for (; place > 0 && this.isBefore(first + c, order[place - 1], key); place--) order[place] = order[place - 1]
      order[place] = first + c
    }
    this.bidding.look(lot.rows, lot.i)
    for (let n = 0; n < end - first; n++) {
      const c = order[n]
      const place = candidates[c]
      const price = second < 0 ? bids[c] : second
      if (this.apart && n > 0) this.askAgain(c, lot, price)
      const answer = answers[c]
      if (answer === WON) table.see(place, price)
      else if (answer !== ASK_ACCOUNT) continue
      const outcome = this.tryWith(this.lines[place], c, lot, answer === WON, wins)
      table.cells.count(place, outcome)
      if (outcome !== WON || this.apart) continue
      for (let rest = n + 1; rest < end - first; rest++) this.loseToOwn(order[rest], second)
      return
    }
  }

  /** Where every line buys for itself, a purchase before may have moved what this one is told. */
  private askAgain(c: number, { key, minute }: Lot, price: number): void {
    this.takeBack(c, price)
    const place = this.candidates[c]
    const answer = this.table.ask(place, Math.floor(minute / WINDOW_MINUTES), key, price, this.means.of(place))
    this.answers[c] = answer
    if (answer !== WON && answer !== ASK_ACCOUNT) this.table.stop(place, answer, price)
  }

  private takeBack(c: number, price: number): void {
    const answer = this.answers[c]
    if (answer !== WON && answer !== ASK_ACCOUNT) this.table.unstop(this.candidates[c], answer, price)
  }

  /** A candidate below one that bought: whatever it was told, it was not asked. */
  private loseToOwn(c: number, second: number): void {
    this.takeBack(c, second < 0 ? this.bids[c] : second)
    this.table.cells.count(this.candidates[c], OWN_LINE)
  }

  private isBefore(a: number, b: number, key: number): boolean {
    const {
      bids,
      candidates,
      table: { cells }
    } = this
    return comesBefore(bids[a], cells.number(candidates[a]), bids[b], cells.number(candidates[b]), key)
  }

  /** The tests that look at a line's account and its ads. @param isPaid money and pace have been asked already */
  private tryWith(line: RunningLine, c: number, lot: Lot, isPaid: boolean, wins: WinLog): number {
    const { bidding, exposures } = this
    const { person, minute } = lot
    const terms = line.isPlain ? PLAIN_TERMS : this.terms[c]
    const outcome = isPaid ? exposed(line.account, exposures, person, minute) : this.allocateTo(line, this.bids[c], terms, lot)
    if (outcome !== WON) return outcome
    const seen = exposures.count(EXPOSED.line(line.rules.line), person, minute, 255)
    const ad = this.drawAd(line, lot, seen)
    if (ad === null) return OUTCOME.capped
    const bid = line.isPlain && line.discount === 0 ? this.bids[c] : bidding.bidOf(line, ad, terms, line.discount > 0 ? seen : 0)
    if (!bidding.wins(line, bid)) return OUTCOME.outbid_after_discount
    wins.push(this.buy(line, ad, lot, { bid, terms, seen, index: wins.length }))
    return WON
  }

  /** Asks balance, money, pace and caps of a line at its dearest bid. */
  private allocateTo(line: RunningLine, bid: number, terms: BidTerms, { person, minute, key }: Lot): number {
    const { bidding } = this
    const price = bidding.clearing(line, bid)
    const { dataMicros } = line
    let [most, meant] = [price, price]
    if (line.event !== 'none') {
      // Of a price by the event the dearest that one can cost; what the plan sees is what it costs in the mean.
      most = bidding.dearestEvent(line, terms)
      // An aim pays for what is worth it, so that its price is what it means to pay.
      meant = line.rules.aim
        ? price
        : Math.min(price, (line.programme.eventBid(line.base, terms.chain, terms.hourPerMille, 0) * terms.paid) / 1e6)
    }
    if (this.means.of(line.place) < most + dataMicros) return OUTCOME.no_money
    return allocate(line.account, this.exposures, {
      person,
      placement: bidding.placement,
      source: bidding.path % SOURCES.length,
      minute,
      minuteOfDay: minute - line.dayStart * 60,
      key,
      priceMicros: meant + dataMicros
    })
  }

  /** One of the ads that fit and are free for this person: by weight, or in turn; null for none. @param seen what they saw of the line */
  private drawAd(line: RunningLine, { path, person, minute, key }: Lot, seen: number): RunningAd | null {
    const shape = this.shapeByPath[path]
    const own = line.byShape[shape]
    if (line.isSimple && own.length === 1) return own[0]
    const { rotation } = line.rules
    const drawn = rotation === 'even' ? turnOf(person, line.rules.line, seen) : draw(key ^ line.rules.line, STREAM.ad)
    if (line.isSimple) {
      let left = drawn % line.weightByShape[shape]
      for (const ad of own) {
        if (left < ad.weight) return ad
        left -= ad.weight
      }
      return null
    }
    const lineCapped =
      line.account.hasOwnCaps === true &&
      line.account.caps.length > 0 &&
      this.exposures.capped(EXPOSED.lineCapped(line.rules.line), person, minute, line.account.caps)
    const free = own.filter(
      (ad) =>
        ad.weight > 0 &&
        this.bidding.fits(ad) &&
        (ad.caps.length > 0 ? !this.exposures.capped(EXPOSED.ad(ad.rules.ad), person, minute, ad.caps) : !lineCapped)
    )
    const weights = free.reduce((sum, ad) => sum + ad.weight, 0)
    if (weights === 0) return null
    let left = drawn % weights
    return free.find((ad) => (left -= ad.weight) < 0) ?? null
  }

  /** Books a win. @param index its place in the log of the hour */
  private buy(
    line: RunningLine,
    ad: RunningAd,
    { rows, i, path, key, person, minute }: Lot,
    { bid, terms, seen, index }: { bid: number; terms: BidTerms; seen: number; index: number }
  ): WinRow {
    const { bidding, exposures } = this
    const { rules, account, dataMicros } = line
    const [device, state] = [rows.device[i], rows.state[i]]
    const price = bidding.clearing(line, bid)
    const row: ShownRow = {
      key,
      line: rules.line,
      ad: ad.rules.ad,
      path,
      person,
      device,
      state,
      minute,
      seen,
      viewPoint: ad.rules.viewPoint
    }
    const shown = shownOf(this.world, row, this.offsets)
    let did = this.responses.immediate(shown)
    if ((did & DID.stayed) !== 0) did |= this.conversions.primed(shown, minute, exposures)
    const media = bidding.mediaCost(line, ad, terms, { did, price, seen })
    this.means.pay(line.place, media + dataMicros)
    bookMoney(account, { placement: bidding.placement, source: path % SOURCES.length }, media + dataMicros)
    this.table.noteStops(line)
    exposures.add(EXPOSED.line(rules.line), person, minute, { index, did, ad: ad.rules.ad, path, device })
    if (account.hasOwnCaps && ad.caps.length === 0) exposures.add(EXPOSED.lineCapped(rules.line), person, minute)
    if (ad.caps.length > 0) exposures.add(EXPOSED.ad(ad.rules.ad), person, minute)
    if (account.campaignCaps && account.campaignCaps.length > 0) exposures.add(EXPOSED.campaign(rules.campaign), person, minute)
    this.conversions.expect(shown, did, person, minute)
    return {
      person,
      line: rules.line,
      ad: ad.rules.ad,
      key,
      price,
      media,
      data: dataMicros,
      predicted: bidding.adRate(line, ad, terms.rate),
      path,
      device,
      page: rows.page[i],
      state,
      deal: bidding.byDeal(line, bid) ? (line.deals as Int16Array)[bidding.placement] + 1 : 0,
      did,
      minute: rows.minute[i] % 60,
      nth: Math.min(255, seen + 1)
    }
  }
}

/** Whose turn it is of ads that each weigh one: everybody begins with some ad and is shown the next one each time. */
const turnOf = (person: number, line: number, seen: number) => ((draw(person ^ line, STREAM.ad) >>> 8) + seen) >>> 0

/** Whether a line's bid is asked before another's: the dearer first; of equal ones that with the smaller hash of key and line. */
export function comesBefore(bid: number, line: number, otherBid: number, other: number, key: number): boolean {
  return bid > otherBid || (bid === otherBid && draw(key ^ line, STREAM.order) < draw(key ^ other, STREAM.order))
}
