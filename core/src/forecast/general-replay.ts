import { stoppedBy, type Cap } from '../exchange/index.js'
import { DEVICE_TYPE, MOST_A_DAY, PERSON_WORDS, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { conversionChance, viewsAt, type EventRates } from '../response/index.js'
import { GROUPS, TAPE_DAYS } from '../tape/index.js'
import { CappedAds } from './capped-ads.js'
import { ExposureList } from './exposure-list.js'
import {
  baseAt,
  bidsOf,
  chargesOf,
  isOneBase,
  isPlain,
  mostBase,
  plainBid,
  type BidOn,
  type ChargeFor,
  type Play,
  type ReplayOptions
} from './play.js'
import type { Matched } from './matched.js'
import { CancelledError, LOOK_EVERY, ratesOf } from './question.js'
import { PASS_MINUTES, type Timeline } from './timeline.js'
import { FREQUENCY_BINS, NOTHING_WON, noTotals, type Replay } from './totals.js'

/** Most rows of one person in a replay: two passes over fourteen days of the busiest. */
const MOST_ENTRIES = 2 * TAPE_DAYS * MOST_A_DAY
/** Most exposures that a person can bring along from before the replay. */
const MOST_BEFORE = 4096

/** One person's rows that the bid could win, in the order in which they are played: minute of the replay, and match. */
const entryMinute = new Int32Array(MOST_ENTRIES)
const entryMatch = new Uint32Array(MOST_ENTRIES)

const exposures = new ExposureList(MOST_ENTRIES + MOST_BEFORE)
const NOBODY: readonly number[] = []
const NO_EXPECTATIONS = { visits: new Uint32Array(0), group: new Uint8Array(0) }

/** Sorts one person's entries by minute; equal minutes keep the order of the tape. */
function sortEntries(n: number): void {
  for (let i = 1; i < n; i++) {
    const minute = entryMinute[i]
    const match = entryMatch[i]
    let j = i
    for (; j > 0 && entryMinute[j - 1] > minute; j--) {
      entryMinute[j] = entryMinute[j - 1]
      entryMatch[j] = entryMatch[j - 1]
    }
    entryMinute[j] = minute
    entryMatch[j] = match
  }
}

/**
 * Replays the rows that a bid wins, person by person in order of time, with rolling caps and no budget: for any line. This is the
 * reference; compiled loops do the same for plain lines, and tests hold the two together.
 * @throws CancelledError
 */
export function generalReplay(play: Play, timeline: Timeline, options: ReplayOptions, cancelled: () => boolean): Replay {
  const run = new GeneralRun(play, timeline, options)
  const { people } = play.matched
  const { every = 1 } = options
  for (let p = 0; p < people.length; p++) {
    if (p % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    if (people[p] % every === 0) run.person(p)
  }
  return run.result()
}

class GeneralRun {
  /** Caps that all exposures count in. */
  private readonly caps: readonly Cap[]
  /** Which ad a person is shown, where some have caps of their own. */
  private readonly cappedAds: CappedAds | null
  private readonly rates: EventRates
  private readonly discount: number
  private readonly isCapped: boolean
  private readonly inOrder: boolean
  /** Whether one bid holds for every row, repeat and day; then `bid` is that, and otherwise no row is won by more. */
  private readonly plain: boolean
  private readonly most: number
  private readonly bidOn: BidOn
  private readonly chargeFor: ChargeFor
  private readonly bid: number
  private readonly slots: number
  private readonly slotSpend: Float64Array
  private readonly slotWins: Float64Array
  private readonly byGroup
  private readonly frequency = new Array<number>(FREQUENCY_BINS).fill(0)
  private readonly won = { rows: [] as number[], minutes: [] as number[], charges: [] as number[], persons: [] as number[] }
  private squares = 0
  private aimed = 0
  /** The arrays of the match, read once: those of a kernel are made when they are asked for. */
  private readonly rows: Pick<Matched, 'starts' | 'need' | 'rows' | 'minute' | 'visits' | 'group'>

  constructor(
    private readonly play: Play,
    private readonly timeline: Timeline,
    private readonly options: ReplayOptions
  ) {
    const { question, matched } = play
    this.rates = ratesOf(question)
    this.cappedAds =
      matched.ads && matched.ads.choice.caps.length > 0
        ? new CappedAds(matched.ads, matched, question.caps, MOST_ENTRIES + MOST_BEFORE)
        : null
    this.caps = this.cappedAds ? question.campaignCaps : [...question.caps, ...question.campaignCaps]
    this.discount = question.price.repeatDiscount ?? 0
    this.isCapped = this.caps.length > 0 || question.gapMinutes > 0
    this.inOrder = this.isCapped || this.cappedAds !== null || this.discount > 0
    this.plain = isPlain(matched) && this.discount === 0 && isOneBase(play)
    this.most = mostBase(play)
    this.bidOn = bidsOf(matched)
    this.chargeFor = chargesOf(play)
    this.bid = plainBid(matched, this.most)
    this.slots = timeline.days * 24
    const groups = options.full ? GROUPS : 1
    this.slotSpend = new Float64Array(groups * this.slots)
    this.slotWins = new Float64Array(groups * this.slots)
    this.byGroup = noTotals(options.full)
    const { starts, need, rows, minute } = matched
    const { visits, group } = options.full ? matched : NO_EXPECTATIONS
    this.rows = { starts, need, rows, minute, visits, group }
  }

  person(p: number): void {
    const n = this.gather(p)
    if (n > 0) this.take(this.play.matched.people[p], n)
  }

  /** Finds the rows of a person that could be won, in order of time where that matters; returns how many. */
  private gather(p: number): number {
    const { plain, most, bid, bidOn } = this
    // Who is shown another ad for being capped may bid more.
    const keepsAll = this.cappedAds?.bids === true
    const { need, minute: tapeMinute, starts } = this.rows
    const { time, repeats, firstMinute, span } = this.timeline
    let n = 0
    let last = -1
    let isSorted = true
    for (let pass = 0; pass < repeats; pass++) {
      for (let match = starts[p]; match < starts[p + 1]; match++) {
        // What could never win is left out before anything is sorted; a discount only lowers bids.
        if (!keepsAll && need[match] > (plain ? bid : bidOn(match, most, 0))) continue
        const slot = time[tapeMinute[match]]
        const minute = slot + pass * PASS_MINUTES
        if (slot < 0 || minute < firstMinute || minute >= span) continue
        entryMinute[n] = minute
        entryMatch[n++] = match
        if (minute < last) isSorted = false
        last = minute
      }
    }
    if (this.inOrder && !isSorted) sortEntries(n)
    return n
  }

  /** Wins what caps and bids allow of a person's first `n` entries. */
  private take(person: number, n: number): void {
    const { rates, play, caps, cappedAds, discount, isCapped, plain, slotSpend, slotWins, bidOn, chargeFor } = this
    const { question, market, tape, chances } = play
    const { full, keep = false, before } = this.options
    const { time, clock, weekday } = this.timeline
    const { need, rows, minute: tapeMinute, visits: visitsOf, group: benchmarkGroup } = this.rows
    const { benchmarks } = market
    const viewsOf = viewsAt(benchmarks, question.viewPoint)
    const { device } = tape.rows
    const country = full ? POSTAL_COUNTRY[postalOf(tape.words[person * PERSON_WORDS])] : 0
    const { gapMinutes, dataMicros } = question
    const group = full ? tape.group[person] : 0
    const firstSlot = group * this.slots
    exposures.start(before?.get(person) ?? NOBODY)
    cappedAds?.start(before?.get(person) ?? NOBODY)
    let wins = 0
    let squares = 0
    let spend = 0
    let cleared = 0
    let views = 0
    let visits = 0
    let conversions = 0
    for (let e = 0; e < n; e++) {
      const minute = entryMinute[e]
      if (isCapped && stoppedBy(exposures, minute, caps, gapMinutes)) continue
      const match = entryMatch[e]
      if (cappedAds && !cappedAds.draw(match, minute, tape.rows.key[rows[match]])) continue
      const own = cappedAds?.chain
      const seen = discount > 0 ? exposures.remembered(minute) : 0
      const local = clock === time ? minute : clock[tapeMinute[match]]
      const base = plain ? play.base : baseAt(play, match, local, weekday)
      const bid = plain ? this.bid : bidOn(match, base, seen, own)
      if (bid < need[match]) continue
      exposures.add(minute)
      cappedAds?.shown(minute)
      if (chances) this.aimed += chances[match]
      const charge = chargeFor(match, bid, base, seen, own)
      const paid = charge + dataMicros
      const slot = firstSlot + Math.floor(local / 60)
      slotSpend[slot] += paid
      slotWins[slot]++
      wins++
      spend += paid
      cleared += charge
      squares += paid * paid
      if (full) {
        const visit = visitsOf[match]
        views += viewsOf[benchmarkGroup[match]]
        visits += visit
        const type = DEVICE_TYPE[device[rows[match]]]
        conversions += conversionChance(benchmarks, rates, visit, benchmarkGroup[match], type, country)
      }
      if (keep) {
        this.won.rows.push(rows[match])
        this.won.minutes.push(local)
        this.won.charges.push(paid)
        this.won.persons.push(person)
      }
    }
    if (wins === 0) return
    const { byGroup } = this
    this.squares += squares
    byGroup.wins[group] += wins
    byGroup.reach[group]++
    byGroup.spend[group] += spend
    byGroup.clearing[group] += cleared
    byGroup.views[group] += views
    byGroup.visits[group] += visits
    byGroup.conversions[group] += conversions
    this.frequency[Math.min(wins, FREQUENCY_BINS) - 1]++
  }

  result(): Replay {
    const { byGroup, won } = this
    for (const rate of ['views', 'visits', 'conversions'] as const) for (let g = 0; g < byGroup[rate].length; g++) byGroup[rate][g] /= 1e6
    const sum = (totals: Float64Array) => totals.reduce((all, one) => all + one, 0)
    return {
      wins: sum(byGroup.wins),
      reach: sum(byGroup.reach),
      frequency: this.frequency,
      slotSpend: this.slotSpend,
      slotWins: this.slotWins,
      slots: this.slots,
      byGroup,
      squares: this.squares,
      aimed: this.aimed,
      won: this.options.keep
        ? {
            rows: Uint32Array.from(won.rows),
            minutes: Int32Array.from(won.minutes),
            charges: Float64Array.from(won.charges),
            persons: Uint32Array.from(won.persons)
          }
        : NOTHING_WON
    }
  }
}
