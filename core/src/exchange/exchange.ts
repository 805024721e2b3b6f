import { POSTAL_COUNTRY, POSTAL_REGION, POSTAL_ZONE } from '../places/index.js'
import { SHAPES } from '../taxonomy/index.js'
import { DEVICE_TYPE, FIRST_PRICE, PERSON_WORDS, SOURCES, isBot, makeDay, postalOf, publishMeasures, type MarketDay, type Opportunities, type World } from '../market/index.js'
import { HOURS_PER_DAY, MINUTES_PER_WEEK, ZONES, dayOfHour, localDayOf, offsetMinutes, startOfLocalDay, weekdayOf, zoneIndex } from '../time/index.js'
import { STREAM, draw } from '../random/index.js'
import { clearingPrice, effectiveBid, multiplied } from '../pricing/index.js'
import { adAppeal, isClicked, isViewable } from '../response/index.js'
import { allocate, book, type LineAccount, type Purse } from './allocation.js'
import { ExposureBook } from './exposures.js'
import { crc32, openLog, packLog, type WinRow } from './log.js'
import { Matcher } from './matching.js'
import { OUTCOME, OUTCOMES } from './outcomes.js'
import { Pacer, dayLimit } from './pacing.js'
import { rollUpHour, rollUpPlacements, type HourTotal, type PlacementTotal } from './rollups.js'
import type { CampaignRules, LineRules, PublicationRules } from './rules.js'

/** What a line or campaign has spent: today on its own calendar, and in all. */
export interface Spent {
  today: number
  total: number
}

/** All state at the start of a market hour: the log of the last 30 days and a small row a line. */
export interface OpeningState {
  hour: number
  balanceMicros: number
  lines: ReadonlyMap<number, Spent & { supply: number }>
  campaigns: ReadonlyMap<number, Spent>
  exposures: ExposureBook
}

/** Everything one market hour brought; committed in one transaction. */
export interface HourFacts {
  hour: number
  publication: number
  opportunities: number
  log: Uint8Array
  wins: number
  crc: number
  hourTotals: HourTotal[]
  placementTotals: PlacementTotal[]
  /** Counts by line and position in `OUTCOMES`; they add up to matched. */
  outcomes: { line: number; counts: number[] }[]
  spendMicros: number
  /** The pacing estimate of each line, to be stored beside it. */
  supplies: { line: number; supply: number }[]
}

interface RunningLine {
  rules: LineRules
  account: LineAccount
  zone: number
  localDay: number
  bid: number
  /** Bid by the zone of the viewer, in this hour; 0 is off. */
  bids: Int32Array
  adsByShape: { ad: number; weight: number }[][]
  weightByShape: number[]
  counts: number[]
}

interface RunningCampaign {
  rules: CampaignRules
  zone: number
  localDay: number
  purse: Purse
}

/**
 * Runs a publication's lines through the market, hour after hour, in the order of the market. It keeps the state
 * between hours; after a failed commit it must be made anew from stored facts.
 */
export class Exchange {
  private readonly lines: RunningLine[]
  private readonly campaigns: Map<number, RunningCampaign>
  private readonly matcher: Matcher
  private readonly open: Int32Array
  private readonly appeal = new Map<number, number>()
  private dayRows: { day: number; rows: Opportunities; hourStart: Uint32Array } | null = null
  private balance: number
  private readonly exposures: ExposureBook
  private candidates: RunningLine[] = []
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
    this.campaigns = new Map(publication.campaigns.map((rules) => {
      const spent = opening.campaigns.get(rules.campaign) ?? { today: 0, total: 0 }
      const zone = zoneIndex(rules.zone)
      const purse = { dailyMicros: rules.dailyMicros, totalMicros: rules.totalMicros, spentToday: spent.today, spentTotal: spent.total }
      return [rules.campaign, { rules, zone, purse, localDay: localDayOf(zone, opening.hour) }]
    }))
    this.lines = publication.lines.map((rules) => this.runningLine(rules, opening))
    this.matcher = new Matcher(publication.lines.map((rules) => rules.targeting), { inventory: world.inventory, profiles: world.profiles, measures: publishMeasures(world.seed, world.inventory) })
    this.open = new Int32Array(this.matcher.words)
  }

  private runningLine(rules: LineRules, opening: OpeningState): RunningLine {
    const spent = opening.lines.get(rules.line) ?? { today: 0, total: 0, supply: 0 }
    const zone = zoneIndex(rules.zone)
    const adsByShape = SHAPES.map((_, shape) => rules.ads.filter((ad) => ad.shape === shape && ad.weight > 0))
    const account: LineAccount = {
      line: rules.line, pacing: rules.pacing, caps: rules.caps, gapMinutes: rules.gapMinutes ?? 0, pacer: new Pacer(spent.supply),
      plan: { limitMicros: 0, openFrom: 0, openTo: 1440 },
      campaign: this.campaigns.get(rules.campaign)?.purse ?? null,
      purse: { dailyMicros: rules.dailyMicros, totalMicros: rules.totalMicros, spentToday: spent.today, spentTotal: spent.total }
    }
    return {
      rules, account, zone, adsByShape, localDay: localDayOf(zone, opening.hour), bid: effectiveBid(rules.price), bids: new Int32Array(ZONES.length),
      weightByShape: adsByShape.map((ads) => ads.reduce((sum, ad) => sum + ad.weight, 0)),
      counts: new Array<number>(OUTCOMES.length).fill(0)
    }
  }

  private isOpen({ rules }: RunningLine, hour: number): boolean {
    const campaign = this.campaigns.get(rules.campaign)?.rules
    const within = (of: { startHour: number; endHour: number | null }) => hour >= of.startHour && (of.endHour === null || hour < of.endHour)
    return within(rules) && (campaign === undefined || within(campaign))
  }

  /**
   * Makes the line's plan for the local day that `hour` lies in. Made anew every hour from spending alone, so that
   * a run that was interrupted plans exactly as one that was not.
   */
  private planDay(line: RunningLine, hour: number): void {
    const { rules, account, zone } = line
    const dayStart = startOfLocalDay(zone, line.localDay)
    const dayEnd = startOfLocalDay(zone, line.localDay + 1)
    const from = Math.max(dayStart, rules.startHour, rules.liveFromHour)
    const to = Math.min(dayEnd, rules.endHour ?? dayEnd)
    const { purse } = account
    const left = (of: Purse) => (of.totalMicros === null ? null : of.totalMicros - (of.spentTotal - of.spentToday))
    const minutes = Math.max(0, to - from) * 60
    const limit = dayLimit(rules.dailyMicros, left(purse), rules.pacing, minutes, rules.endHour === null ? null : (rules.endHour - from) * 60)
    account.plan = { limitMicros: Math.min(limit, this.campaignShare(line, hour, left)), openFrom: (from - dayStart) * 60, openTo: (to - dayStart) * 60, curve: planCurve(line) }
    account.pacer.restart()
  }

  /** The part of the campaign's day that this line may plan with. */
  private campaignShare(line: RunningLine, hour: number, left: (of: Purse) => number | null): number {
    const campaign = this.campaigns.get(line.rules.campaign)
    if (!campaign) return Infinity
    const { rules, purse, zone } = campaign
    const dayStart = startOfLocalDay(zone, localDayOf(zone, hour))
    const dayEnd = startOfLocalDay(zone, localDayOf(zone, hour) + 1)
    const from = Math.max(dayStart, rules.startHour)
    const minutes = Math.max(0, Math.min(dayEnd, rules.endHour ?? Infinity) - from) * 60
    const limit = dayLimit(rules.dailyMicros, left(purse), line.rules.pacing, minutes, rules.endHour === null ? null : (rules.endHour - from) * 60)
    const mates = this.lines.filter((mate) => mate.rules.campaign === rules.campaign && mate.rules.startHour < dayEnd && (mate.rules.endHour ?? Infinity) > dayStart)
    const sum = mates.reduce((demand, mate) => demand + mate.rules.demandMicros, 0)
    if (mates.length < 2) return limit
    return limit * (sum > 0 ? line.rules.demandMicros / sum : 1 / mates.length)
  }

  private beginHour(hour: number): void {
    this.open.fill(0)
    for (const campaign of this.campaigns.values()) {
      const day = localDayOf(campaign.zone, hour)
      if (day !== campaign.localDay) {
        campaign.localDay = day
        campaign.purse.spentToday = 0
      }
    }
    this.lines.forEach((line, l) => {
      line.counts.fill(0)
      if (this.isOpen(line, hour)) this.open[l >> 5] |= 1 << (l & 31)
      const day = localDayOf(line.zone, hour)
      if (day !== line.localDay) {
        line.localDay = day
        line.account.purse.spentToday = 0
      }
    })
    for (const line of this.lines) {
      this.planDay(line, hour)
      setBids(line, hour)
    }
  }

  /**
   * Buys one market hour.
   * @param cancelled asked now and then; when true the hour is given up and null returned, and this object is spent
   */
  runHour(cancelled: () => boolean = () => false): HourFacts | null {
    const { hour, matcher } = this
    this.beginHour(hour)
    const day = dayOfHour(hour)
    if (this.dayRows?.day !== day) this.dayRows = { day, ...this.dayOf(this.world, day) }
    const { rows, hourStart } = this.dayRows
    const from = hourStart[hour % HOURS_PER_DAY]
    const to = hourStart[(hour % HOURS_PER_DAY) + 1]
    const wins: WinRow[] = []
    for (let i = from; i < to; i++) {
      if ((i & 0x3fff) === 0 && cancelled()) return null
      let n = 0
      const matching = matcher.match(this.world.persons, rows, i)
      for (let w = 0; w < matcher.words; w++) {
        let bits = this.open[w] & matching[w]
        while (bits !== 0) {
          const line = this.lines[w * 32 + 31 - Math.clz32(bits & -bits)]
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
    const { shape } = this.world.inventory.placements[Math.floor(path / SOURCES.length)]
    const bid = this.bidFor(line, rows, i)
    // An hour that is off for this viewer is no match at all.
    if (bid === OFF) return n
    if (line.weightByShape[shape] === 0) line.counts[OUTCOME.no_ad]++
    else if (bid < this.world.inventory.floors[path]) line.counts[OUTCOME.below_floor]++
    else if (bid <= rows.rival[i]) line.counts[OUTCOME.outbid]++
    else {
      this.candidates[n] = line
      return n + 1
    }
    return n
  }

  private bidFor(line: RunningLine, rows: Opportunities, i: number): number {
    return line.rules.hours ? line.bids[POSTAL_ZONE[postalOf(this.world.persons.words[rows.person[i] * PERSON_WORDS])]] : line.bid
  }

  /** Dearest own bid first; ties by a hash of key and line, so that no line is favoured for its number. */
  private award(n: number, rows: Opportunities, i: number, wins: WinRow[]): void {
    const key = rows.key[i]
    const { candidates } = this
    candidates.length = n
    if (n > 1) candidates.sort((a, b) => this.bidFor(b, rows, i) - this.bidFor(a, rows, i) || draw(key ^ a.rules.line, STREAM.order) - draw(key ^ b.rules.line, STREAM.order))
    for (let c = 0; c < n; c++) {
      const line = candidates[c]
      const path = rows.path[i]
      const first = FIRST_PRICE[path % SOURCES.length] === 1
      const price = clearingPrice(first ? 'first price' : 'second price', this.bidFor(line, rows, i), this.world.inventory.floors[path], rows.rival[i])
      const dayStart = startMinute(line)
      const minute = dayOfHour(this.hour) * 1440 + rows.minute[i]
      const outcome = this.balance < price ? OUTCOME.no_money
        : allocate(line.account, this.exposures, rows.person[i], minute, minute - dayStart, key, price)
      line.counts[outcome]++
      if (outcome !== OUTCOME.won) continue
      wins.push(this.buy(line, rows, i, minute, price))
      for (let rest = c + 1; rest < n; rest++) candidates[rest].counts[OUTCOME.own_line]++
      return
    }
  }

  private buy(line: RunningLine, rows: Opportunities, i: number, minute: number, price: number): WinRow {
    const key = rows.key[i]
    const person = rows.person[i]
    const path = rows.path[i]
    const placement = this.world.inventory.placements[Math.floor(path / SOURCES.length)]
    const postal = postalOf(this.world.persons.words[person * PERSON_WORDS])
    const type = DEVICE_TYPE[rows.device[i]]
    const seen = this.exposures.count(line.rules.line, person, minute)
    const ad = this.pickAd(line, placement.shape, key)
    const viewable = isViewable(key, line.rules.line, placement)
    const clicked = viewable && isClicked(key, line.rules.line, placement, type, POSTAL_COUNTRY[postal], isBot(rows.state[i]), seen, this.appealOf(ad))
    this.balance -= price
    book(line.account, this.exposures, person, minute, price)
    return {
      person, ad, price, viewable, clicked, line: line.rules.line, placement: placement.index, source: path % SOURCES.length,
      region: POSTAL_REGION[postal], device: type, minute: rows.minute[i] % 60
    }
  }

  private pickAd(line: RunningLine, shape: number, key: number): number {
    let at = draw(key ^ line.rules.line, STREAM.ad) % line.weightByShape[shape]
    for (const { ad, weight } of line.adsByShape[shape]) {
      if (at < weight) return ad
      at -= weight
    }
    throw new Error('An ad was asked for where none fits.')
  }

  private appealOf(ad: number): number {
    let appeal = this.appeal.get(ad)
    if (appeal === undefined) this.appeal.set(ad, (appeal = adAppeal(this.world.seed, ad)))
    return appeal
  }

  private facts(hour: number, opportunities: number, wins: readonly WinRow[]): HourFacts {
    const log = packLog(wins)
    const crc = crc32(log)
    const columns = openLog(log, wins.length, crc)
    for (const { account } of this.lines) account.pacer.learn()
    this.hour = hour + 1
    return {
      hour, opportunities, log, crc, publication: this.publication.publication, wins: wins.length,
      hourTotals: rollUpHour(columns), placementTotals: rollUpPlacements(columns),
      outcomes: this.lines.filter((line) => line.counts.some((n) => n > 0)).map((line) => ({ line: line.rules.line, counts: [...line.counts] })),
      spendMicros: wins.reduce((sum, win) => sum + win.price, 0),
      supplies: this.lines.map((line) => ({ line: line.rules.line, supply: line.account.pacer.supply }))
    }
  }
}

/** Market minute at which the line's local day began. */
function startMinute(line: RunningLine): number {
  return startOfLocalDay(line.zone, line.localDay) * 60
}

/** Bid of an hour that is off. */
const OFF = -1

/** Bids of an hour for viewers of each zone; by the line's own clock they are all alike. */
function setBids({ rules, zone, bid, bids }: RunningLine, hour: number): void {
  if (!rules.hours) return
  for (let viewer = 0; viewer < ZONES.length; viewer++) {
    const offset = offsetMinutes(rules.hours.clock === 'viewer' ? viewer : zone, hour)
    const ofWeek = (weekdayOf(dayOfHour(hour)) * 1440 + (hour % HOURS_PER_DAY) * 60 + offset + 2 * MINUTES_PER_WEEK) % MINUTES_PER_WEEK
    const perMille = rules.hours.perMille[Math.floor(ofWeek / 60)]
    bids[viewer] = perMille === 0 ? OFF : multiplied(bid, perMille)
  }
}

/** How the plan of a local day rises where not every minute counts alike: hours that are off, or pacing by traffic. */
function planCurve({ rules, localDay }: RunningLine): Float64Array | null {
  const { hours, traffic, pacing } = rules
  const weekday = weekdayOf(localDay)
  const weight = (hour: number) => (pacing === 'traffic' && traffic ? traffic[weekday * 24 + hour] : hours && hours.clock === 'line' && hours.perMille[weekday * 24 + hour] === 0 ? 0 : 1)
  const weights = Array.from({ length: 24 }, (_, hour) => weight(hour))
  const sum = weights.reduce((total, of) => total + of, 0)
  if (sum === 0 || weights.every((of) => of === weights[0])) return null
  const curve = new Float64Array(25)
  weights.forEach((of, hour) => (curve[hour + 1] = curve[hour] + of / sum))
  return curve
}
