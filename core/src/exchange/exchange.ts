import { POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { DEVICE_TYPE, FIRST_PRICE, PERSON_WORDS, SOURCES, isBlocked, isBot, makeDay, postalOf, publishMeasures, type MarketDay, type Opportunities, type World } from '../market/index.js'
import { HOURS_PER_DAY, MINUTES_PER_DAY, MINUTES_PER_WEEK, ZONES, dayOfHour, localDayOf, localHourOf, offsetMinutes, startOfLocalDay, weekdayOf } from '../time/index.js'
import { STREAM, draw } from '../random/index.js'
import { baseUnits, bidAt, clearingPrice, eventCharge, rowNeed } from '../pricing/index.js'
import { DID, Responses, makeBenchmarks, type Benchmarks, type Shown } from '../response/index.js'
import { failures, laneValues, type Catalogue, type LaneValues } from '../targeting/index.js'
import { allocate, bookMoney } from './allocation.js'
import { beginDay } from './day-plan.js'
import { planDay } from './planning.js'
import { Conversions, type Pending } from './conversions.js'
import { expectations } from './expectations.js'
import { EXPOSED, ExposureBook } from './exposures.js'
import { followBids, eventsOf, learn, learnedRate, nextCorrection, rotationWeights, takeHour, takePlacement, STAYS_PRIOR, type Recent } from './learning.js'
import type { SpentSoFar } from './limits.js'
import { packEvents, packLog, openEvents, openLog, type WinRow } from './log.js'
import { crc32 } from './packing.js'
import { Matcher } from './matching.js'
import { OUTCOME, shortBin } from './outcomes.js'
import type { Supply } from './pacing.js'
import { rollUp, type HourTotal, type PlacementTotal } from './rollups.js'
import { GOAL_EVENT, type PublicationRules } from './rules.js'
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

/** Bid of an hour that is off. */
const OFF = -1
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
  private readonly open: Int32Array
  private readonly responses: Responses
  private readonly conversions: Conversions
  private readonly benchmarks: Benchmarks
  private readonly expected = { views: 0, visits: 0, conversions: 0 }
  private dayRows: { day: number; rows: Opportunities; hourStart: Uint32Array } | null = null
  private balance: number
  private readonly exposures: ExposureBook
  /** Candidates for one opportunity, side by side: line, dearest bid, and what it was made of. */
  private candidates: RunningLine[] = []
  private bids = new Float64Array(64)
  private chains = new Int32Array(64)
  private multipliers = new Int32Array(64)
  private rates = new Float64Array(64)
  private order: number[] = []
  /** Lane values of the opportunity looked at, when anybody asked for them. */
  private values: LaneValues | null = null
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
    this.responses = new Responses(seed)
    this.conversions = new Conversions(this.responses, publication, opening.pending ?? [])
    this.campaigns = new Map(publication.campaigns.map((rules) => [rules.campaign, runningCampaign(rules, publication.lines, opening.hour, opening.campaigns.get(rules.campaign))]))
    this.lines = publication.lines.map((rules) => runningLine(rules, this.campaigns.get(rules.campaign) ?? null, opening.hour, opening.lines.get(rules.line), opening.onPlacement?.get(rules.line), catalogue))
    this.matcher = new Matcher(publication.lines.map((rules) => rules.targeting), { inventory, profiles, measures: catalogue.measures }, publication.lines.map((rules) => buyablePaths(rules, inventory)))
    this.inOrder = Array.from(this.matcher.order, (l) => this.lines[l])
    this.open = new Int32Array(this.matcher.words)
  }

  private isOpen({ rules, campaign }: RunningLine, hour: number): boolean {
    const within = (of: { startHour: number; endHour: number | null }) => hour >= of.startHour && (of.endHour === null || hour < of.endHour)
    return within(rules) && (campaign === null || within(campaign.rules))
  }

  private beginHour(hour: number): void {
    this.open.fill(0)
    if (hour % (FORGET_EVERY * HOURS_PER_DAY) === 0 && this.exposures.size > 0) this.exposures.forget(hour * 60)
    for (const campaign of this.campaigns.values()) {
      const day = localDayOf(campaign.calendar.zone, hour)
      if (day === campaign.localDay) continue
      campaign.localDay = day
      beginDay(campaign.purse, day)
    }
    this.inOrder.forEach((line, at) => {
      line.counts.fill(0)
      line.short.fill(0)
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
      this.setBids(line, hour)
      this.setAds(line)
    }
  }

  private setBids(line: RunningLine, hour: number): void {
    const { rules, programme, account } = line
    const daysLive = Math.max(0, line.localDay - localDayOf(line.calendar.zone, rules.startHour))
    line.base = baseUnits(rules.price.model, bidAt(rules.price, { day: line.localDay, daysLive, impressions: account.purse.spent.total.impressions }))
    line.localHour = localHourOf(line.calendar.zone, hour)
    const event = learnedEvent(rules)
    line.learned = event ? learn(line.facts, event, line.localDay) : null
    line.followed = rules.follow ? this.follow(line) : null
    line.isPlain = line.adjusting === null && line.zoneHours === null && line.event === 'none' && !rules.aim && line.followed === null && line.deals === null && line.ads.every((ad) => ad.base < 0 && ad.targeting === null)
    line.bid = programme.bid(line.base, 0, 1000, 0, 1_000_000, false)
    if (line.zoneHours && rules.hours) setHours(line.zoneHours, rules.hours, line.calendar.zone, hour)
  }

  /** Bids by path that win what is left of today's plan in what is left of today. */
  private follow({ rules, account, localDay, localHour, base, programme }: RunningLine): Int32Array {
    const landscape = rules.follow
    const bids = new Int32Array(this.world.inventory.floors.length)
    if (!landscape) return bids
    const { plan, purse } = account
    const weekday = weekdayOf(localDay)
    const day = Array.from({ length: HOURS_PER_DAY }, (_, of) => landscape.hours[weekday * HOURS_PER_DAY + of])
    const left = day.slice(localHour).reduce((sum, share) => sum + share, 0) * 7
    const most = Math.min(programme.max, programme.max === Infinity ? base : Infinity)
    // Money is turned into wins at what wins cost so far, or at the middle of what they could.
    const { micros, impressions } = purse.spent.day
    const perWin = impressions > 20 ? micros / impressions : most / 2
    const wanted = Math.min((plan.limitShown ?? Infinity) - impressions, (plan.limitMicros - micros) / Math.max(1, perWin))
    followBids(landscape, left, wanted === Infinity ? Infinity : Math.max(0, wanted) * 1.03, most, (path) => FIRST_PRICE[path % SOURCES.length] === 1, bids)
    return bids
  }

  private setAds(line: RunningLine): void {
    const { rules, ads, byShape, campaign } = line
    const measure = GOAL_EVENT[campaign?.rules.goal ?? 'visits']
    const unit = measure === 'valueMicros' ? Math.max(1, line.facts.total.conversions > 0 ? line.facts.total.valueMicros / line.facts.total.conversions : 1) : 1
    byShape.forEach((own, shape) => {
      if (own.length > 0) {
        const weights = rotationWeights(rules.rotation ?? 'weight', own.map((ad) => ad.rules), line.facts, measure, unit, this.world.seed ^ rules.line)
        own.forEach((ad, n) => (ad.weight = weights[n]))
      }
      line.weightByShape[shape] = own.reduce((sum, ad) => sum + ad.weight, 0)
    })
    if (ads.length === 0) line.weightByShape.fill(0)
  }

  /**
   * Buys one market hour.
   * @param cancelled asked now and then; when true the hour is given up and null returned, and this object is spent
   */
  runHour(cancelled: () => boolean = () => false): HourFacts | null {
    const { hour, matcher, open, inOrder } = this
    this.beginHour(hour)
    const day = dayOfHour(hour)
    if (this.dayRows?.day !== day) this.dayRows = { day, ...this.dayOf(this.world, day) }
    const { rows, hourStart } = this.dayRows
    const from = hourStart[hour % HOURS_PER_DAY]
    const to = hourStart[(hour % HOURS_PER_DAY) + 1]
    const wins: WinRow[] = []
    const { persons } = this.world
    for (let i = from; i < to; i++) {
      if ((i & 0x3fff) === 0 && cancelled()) return null
      const found = matcher.match(persons, rows, i)
      if (found === 0) continue
      let n = 0
      this.values = null
      for (let f = 0; f < found; f++) {
        const w = matcher.foundWord[f]
        let bits = open[w] & matcher.foundBits[f]
        while (bits !== 0) {
          const line = inOrder[w * 32 + 31 - Math.clz32(bits & -bits)]
          bits &= bits - 1
          n = this.consider(line, rows, i, n)
        }
      }
      if (n > 0) this.award(n, rows, i, wins)
    }
    return this.facts(hour, to - from, wins)
  }

  /** The tests that need no state. Puts a line that would win into the candidates; returns their new number. */
  private consider(line: RunningLine, rows: Opportunities, i: number, n: number): number {
    const path = rows.path[i]
    const placement = Math.floor(path / SOURCES.length)
    const { shape } = this.world.inventory.placements[placement]
    if (!line.isPlain) return this.considerAll(line, rows, i, n, path, placement, shape)
    const floor = this.world.inventory.floors[path]
    if (line.weightByShape[shape] === 0) line.counts[OUTCOME.no_ad]++
    else if (line.bid < floor || line.bid <= rows.rival[i]) {
      line.counts[line.bid < floor ? OUTCOME.below_floor : OUTCOME.outbid]++
      line.short[shortBin(Math.max(floor, rows.rival[i] + 1), line.bid)]++
    } else return this.enter(line, n, line.bid, 0, 1000, 0)
    return n
  }

  private enter(line: RunningLine, n: number, bid: number, chain: number, hour: number, rate: number): number {
    if (n === this.bids.length) this.grow()
    this.candidates[n] = line
    this.bids[n] = bid
    this.chains[n] = chain
    this.multipliers[n] = hour
    this.rates[n] = rate
    return n + 1
  }

  private grow(): void {
    const { bids, chains, multipliers, rates } = this
    this.bids = new Float64Array(bids.length * 2)
    this.chains = new Int32Array(bids.length * 2)
    this.multipliers = new Int32Array(bids.length * 2)
    this.rates = new Float64Array(bids.length * 2)
    this.bids.set(bids)
    this.chains.set(chains)
    this.multipliers.set(multipliers)
    this.rates.set(rates)
  }

  private considerAll(line: RunningLine, rows: Opportunities, i: number, n: number, path: number, placement: number, shape: number): number {
    const hour = line.zoneHours ? line.zoneHours[POSTAL_ZONE[postalOf(this.world.persons.words[rows.person[i] * PERSON_WORDS])]] : 1000
    // An hour that is off for this viewer is no match at all.
    if (hour === OFF) return n
    const chain = line.adjusting ? line.programme.chainOf(failures(line.adjusting, this.lanes(rows, i))) : 0
    const rate = line.learned ? this.rateOf(line, rows, i, placement) : 0
    let bid = OFF
    for (const ad of line.byShape[shape]) if (ad.weight > 0 && this.fits(ad, rows, i)) bid = Math.max(bid, this.bidOf(line, ad, path, chain, hour, rate, 0))
    const floor = this.world.inventory.floors[path]
    const rival = rows.rival[i]
    if (bid === OFF) line.counts[OUTCOME.no_ad]++
    else if (this.wins(line, placement, floor, rival, bid)) return this.enter(line, n, bid, chain, hour, rate)
    else {
      line.counts[bid < this.lowest(line, placement, floor) ? OUTCOME.below_floor : OUTCOME.outbid]++
      line.short[shortBin(rowNeed(floor, rival, line.buys.open, this.dealOf(line, placement)), bid)]++
    }
    return n
  }

  private lanes(rows: Opportunities, i: number): LaneValues {
    return (this.values ??= laneValues(this.world.persons.words, rows.person[i], rows, i))
  }

  private fits(ad: RunningAd, rows: Opportunities, i: number): boolean {
    return ad.targeting === null || failures(ad.targeting, this.lanes(rows, i)) === 0
  }

  /** Chance of what the line pays for or aims at, in millionths, the ad aside. */
  private rateOf(line: RunningLine, rows: Opportunities, i: number, placement: number): number {
    const { learned } = line
    if (!learned) return 0
    expectations(this.benchmarks, rows.path[i], rows.device[i], this.world.persons.words, rows.person[i], this.expected)
    const { views, visits, conversions } = this.expected
    const prior = learned.event === 'view' ? views : learned.event === 'click' ? visits : learned.event === 'stay' ? visits * STAYS_PRIOR : conversions
    return Math.min(1_000_000, learnedRate(learned, prior, placement, DEVICE_TYPE[rows.device[i]], line.localHour))
  }

  private adRate({ learned }: RunningLine, ad: RunningAd, rate: number): number {
    return Math.min(1_000_000, Math.floor(rate * (learned?.ad.get(ad.rules.ad) ?? 1)))
  }

  /** Base bid in base units: the ad's own, what follows the market, what an aim is worth here, or the line's. */
  private baseOf(line: RunningLine, ad: RunningAd, path: number, rate: number): number {
    const { aim } = line.rules
    if (ad.base >= 0) return ad.base
    if (line.followed) return line.followed[path]
    if (!aim || !line.learned) return line.base
    const worth = aim.event === 'value' ? (line.learned.valueMicros * 1000) / aim.micros : aim.micros
    return Math.floor((this.adRate(line, ad, rate) * worth * line.correction) / 1e9)
  }

  private bidOf(line: RunningLine, ad: RunningAd, path: number, chain: number, hour: number, rate: number, seen: number): number {
    const isEvent = line.event !== 'none'
    return line.programme.bid(this.baseOf(line, ad, path, rate), chain, hour, seen, isEvent ? this.adRate(line, ad, rate) : 0, isEvent)
  }

  private dealOf(line: RunningLine, placement: number) {
    const at = line.deals ? line.deals[placement] : -1
    return at < 0 ? null : line.buys.deals[at]
  }

  /** Least bid that anything asks for here. */
  private lowest(line: RunningLine, placement: number, floor: number): number {
    const deal = this.dealOf(line, placement)
    return deal ? (line.buys.open ? Math.min(floor, deal.price) : deal.price) : floor
  }

  private wins(line: RunningLine, placement: number, floor: number, rival: number, bid: number): boolean {
    return this.byDeal(line, placement, rival, bid) || (line.buys.open && bid >= floor && bid > rival)
  }

  /** Whether a bid reaches the line's deal here. */
  private byDeal(line: RunningLine, placement: number, rival: number, bid: number): boolean {
    const deal = this.dealOf(line, placement)
    return deal !== null && bid >= deal.price && (deal.kind === 'fixed' || bid > rival)
  }

  /** What an impression costs by the thousand at a bid that wins: by the deal where it is reached, else on the open market. */
  private clearing(line: RunningLine, path: number, placement: number, rival: number, bid: number): number {
    const kind = FIRST_PRICE[path % SOURCES.length] === 1 ? 'first price' : 'second price'
    const deal = this.byDeal(line, placement, rival, bid) ? this.dealOf(line, placement) : null
    if (deal) return deal.kind === 'fixed' ? deal.price : clearingPrice(kind, bid, deal.price, rival)
    return clearingPrice(kind, bid, this.world.inventory.floors[path], rival)
  }

  /** Dearest own bid first; ties by a hash of key and line, so that no line is favoured for its number. */
  private award(n: number, rows: Opportunities, i: number, wins: WinRow[]): void {
    const key = rows.key[i]
    const { candidates, order } = this
    if (n === 1) {
      const [line] = candidates
      line.counts[this.tryToBuy(line, 0, rows, i, wins)]++
      return
    }
    // Few compete for one opportunity: each is put in its place among those before it.
    for (let c = 0; c < n; c++) {
      let place = c
      for (; place > 0 && this.isBefore(c, order[place - 1], key); place--) order[place] = order[place - 1]
      order[place] = c
    }
    for (let c = 0; c < n; c++) {
      const line = candidates[order[c]]
      const outcome = this.tryToBuy(line, order[c], rows, i, wins)
      line.counts[outcome]++
      if (outcome !== OUTCOME.won || this.publication.apart) continue
      for (let rest = c + 1; rest < n; rest++) candidates[order[rest]].counts[OUTCOME.own_line]++
      return
    }
  }

  /** Whether a candidate bids more than another; of equal bids the smaller hash of key and line comes first. */
  private isBefore(a: number, b: number, key: number): boolean {
    const { bids, candidates } = this
    return bids[a] > bids[b] || (bids[a] === bids[b] && draw(key ^ candidates[a].rules.line, STREAM.order) < draw(key ^ candidates[b].rules.line, STREAM.order))
  }

  private tryToBuy(line: RunningLine, c: number, rows: Opportunities, i: number, wins: WinRow[]): number {
    const { account, rules, dataMicros } = line
    const path = rows.path[i]
    const placement = Math.floor(path / SOURCES.length)
    const { shape } = this.world.inventory.placements[placement]
    const person = rows.person[i]
    const key = rows.key[i]
    const minute = dayOfHour(this.hour) * MINUTES_PER_DAY + rows.minute[i]
    const chain = this.chains[c]
    const hour = this.multipliers[c]
    const rate = this.rates[c]
    const price = this.clearing(line, path, placement, rows.rival[i], this.bids[c])
    const isEvent = line.event !== 'none'
    // Of a price by the event the dearest that one can cost; what the plan sees is what it costs in the mean.
    const most = isEvent ? line.programme.eventBid(line.base, chain, hour, 0) : price
    if (this.balance < Math.max(most, isEvent ? this.dearestEvent(line, shape, chain, hour) : 0) + dataMicros) return OUTCOME.no_money
    const outcome = allocate(account, this.exposures, person, placement, minute, minute - line.dayStart * 60, key, (isEvent ? Math.min(price, (most * rate) / 1e6) : price) + dataMicros)
    if (outcome !== OUTCOME.won) return outcome
    const ad = this.drawAd(line, shape, rows, i, person, minute, key)
    if (ad === null) return OUTCOME.capped
    const seen = this.exposures.count(EXPOSED.line(rules.line), person, minute, 255)
    const bid = line.isPlain && line.discount === 0 ? this.bids[c] : this.bidOf(line, ad, path, chain, hour, rate, line.discount > 0 ? seen : 0)
    if (!this.wins(line, placement, this.world.inventory.floors[path], rows.rival[i], bid)) return OUTCOME.outbid_after_discount
    wins.push(this.buy(line, ad, rows, i, minute, bid, seen, wins.length, chain, hour, rate))
    return OUTCOME.won
  }

  private dearestEvent(line: RunningLine, shape: number, chain: number, hour: number): number {
    if (line.isSimple) return 0
    return Math.max(0, ...line.byShape[shape].map((ad) => (ad.base >= 0 ? line.programme.eventBid(ad.base, chain, hour, 0) : 0)))
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
    const free = own.filter((ad) => ad.weight > 0 && this.fits(ad, rows, i) && (ad.caps.length > 0 ? !this.exposures.capped(EXPOSED.ad(ad.rules.ad), person, minute, ad.caps) : !lineCapped))
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
    const price = this.clearing(line, path, placement.index, rows.rival[i], bid)
    const deal = this.byDeal(line, placement.index, rows.rival[i], bid) ? (line.deals as Int16Array)[placement.index] + 1 : 0
    const postal = postalOf(this.world.persons.words[person * PERSON_WORDS])
    const shown: Shown = {
      key: rows.key[i], line: rules.line, ad: ad.rules.ad, placement, branch: branchOf(this.benchmarks.groupOf, placement.index), device: DEVICE_TYPE[rows.device[i]], country: POSTAL_COUNTRY[postal],
      bot: isBot(rows.state[i]), blocked: isBlocked(rows.state[i]) && placement.blocked > 0, seen, hour: Math.floor((((minute + offsetMinutes(POSTAL_ZONE[postal], this.hour)) % MINUTES_PER_DAY) + MINUTES_PER_DAY) / 60) % HOURS_PER_DAY
    }
    const did = this.responses.immediate(shown)
    const media = this.mediaCost(line, ad, path, did, price, chain, hour, rate, seen)
    this.balance -= media + dataMicros
    bookMoney(account, placement.index, media + dataMicros)
    const { exposures } = this
    exposures.add(EXPOSED.line(rules.line), person, minute, { index, did, ad: ad.rules.ad, path, device: rows.device[i] })
    if (account.hasOwnCaps && ad.caps.length === 0) exposures.add(EXPOSED.lineCapped(rules.line), person, minute)
    if (ad.caps.length > 0) exposures.add(EXPOSED.ad(ad.rules.ad), person, minute)
    if (account.campaignCaps && account.campaignCaps.length > 0) exposures.add(EXPOSED.campaign(rules.campaign), person, minute)
    this.conversions.expect(shown, did, person, minute)
    return {
      person, line: rules.line, ad: ad.rules.ad, key: rows.key[i], price, media, data: dataMicros, predicted: this.adRate(line, ad, rate), path, device: rows.device[i], page: rows.page[i], state: rows.state[i],
      deal, did, minute: rows.minute[i] % 60, nth: Math.min(255, seen + 1)
    }
  }

  private mediaCost(line: RunningLine, ad: RunningAd, path: number, did: number, price: number, chain: number, hour: number, rate: number, seen: number): number {
    if (line.event === 'none') return price
    if ((did & (line.event === 'click' ? DID.clicked : DID.viewed)) === 0) return 0
    return eventCharge(line.programme.eventBid(this.baseOf(line, ad, path, rate), chain, hour, line.discount > 0 ? seen : 0), price, this.adRate(line, ad, rate))
  }

  private facts(hour: number, opportunities: number, wins: readonly WinRow[]): HourFacts {
    const log = packLog(wins)
    const crc = crc32(log)
    const rows = this.conversions.land(hour, this.exposures)
    const events = packEvents(rows)
    const eventsCrc = crc32(events)
    const { hourTotals, placementTotals } = rollUp(openLog(log, wins.length, crc), openEvents(events, rows.length, eventsCrc), this.world.persons.words, this.benchmarks)
    this.learnFrom(hourTotals, placementTotals)
    this.hour = hour + 1
    return {
      hour, opportunities, log, crc, events, eventsCrc, eventCount: rows.length, publication: this.publication.publication, wins: wins.length, hourTotals, placementTotals,
      outcomes: this.lines.filter((line) => line.counts.some((n) => n > 0)).map((line) => ({ line: line.rules.line, counts: [...line.counts] })),
      shorts: this.lines.filter((line) => line.short.some((n) => n > 0)).map((line) => ({ line: line.rules.line, counts: [...line.short] })),
      spendMicros: wins.reduce((sum, win) => sum + win.media + win.data, 0),
      lineStates: this.lines.map((line) => ({ line: line.rules.line, supply: line.account.pacer.supply, correction: line.correction }))
    }
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
      line.correction = nextCorrection(line.correction, aim, lately, line.facts.total.conversions > 0 ? line.facts.total.valueMicros / line.facts.total.conversions : 0)
    }
  }
}

const NOTHING_RECENT: Recent = { spend: 0, predicted: 0, events: 0 }

const catalogues = new WeakMap<World['inventory'], Catalogue>()
/** What targeting is compiled against; made once a world. */
export function catalogueOf({ seed, inventory, profiles }: World): Catalogue {
  let known = catalogues.get(inventory)
  if (!known) catalogues.set(inventory, (known = { inventory, profiles, measures: publishMeasures(seed, inventory) }))
  return known
}
const benchmarks = new WeakMap<World['inventory'], Benchmarks>()
export function benchmarksOf({ inventory }: World): Benchmarks {
  let known = benchmarks.get(inventory)
  if (!known) benchmarks.set(inventory, (known = makeBenchmarks(inventory)))
  return known
}

/** Multipliers of an hour for viewers of each zone; by the line's own clock they are all alike. */
function setHours(into: Int32Array, hours: NonNullable<RunningLine['rules']['hours']>, zone: number, hour: number): void {
  for (let viewer = 0; viewer < ZONES.length; viewer++) {
    const offset = offsetMinutes(hours.clock === 'viewer' ? viewer : zone, hour)
    const ofWeek = (weekdayOf(dayOfHour(hour)) * MINUTES_PER_DAY + (hour % HOURS_PER_DAY) * 60 + offset + 2 * MINUTES_PER_WEEK) % MINUTES_PER_WEEK
    const perMille = hours.perMille[Math.floor(ofWeek / 60)]
    into[viewer] = perMille === 0 ? OFF : perMille
  }
}
