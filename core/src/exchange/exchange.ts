import { BLOCK_ROWS, SOURCES, makeDay, type MarketDay, type Opportunities, type World } from '../market/index.js'
import { HOURS_PER_DAY, dayOfHour, localDayOf, startOfLocalDay } from '../time/index.js'
import type { Benchmarks } from '../response/index.js'
import type { Catalogue } from '../dimensions/index.js'
import { Auction } from './auction.js'
import { Bidding } from './bidding.js'
import { beginDay, isLimited } from './day-plan.js'
import { planDay, planShare } from './planning.js'
import { copyOf, nothingSoFar, shareDay, type Share, type Sharing } from './sharing.js'
import { setAds, setBids } from './preparing.js'
import { Conversions, responsesOf } from './conversions.js'
import { ExposureBook } from './exposures.js'
import { eventsOf, nextCorrection, takeHour, takePlacement, type Recent } from './learning.js'
import type { Amounts } from './limits.js'
import { WinLog, packEvents, openEvents, openLog } from './log.js'
import { crc32 } from './packing.js'
import { benchmarksOf, catalogueOf } from './market-facts.js'
import { Means, type HourMoney } from './means.js'
import { Matcher } from './matching.js'
import type { HourFacts, OpeningState } from './hour-facts.js'
import { LineTable } from './line-table.js'
import { OUTCOME } from './outcomes.js'
import { dueBy } from './pacing.js'
import { rollUp, viewPointsOf, type HourTotal, type PlacementTotal, type ViewPoints } from './rollups.js'
import type { PublicationRules } from './rules.js'
import { NOTHING_TOLD, ToldDeeds, type ToldInput } from './told.js'
import { buyablePaths, learnedEvent, runningCampaign, runningLine, type RunningCampaign, type RunningLine } from './running.js'

const { no_ad: NO_AD, below_floor: BELOW_FLOOR, outbid: OUTBID } = OUTCOME
/** Hours that an aim's correction looks back on. */
const RECENT_HOURS = 24
/** Days between two times that what no cap can see any more is forgotten. */
const FORGET_EVERY = 5

/**
 * Runs a publication's lines through the market, hour after hour, in the order of the market. It keeps the state
 * between hours; after a failed commit it must be made anew from stored facts.
 */
const sharingOf = ({ rules, calendar, localDay, account, soFar }: RunningLine): Sharing => ({
  rules,
  calendar,
  localDay,
  purse: account.purse,
  soFar
})

export class Exchange {
  private readonly lines: RunningLine[]
  /** The lines in the matcher's order. */
  private readonly inOrder: RunningLine[]
  private readonly campaigns: Map<number, RunningCampaign>
  private readonly matcher: Matcher
  private readonly table: LineTable
  private readonly open: Int32Array
  private readonly conversions: Conversions
  private readonly benchmarks: Benchmarks
  private readonly viewPoints: ViewPoints
  private readonly bidding: Bidding
  private dayRows: { day: number; rows: Opportunities; hourStart: Uint32Array } | null = null
  private readonly shapeByPath: Uint8Array
  private readonly exposures: ExposureBook
  private readonly means: Means
  private readonly auction: Auction
  /** The hour that `runHour` runs next. */
  hour: number

  /** @param dayOf makes a UTC day in market order; replaceable so that several runs can share one day's rows */
  constructor(
    private readonly world: World,
    private readonly publication: PublicationRules,
    opening: OpeningState,
    private readonly dayOf: (world: World, day: number) => MarketDay = makeDay
  ) {
    this.hour = opening.hour
    this.exposures = opening.exposures
    const { inventory, profiles } = world
    const catalogue: Catalogue = catalogueOf(world)
    this.benchmarks = benchmarksOf(world)
    this.shapeByPath = Uint8Array.from(inventory.floors, (_, path) => inventory.placements[Math.floor(path / SOURCES.length)].shape)
    this.bidding = new Bidding(world, this.benchmarks)
    this.viewPoints = viewPointsOf(publication.lines)
    const responses = responsesOf(world, publication)
    this.conversions = new Conversions(world, responses, publication, opening.pending ?? [], new ToldDeeds(opening.told))
    this.campaigns = new Map(
      publication.campaigns.map((rules) => [
        rules.campaign,
        runningCampaign(rules, publication.lines, opening.hour, opening.campaigns.get(rules.campaign))
      ])
    )
    this.matcher = new Matcher(
      publication.lines.map((rules) => rules.targeting),
      { inventory, profiles, measures: catalogue.measures },
      publication.lines.map((rules) => buyablePaths(rules, inventory))
    )
    const count = publication.lines.length
    this.table = new LineTable(count, this.matcher.words)
    const places = new Int32Array(count)
    this.matcher.order.forEach((l, place) => (places[l] = place))
    this.lines = publication.lines.map((rules, l) =>
      runningLine({
        rules,
        campaign: this.campaigns.get(rules.campaign) ?? null,
        hour: opening.hour,
        opening: opening.lines.get(rules.line),
        onPlacement: opening.onPlacement?.get(rules.line),
        catalogue,
        cells: this.table.cells,
        place: places[l]
      })
    )
    this.inOrder = Array.from(this.matcher.order, (l) => this.lines[l])
    this.table.setLines(this.inOrder)
    this.open = new Int32Array(this.matcher.words)
    this.means = new Means(
      this.inOrder.map((line) => line.rules.line),
      publication.owners ?? [],
      opening.balanceMicros
    )
    this.auction = new Auction({
      world,
      responses,
      apart: publication.apart === true,
      lines: this.inOrder,
      table: this.table,
      bidding: this.bidding,
      exposures: this.exposures,
      conversions: this.conversions,
      shapeByPath: this.shapeByPath,
      means: this.means
    })
  }

  private isOpen({ rules, campaign }: RunningLine, hour: number): boolean {
    const within = (span: { startHour: number; endHour: number | null }) =>
      hour >= span.startHour && (span.endHour === null || hour < span.endHour)
    return within(rules) && (campaign === null || within(campaign.rules))
  }

  private beginHour(hour: number): void {
    this.open.fill(0)
    this.auction.beginHour(hour)
    if (hour % (FORGET_EVERY * HOURS_PER_DAY) === 0 && this.exposures.size > 0) this.exposures.forget(hour * 60)
    for (const campaign of this.campaigns.values()) {
      const day = localDayOf(campaign.calendar.zone, hour)
      if (day === campaign.localDay) continue
      campaign.localDay = day
      beginDay(campaign.purse, day)
      for (const line of this.lines) if (line.campaign === campaign) line.soFar = nothingSoFar(day)
    }
    this.inOrder.forEach((line, place) => {
      if (this.isOpen(line, hour)) this.open[place >> 5] |= 1 << (place & 31)
      const day = localDayOf(line.calendar.zone, hour)
      if (day === line.localDay) return
      line.localDay = day
      line.dayStart = startOfLocalDay(line.calendar.zone, day)
      beginDay(line.account.purse, day)
      line.account.onPlacement.clear()
    })
    const shares = this.shareDays(hour)
    for (const line of this.lines) {
      if (!this.isOpen(line, hour)) continue
      const share = shares.get(line)
      // Without a limit of its campaign a line plans its day once, from what was spent before it alone; a run that was interrupted
      // plans exactly as one that was not.
      if (share) line.account.plan = planShare(sharingOf(line), share, hour)
      else if (line.plannedDay !== line.localDay) line.account.plan = planDay(sharingOf(line), null, [])
      line.plannedDay = line.localDay
      line.account.pacer.restart()
      setBids(line, hour, this.world.inventory, this.conversions.sold(line.rules))
      setAds(line, this.world.seed)
    }
    this.table.beginHour()
  }

  /** Shares of the days of campaigns that have limits, from an hour on. */
  private shareDays(hour: number): Map<RunningLine, Share> {
    const shares = new Map<RunningLine, Share>()
    for (const campaign of this.campaigns.values()) {
      if (!isLimited(campaign.rules.limits)) continue
      const lines = this.lines.filter((line) => line.campaign === campaign)
      shareDay(campaign, lines.map(sharingOf), hour).forEach((share, n) => shares.set(lines[n], share))
    }
    return shares
  }

  /** Takes into each line's day what the hour brought, and what was due of it and did not come. */
  private noteDays(totals: readonly HourTotal[], hour: number): void {
    const byLine = new Map<number, Amounts>()
    for (const { line, spendMicros, wins } of totals) {
      const sum = byLine.get(line) ?? { micros: 0, impressions: 0 }
      byLine.set(line, { micros: sum.micros + spendMicros, impressions: sum.impressions + wins })
    }
    for (const line of this.lines) {
      const { account, soFar, rules } = line
      const passed = account.pacer.takePassed()
      if (!line.campaign || !isLimited(line.campaign.rules.limits) || !this.isOpen(line, hour)) continue
      const won = byLine.get(rules.line)
      const due = dueBy(account.plan, account.pacing, (hour + 1 - line.dayStart) * 60)
      for (const what of ['micros', 'impressions'] as const) {
        soFar.spent[what] += won?.[what] ?? 0
        soFar.seen[what] += passed[what]
        soFar.due[what] = due[what] === Infinity ? 0 : Math.max(0, Math.floor(due[what] - account.purse.spent.day[what]))
      }
    }
  }

  /**
   * Buys one market hour.
   * @param cancelled asked now and then; when true the hour is given up and null returned, and this object is spent
   * @param told what pages, players and servers told since the hour before
   * @param money what there is to spend; left out for what the hours before left
   */
  runHour(cancelled: () => boolean = () => false, told: ToldInput = NOTHING_TOLD, money?: HourMoney): HourFacts | null {
    const { hour, matcher, open, inOrder, bidding, table, auction } = this
    if (money) this.means.begin(money)
    this.beginHour(hour)
    const day = dayOfHour(hour)
    if (this.dayRows?.day !== day) this.dayRows = { day, ...this.dayOf(this.world, day) }
    const { rows, hourStart } = this.dayRows
    const from = hourStart[hour % HOURS_PER_DAY]
    const to = hourStart[(hour % HOURS_PER_DAY) + 1]
    const wins = new WinLog()
    const {
      persons,
      inventory: { floors }
    } = this.world
    const { cells, adless } = table
    const { words } = matcher
    let located = from
    for (let i = from; i < to; i++) {
      if (i === located) {
        if (cancelled()) return null
        matcher.locate(persons, rows, i, (located = Math.min(to, i + BLOCK_ROWS)))
      }
      const found = matcher.match(persons, rows, i)
      if (found === 0) continue
      const path = rows.path[i]
      const floor = floors[path]
      const rival = rows.rival[i]
      const shape = this.shapeByPath[path]
      bidding.look(rows, i)
      for (let f = 0; f < found; f++) {
        const w = matcher.foundWord[f]
        const none = adless[shape * words + w]
        for (let bits = open[w] & matcher.foundBits[f]; bits !== 0; bits &= bits - 1) {
          const lowest = bits & -bits
          const place = w * 32 + 31 - Math.clz32(lowest)
          const bid = cells.bid(place)
          // The tests that need no state; what bids apart for each row is not a number here.
          if ((none & lowest) !== 0) cells.count(place, NO_AD)
          else if (bid > rival && bid >= floor) auction.enter(place, bid)
          else if (!Number.isNaN(bid)) cells.lose(place, bid < floor ? BELOW_FLOOR : OUTBID, Math.max(floor, rival + 1), bid)
          else this.considerApart(inOrder[place])
        }
      }
      auction.close(rows, i, wins)
    }
    auction.sell(rows, wins)
    return this.finishHour(hour, to - from, wins, told)
  }

  /** Looks at a line that bids for each row apart. */
  private considerApart(line: RunningLine): void {
    const { bidding } = this
    const terms = bidding.termsOf(line)
    // An hour that is off for this viewer is no match at all.
    if (!terms) return
    const found = bidding.dearest(line, terms)
    if (!found) this.table.cells.count(line.place, NO_AD)
    else if (bidding.wins(line, found.bid)) this.auction.enterApart(line.place, found.bid, terms)
    else this.table.cells.lose(line.place, found.bid < bidding.lowest(line) ? BELOW_FLOOR : OUTBID, bidding.need(line), found.bid)
  }

  private finishHour(hour: number, opportunities: number, wins: WinLog, input: ToldInput): HourFacts {
    const log = wins.packed()
    const crc = crc32(log)
    const { rows, told } = this.conversions.land(hour, this.exposures, input)
    const events = packEvents(rows)
    const eventsCrc = crc32(events)
    const { hourTotals, placementTotals } = rollUp(
      openLog(log, wins.length, crc),
      openEvents(events, rows.length, eventsCrc),
      this.world.persons.words,
      this.benchmarks,
      this.viewPoints
    )
    this.learnFrom(hourTotals, placementTotals)
    this.noteDays(hourTotals, hour)
    this.hour = hour + 1
    return {
      hour,
      opportunities,
      log,
      crc,
      events,
      eventsCrc,
      eventCount: rows.length,
      told,
      publication: this.publication.publication,
      wins: wins.length,
      hourTotals,
      placementTotals,
      outcomes: this.countsOf((place) => this.table.cells.counts(place)),
      shorts: this.countsOf((place) => this.table.cells.short(place)),
      spendMicros: wins.spendMicros,
      lineStates: this.lines.map((line) => ({
        line: line.rules.line,
        supply: line.account.pacer.supply,
        correction: line.correction,
        soFar: copyOf(line.soFar)
      }))
    }
  }

  /** Counts of the lines that have any, in the order of the publication. */
  private countsOf(countsAt: (place: number) => Int32Array): { line: number; counts: number[] }[] {
    return this.lines.flatMap((line) => {
      const counts = countsAt(line.place)
      return counts.some((n) => n > 0) ? [{ line: line.rules.line, counts: [...counts] }] : []
    })
  }

  private learnFrom(hourTotals: readonly HourTotal[], placementTotals: readonly PlacementTotal[]): void {
    // What nobody learns from is not gathered.
    const byLine = new Map(
      this.lines
        .filter((line) => learnedEvent(line.rules) !== null || line.rules.rotation === 'learning')
        .map((line) => [line.rules.line, line])
    )
    const sums = new Map<number, Recent>()
    for (const total of hourTotals) {
      const line = byLine.get(total.line)
      if (!line) continue
      takeHour(line.facts, total, line.localHour, line.localDay)
      const sum = sums.get(total.line) ?? NOTHING_RECENT
      sums.set(total.line, {
        spend: sum.spend + total.spendMicros,
        predicted: sum.predicted + total.predicted,
        events: sum.events + (line.rules.aim ? eventsOf(total, line.rules.aim.event) : 0)
      })
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
      const lately = line.recent.reduce(
        (sum, one) => ({ spend: sum.spend + one.spend, predicted: sum.predicted + one.predicted, events: sum.events + one.events }),
        NOTHING_RECENT
      )
      const counts = this.table.cells.counts(line.place)
      const [won, held] = [counts[OUTCOME.won], counts[OUTCOME.paced_out]]
      line.correction = nextCorrection(
        line.correction,
        aim,
        lately,
        line.learned?.valueMicros ?? 0,
        won + held > 0 ? won / (won + held) : 1
      )
    }
  }
}

const NOTHING_RECENT: Recent = { spend: 0, predicted: 0, events: 0 }
