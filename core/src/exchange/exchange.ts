import { POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { DEVICE_TYPE, FIRST_PRICE, PERSON_WORDS, SOURCES, isBlocked, isBot, makeDay, postalOf, type MarketDay, type Opportunities, type World } from '../market/index.js'
import { HOURS_PER_DAY, MINUTES_PER_DAY, ZONES, dayOfHour, localDayOf, offsetMinutes, startOfLocalDay } from '../time/index.js'
import { STREAM, draw } from '../random/index.js'
import { rowNeed } from '../pricing/index.js'
import { Responses, type Benchmarks, type Shown } from '../response/index.js'
import { failures, type Catalogue } from '../targeting/index.js'
import { allocate, bookMoney, exposed } from './allocation.js'
import { Bidding } from './bidding.js'
import { beginDay } from './day-plan.js'
import { planDay } from './planning.js'
import { OFF, setAds, setBids } from './preparing.js'
import { Conversions, type Pending } from './conversions.js'
import { EXPOSED, ExposureBook } from './exposures.js'
import { eventsOf, nextCorrection, takeHour, takePlacement, type Recent } from './learning.js'
import type { SpentSoFar } from './limits.js'
import { WinLog, packEvents, openEvents, openLog, type WinRow } from './log.js'
import { crc32 } from './packing.js'
import { benchmarksOf, catalogueOf } from './market-facts.js'
import { Matcher } from './matching.js'
import { LineTable } from './line-table.js'
import { OUTCOME } from './outcomes.js'
import type { Supply } from './pacing.js'
import { rollUp, type HourTotal, type PlacementTotal } from './rollups.js'
import type { PublicationRules } from './rules.js'
import { branchOf, buyablePaths, learnedEvent, runningCampaign, runningLine, type OpeningLine, type RunningAd, type RunningCampaign, type RunningLine } from './running.js'

/** All state at the start of a market hour: the log of the last 30 days and a small row a line. */
export interface OpeningState {
  hour: number
  balanceMicros: number
  lines: ReadonlyMap<number, Partial<OpeningLine>>
  campaigns: ReadonlyMap<number, SpentSoFar>
  exposures: ExposureBook
  /** Conversions that are still to come, from the log. */
  pending?: readonly Pending[]
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
  /** The small row of each line, to be stored beside it. */
  lineStates: { line: number; supply: Supply; correction: number }[]
}

const { won: WON, no_ad: NO_AD, below_floor: BELOW_FLOOR, outbid: OUTBID, own_line: OWN_LINE } = OUTCOME
/** Candidates, and opportunities that have any, after which they are sold. */
const CANDIDATES = 4096
const CONTESTED = 2048
/** Hours that an aim's correction looks back on. */
const RECENT_HOURS = 24
/** Days between two times that what no cap can see any more is forgotten. */
const FORGET_EVERY = 5

/**
 * Runs a publication's lines through the market, hour after hour, in the order of the market. It keeps the state
 * between hours; after a failed commit it must be made anew from stored facts.
 */
export class Exchange {
  private readonly lines: RunningLine[]
  /** The lines in the matcher's order. */
  private readonly inOrder: RunningLine[]
  private readonly campaigns: Map<number, RunningCampaign>
  private readonly matcher: Matcher
  private readonly table: LineTable
  private readonly open: Int32Array
  private readonly responses: Responses
  private readonly conversions: Conversions
  private readonly benchmarks: Benchmarks
  private readonly bidding: Bidding
  private dayRows: { day: number; rows: Opportunities; hourStart: Uint32Array } | null = null
  private readonly shapeByPath: Uint8Array
  private balance: number
  private readonly exposures: ExposureBook
  /** Candidates of some opportunities, one after another: place of the line, dearest bid, and what it was made of. */
  private readonly candidates: Int32Array
  private readonly bids: Float64Array
  private readonly chains: Int32Array
  private readonly multipliers: Int32Array
  private readonly rates: Float64Array
  private readonly order: Int32Array
  /** Opportunities with candidates, and the first of each one's. */
  private readonly contested = new Int32Array(CONTESTED)
  private readonly firstOf = new Int32Array(CONTESTED + 1)
  /** Offset of each zone from UTC in the hour, minutes. */
  private readonly offsets = new Int32Array(ZONES.length)
  /** The hour that `runHour` runs next. */
  hour: number

  /** @param dayOf makes a UTC day in market order; replaceable so that several runs can share one day's rows */
  constructor(
    private readonly world: World, private readonly publication: PublicationRules, opening: OpeningState,
    private readonly dayOf: (world: World, day: number) => MarketDay = makeDay
  ) {
    this.hour = opening.hour
    this.balance = opening.balanceMicros
    this.exposures = opening.exposures
    const { inventory, profiles, seed } = world
    const catalogue: Catalogue = catalogueOf(world)
    this.benchmarks = benchmarksOf(world)
    this.shapeByPath = Uint8Array.from(inventory.floors, (_, path) => inventory.placements[Math.floor(path / SOURCES.length)].shape)
    this.bidding = new Bidding(world, this.benchmarks)
    this.responses = new Responses(seed)
    this.conversions = new Conversions(this.responses, publication, opening.pending ?? [])
    this.campaigns = new Map(publication.campaigns.map((rules) => [rules.campaign, runningCampaign(rules, publication.lines, opening.hour, opening.campaigns.get(rules.campaign))]))
    this.matcher = new Matcher(publication.lines.map((rules) => rules.targeting), { inventory, profiles, measures: catalogue.measures }, publication.lines.map((rules) => buyablePaths(rules, inventory)))
    const count = publication.lines.length
    this.table = new LineTable(count, this.matcher.words, this.campaigns.values())
    const places = new Int32Array(count)
    this.matcher.order.forEach((l, at) => (places[l] = at))
    this.lines = publication.lines.map((rules, l) => runningLine(rules, this.campaigns.get(rules.campaign) ?? null, opening.hour, opening.lines.get(rules.line), opening.onPlacement?.get(rules.line), catalogue, this.table.pace, places[l]))
    this.inOrder = Array.from(this.matcher.order, (l) => this.lines[l])
    this.table.setLines(this.inOrder)
    this.open = new Int32Array(this.matcher.words)
    const room = count + CANDIDATES
    this.candidates = new Int32Array(room)
    this.bids = new Float64Array(room)
    this.chains = new Int32Array(room)
    this.multipliers = new Int32Array(room)
    this.rates = new Float64Array(room)
    this.order = new Int32Array(count)
  }

  private isOpen({ rules, campaign }: RunningLine, hour: number): boolean {
    const within = (of: { startHour: number; endHour: number | null }) => hour >= of.startHour && (of.endHour === null || hour < of.endHour)
    return within(rules) && (campaign === null || within(campaign.rules))
  }

  private beginHour(hour: number): void {
    this.open.fill(0)
    for (let zone = 0; zone < ZONES.length; zone++) this.offsets[zone] = offsetMinutes(zone, hour)
    if (hour % (FORGET_EVERY * HOURS_PER_DAY) === 0 && this.exposures.size > 0) this.exposures.forget(hour * 60)
    for (const campaign of this.campaigns.values()) {
      const day = localDayOf(campaign.calendar.zone, hour)
      if (day === campaign.localDay) continue
      campaign.localDay = day
      beginDay(campaign.purse, day)
    }
    this.inOrder.forEach((line, at) => {
      if (this.isOpen(line, hour)) this.open[at >> 5] |= 1 << (at & 31)
      const day = localDayOf(line.calendar.zone, hour)
      if (day === line.localDay) return
      line.localDay = day
      line.dayStart = startOfLocalDay(line.calendar.zone, day)
      beginDay(line.account.purse, day)
      line.account.onPlacement.clear()
    })
    for (const line of this.lines) {
      if (!this.isOpen(line, hour)) continue
      // Made anew every hour, so that a run that was interrupted plans exactly as one that was not.
      line.account.plan = planDay({ rules: line.rules, calendar: line.calendar, localDay: line.localDay, purse: line.account.purse }, line.campaign, line.campaign?.lines ?? [])
      line.account.pacer.restart()
      setBids(line, hour, this.world.inventory, this.conversions.worth(line.rules.line))
      setAds(line, this.world.seed)
    }
    this.table.beginHour()
  }

  /**
   * Buys one market hour.
   * @param cancelled asked now and then; when true the hour is given up and null returned, and this object is spent
   */
  runHour(cancelled: () => boolean = () => false): HourFacts | null {
    const { hour, matcher, open, inOrder, bidding, table } = this
    this.beginHour(hour)
    const day = dayOfHour(hour)
    if (this.dayRows?.day !== day) this.dayRows = { day, ...this.dayOf(this.world, day) }
    const { rows, hourStart } = this.dayRows
    const from = hourStart[hour % HOURS_PER_DAY]
    const to = hourStart[(hour % HOURS_PER_DAY) + 1]
    const wins = new WinLog()
    const { persons, inventory: { floors } } = this.world
    const { bid: bids, adless } = table
    const { words } = matcher
    let n = 0
    let contested = 0
    // Who could win is found for some opportunities at once, and then they are sold one by one: each half keeps to its own tables.
    for (let i = from; i < to; i++) {
      if ((i & 0x3fff) === 0 && cancelled()) return null
      const found = matcher.match(persons, rows, i)
      if (found === 0) continue
      const path = rows.path[i]
      const floor = floors[path]
      const rival = rows.rival[i]
      const shape = this.shapeByPath[path]
      const before = n
      bidding.next()
      for (let f = 0; f < found; f++) {
        const w = matcher.foundWord[f]
        const none = adless[shape * words + w]
        for (let bits = open[w] & matcher.foundBits[f]; bits !== 0; bits &= bits - 1) {
          const lowest = bits & -bits
          const at = w * 32 + 31 - Math.clz32(lowest)
          const bid = bids[at]
          // The tests that need no state; what bids apart for each row is not a number here.
          if ((none & lowest) !== 0) table.count(at, NO_AD)
          else if (bid > rival && bid >= floor) n = this.enter(at, n, bid, 0, 1000, 0)
          else if (!Number.isNaN(bid)) table.lose(at, bid < floor ? BELOW_FLOOR : OUTBID, Math.max(floor, rival + 1), bid)
          else n = this.considerAll(inOrder[at], rows, i, n, path, Math.floor(path / SOURCES.length), shape)
        }
      }
      if (n === before) continue
      this.contested[contested] = i
      this.firstOf[contested++] = before
      if (n < CANDIDATES && contested < CONTESTED) continue
      this.sell(contested, n, rows, wins)
      n = contested = 0
    }
    this.sell(contested, n, rows, wins)
    return this.facts(hour, to - from, wins)
  }

  /** Puts a line that would win into the candidates; returns their new number. */
  private enter(at: number, n: number, bid: number, chain: number, hour: number, rate: number): number {
    this.candidates[n] = at
    this.bids[n] = bid
    this.chains[n] = chain
    this.multipliers[n] = hour
    this.rates[n] = rate
    return n + 1
  }

  private considerAll(line: RunningLine, rows: Opportunities, i: number, n: number, path: number, placement: number, shape: number): number {
    const hour = line.zoneHours ? line.zoneHours[POSTAL_ZONE[postalOf(this.world.persons.words[rows.person[i] * PERSON_WORDS])]] : 1000
    // An hour that is off for this viewer is no match at all.
    if (hour === OFF) return n
    const chain = line.adjusting ? line.programme.chainOf(failures(line.adjusting, this.bidding.lanes(rows, i))) : 0
    const rate = line.learned ? this.bidding.rateOf(line, rows, i, placement) : 0
    let bid = OFF
    for (const ad of line.byShape[shape]) if (ad.weight > 0 && this.bidding.fits(ad, rows, i)) bid = Math.max(bid, this.bidding.bidOf(line, ad, path, chain, hour, rate, 0))
    const floor = this.world.inventory.floors[path]
    const rival = rows.rival[i]
    if (bid === OFF) this.table.count(line.at, NO_AD)
    else if (this.bidding.wins(line, placement, floor, rival, bid)) return this.enter(line.at, n, bid, chain, hour, rate)
    else this.table.lose(line.at, bid < this.bidding.lowest(line, placement, floor) ? BELOW_FLOOR : OUTBID, rowNeed(floor, rival, line.buys.open, this.bidding.dealOf(line, placement)), bid)
    return n
  }

  /** Sells opportunities in the order of the market. */
  private sell(contested: number, n: number, rows: Opportunities, wins: WinLog): void {
    this.firstOf[contested] = n
    for (let o = 0; o < contested; o++) {
      this.bidding.next()
      this.award(this.firstOf[o], this.firstOf[o + 1], rows, this.contested[o], wins)
    }
  }

  /** Dearest own bid first; ties by a hash of key and line, so that no line is favoured for its number. */
  private award(first: number, end: number, rows: Opportunities, i: number, wins: WinLog): void {
    const key = rows.key[i]
    const { candidates, order, table } = this
    const n = end - first
    if (n === 1) {
      table.count(candidates[first], this.tryToBuy(first, rows, i, wins))
      return
    }
    // Few compete for one opportunity: each is put in its place among those before it.
    for (let c = 0; c < n; c++) {
      let place = c
      for (; place > 0 && this.isBefore(first + c, order[place - 1], key); place--) order[place] = order[place - 1]
      order[place] = first + c
    }
    for (let c = 0; c < n; c++) {
      const outcome = this.tryToBuy(order[c], rows, i, wins)
      table.count(candidates[order[c]], outcome)
      if (outcome !== WON || this.publication.apart) continue
      for (let rest = c + 1; rest < n; rest++) table.count(candidates[order[rest]], OWN_LINE)
      return
    }
  }

  /** Whether a candidate bids more than another; of equal bids the smaller hash of key and line comes first. */
  private isBefore(a: number, b: number, key: number): boolean {
    const { bids, candidates, table: { number } } = this
    return bids[a] > bids[b] || (bids[a] === bids[b] && draw(key ^ number[candidates[a]], STREAM.order) < draw(key ^ number[candidates[b]], STREAM.order))
  }

  private tryToBuy(c: number, rows: Opportunities, i: number, wins: WinLog): number {
    const at = this.candidates[c]
    const path = rows.path[i]
    const key = rows.key[i]
    const minute = dayOfHour(this.hour) * MINUTES_PER_DAY + rows.minute[i]
    const bid = this.bids[c]
    const quick = this.table.quick(at, minute, key, FIRST_PRICE[path % SOURCES.length] === 1 ? bid : Math.max(this.world.inventory.floors[path], rows.rival[i]), this.balance)
    if (quick >= 0 && quick !== WON) return quick
    return this.tryWith(this.inOrder[at], c, rows, i, path, key, minute, quick === WON, wins)
  }

  /** The tests that look at a line's account and its ads. @param isPaid money and pace have been asked already */
  private tryWith(line: RunningLine, c: number, rows: Opportunities, i: number, path: number, key: number, minute: number, isPaid: boolean, wins: WinLog): number {
    const { account, rules, dataMicros } = line
    const placement = Math.floor(path / SOURCES.length)
    const shape = this.shapeByPath[path]
    const person = rows.person[i]
    const [chain, hour, rate] = [this.chains[c], this.multipliers[c], this.rates[c]]
    let outcome: number
    if (isPaid) outcome = exposed(account, this.exposures, person, minute)
    else {
      const price = this.bidding.clearing(line, path, placement, rows.rival[i], this.bids[c])
      const isEvent = line.event !== 'none'
      // Of a price by the event the dearest that one can cost; what the plan sees is what it costs in the mean.
      const most = isEvent ? line.programme.eventBid(line.base, chain, hour, 0) : price
      if (this.balance < Math.max(most, isEvent ? this.bidding.dearestEvent(line, shape, chain, hour) : 0) + dataMicros) return OUTCOME.no_money
      outcome = allocate(account, this.exposures, person, placement, minute, minute - line.dayStart * 60, key, (isEvent ? Math.min(price, (most * rate) / 1e6) : price) + dataMicros)
    }
    if (outcome !== WON) return outcome
    const ad = this.drawAd(line, shape, rows, i, person, minute, key)
    if (ad === null) return OUTCOME.capped
    const seen = this.exposures.count(EXPOSED.line(rules.line), person, minute, 255)
    const bid = line.isPlain && line.discount === 0 ? this.bids[c] : this.bidding.bidOf(line, ad, path, chain, hour, rate, line.discount > 0 ? seen : 0)
    if (!this.bidding.wins(line, placement, this.world.inventory.floors[path], rows.rival[i], bid)) return OUTCOME.outbid_after_discount
    wins.push(this.buy(line, ad, rows, i, minute, bid, seen, wins.length, chain, hour, rate))
    return WON
  }

  /** One of the ads that fit and are free for this person, by weight; null for none. */
  private drawAd(line: RunningLine, shape: number, rows: Opportunities, i: number, person: number, minute: number, key: number): RunningAd | null {
    const own = line.byShape[shape]
    const drawn = draw(key ^ line.rules.line, STREAM.ad)
    if (line.isSimple) {
      let at = drawn % line.weightByShape[shape]
      for (const ad of own) {
        if (at < ad.weight) return ad
        at -= ad.weight
      }
      return null
    }
    const lineCapped = line.account.hasOwnCaps === true && line.account.caps.length > 0 && this.exposures.capped(EXPOSED.lineCapped(line.rules.line), person, minute, line.account.caps)
    const free = own.filter((ad) => ad.weight > 0 && this.bidding.fits(ad, rows, i) && (ad.caps.length > 0 ? !this.exposures.capped(EXPOSED.ad(ad.rules.ad), person, minute, ad.caps) : !lineCapped))
    const weights = free.reduce((sum, ad) => sum + ad.weight, 0)
    if (weights === 0) return null
    let at = drawn % weights
    return free.find((ad) => (at -= ad.weight) < 0) ?? null
  }

  private buy(line: RunningLine, ad: RunningAd, rows: Opportunities, i: number, minute: number, bid: number, seen: number, index: number, chain: number, hour: number, rate: number): WinRow {
    const { rules, account, dataMicros } = line
    const person = rows.person[i]
    const path = rows.path[i]
    const placement = this.world.inventory.placements[Math.floor(path / SOURCES.length)]
    const price = this.bidding.clearing(line, path, placement.index, rows.rival[i], bid)
    const deal = this.bidding.byDeal(line, placement.index, rows.rival[i], bid) ? (line.deals as Int16Array)[placement.index] + 1 : 0
    const postal = postalOf(this.world.persons.words[person * PERSON_WORDS])
    const shown: Shown = {
      key: rows.key[i], line: rules.line, ad: ad.rules.ad, placement, branch: branchOf(this.benchmarks.groupOf, placement.index), device: DEVICE_TYPE[rows.device[i]], country: POSTAL_COUNTRY[postal],
      bot: isBot(rows.state[i]), blocked: isBlocked(rows.state[i]) && placement.blocked > 0, seen, hour: Math.floor((((minute + this.offsets[POSTAL_ZONE[postal]]) % MINUTES_PER_DAY) + MINUTES_PER_DAY) / 60) % HOURS_PER_DAY
    }
    const did = this.responses.immediate(shown)
    const media = this.bidding.mediaCost(line, ad, path, did, price, chain, hour, rate, seen)
    this.balance -= media + dataMicros
    bookMoney(account, placement.index, media + dataMicros)
    this.table.noteStops(line)
    const { exposures } = this
    exposures.add(EXPOSED.line(rules.line), person, minute, { index, did, ad: ad.rules.ad, path, device: rows.device[i] })
    if (account.hasOwnCaps && ad.caps.length === 0) exposures.add(EXPOSED.lineCapped(rules.line), person, minute)
    if (ad.caps.length > 0) exposures.add(EXPOSED.ad(ad.rules.ad), person, minute)
    if (account.campaignCaps && account.campaignCaps.length > 0) exposures.add(EXPOSED.campaign(rules.campaign), person, minute)
    this.conversions.expect(shown, did, person, minute)
    return {
      person, line: rules.line, ad: ad.rules.ad, key: rows.key[i], price, media, data: dataMicros, predicted: this.bidding.adRate(line, ad, rate), path, device: rows.device[i], page: rows.page[i], state: rows.state[i],
      deal, did, minute: rows.minute[i] % 60, nth: Math.min(255, seen + 1)
    }
  }

  private facts(hour: number, opportunities: number, wins: WinLog): HourFacts {
    const log = wins.packed()
    const crc = crc32(log)
    const rows = this.conversions.land(hour, this.exposures)
    const events = packEvents(rows)
    const eventsCrc = crc32(events)
    const { hourTotals, placementTotals } = rollUp(openLog(log, wins.length, crc), openEvents(events, rows.length, eventsCrc), this.world.persons.words, this.benchmarks)
    this.learnFrom(hourTotals, placementTotals)
    this.hour = hour + 1
    return {
      hour, opportunities, log, crc, events, eventsCrc, eventCount: rows.length, publication: this.publication.publication, wins: wins.length, hourTotals, placementTotals,
      outcomes: this.countsOf(this.table.countsOf), shorts: this.countsOf(this.table.shortOf),
      spendMicros: wins.spendMicros,
      lineStates: this.lines.map((line) => ({ line: line.rules.line, supply: line.account.pacer.supply, correction: line.correction }))
    }
  }

  /** Counts of the lines that have any, in the order of the publication. */
  private countsOf(of: (line: RunningLine) => Int32Array): { line: number; counts: number[] }[] {
    return this.lines.map((line) => ({ line: line.rules.line, counts: [...of(line)] })).filter(({ counts }) => counts.some((n) => n > 0))
  }

  private learnFrom(hourTotals: readonly HourTotal[], placementTotals: readonly PlacementTotal[]): void {
    // What nobody learns from is not gathered.
    const byLine = new Map(this.lines.filter((line) => learnedEvent(line.rules) !== null || line.rules.rotation === 'learning').map((line) => [line.rules.line, line]))
    const sums = new Map<number, Recent>()
    for (const total of hourTotals) {
      const line = byLine.get(total.line)
      if (!line) continue
      takeHour(line.facts, total, line.localHour, line.localDay)
      const sum = sums.get(total.line) ?? NOTHING_RECENT
      sums.set(total.line, { spend: sum.spend + total.spendMicros, predicted: sum.predicted + total.predicted, events: sum.events + (line.rules.aim ? eventsOf(total, line.rules.aim.event) : 0) })
    }
    for (const total of placementTotals) {
      const line = byLine.get(total.line)
      if (line) takePlacement(line.facts, total)
    }
    for (const line of this.lines) {
      line.account.pacer.learn()
      line.recent.push(sums.get(line.rules.line) ?? NOTHING_RECENT)
      if (line.recent.length > RECENT_HOURS) line.recent.shift()
      const { aim } = line.rules
      if (!aim || !this.isOpen(line, this.hour)) continue
      const lately = line.recent.reduce((sum, of) => ({ spend: sum.spend + of.spend, predicted: sum.predicted + of.predicted, events: sum.events + of.events }), NOTHING_RECENT)
      line.correction = nextCorrection(line.correction, aim, lately, line.learned?.valueMicros ?? 0)
    }
  }
}

const NOTHING_RECENT: Recent = { spend: 0, predicted: 0, events: 0 }
