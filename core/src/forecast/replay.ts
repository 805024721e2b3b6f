import type { Cap } from '../exchange/index.js'
import { DEVICE_TYPE, MOST_A_DAY, SOURCES } from '../market/index.js'
import { visitChance } from '../response/index.js'
import { baseUnits, clearingPrice, eventCharge } from '../pricing/index.js'
import { GROUPS, TAPE_DAYS, type Tape } from '../tape/index.js'
import { kernelOf } from './kernel-memory.js'
import { runPlain } from './plain-kernel.js'
import { BID_ITSELF, KernelMatched, type Matched } from './matched.js'
import { CancelledError, LOOK_EVERY, type ForecastMarket, type ForecastQuestion } from './question.js'
import { PASS_MINUTES, type Timeline } from './timeline.js'

export const FREQUENCY_BINS = 10

/** What is replayed, at one bid. */
export interface Play {
  tape: Tape
  market: ForecastMarket
  question: ForecastQuestion
  matched: Matched
  /** Base bid in base units. */
  base: number
  /** Base bid of each day of a flight whose price has steps. */
  bases?: readonly number[]
}

/** A capped replay without budget, in sampled people: multiply by the tape's sample for the market. */
export interface Replay {
  wins: number
  reach: number
  /** People by number of exposures: entry n - 1 for n, the last for that many or more. */
  frequency: number[]
  /** Spend and wins by group x hour slot: `group * slots + slot`; of one group only where ranges are not wanted. */
  slotSpend: Float64Array
  slotWins: Float64Array
  slots: number
  byGroup: GroupTotals
  /** Sum of squared charges, for the noise of money. */
  squares: number
  /** Won rows and their minute of the replay, in person order; empty unless asked for. */
  won: { rows: Uint32Array; minutes: Int32Array; charges: Float64Array; persons: Uint32Array }
}

/** Totals by group; by one group only where ranges are not wanted. */
export interface GroupTotals {
  wins: Float64Array
  spend: Float64Array
  reach: Float64Array
  /** Price paid without the cost of data. */
  clearing: Float64Array
  views: Float64Array
  visits: Float64Array
  conversions: Float64Array
}

export const MEASURES = ['wins', 'spend', 'reach', 'clearing', 'views', 'visits', 'conversions'] as const
export type Measure = (typeof MEASURES)[number]

export function sumOf(totals: Float64Array): number {
  let sum = 0
  for (const value of totals) sum += value
  return sum
}

/** Price of a row at an effective bid, micros an impression; the deal comes first where the bid reaches it. */
export function rowPrice({ tape, market, question, matched }: Play, row: number, bid: number): number {
  const path = tape.rows.path[row]
  const floor = market.inventory.floors[path]
  const rival = tape.rows.rival[row]
  const kind = market.firstPrice[path] === 1 ? 'first price' : 'second price'
  if (question.buys.deals.length > 0) {
    const deal = matched.deals[Math.floor(path / SOURCES.length)]
    if (deal >= 0) {
      const { kind: of, price } = question.buys.deals[deal]
      if (of === 'fixed' && bid >= price) return price
      if (of === 'floor' && bid >= price && bid > rival) return clearingPrice(kind, bid, price, rival)
    }
  }
  return clearingPrice(kind, bid, floor, rival)
}

/** What is expected of an impression on a row: views, visits and conversions, in millionths. */
export interface Expected {
  views: number
  visits: number
  conversions: number
}
export function expectedOf(
  { tape, market: { benchmarks } }: Pick<Play, 'tape' | 'market'>,
  row: number,
  country: number,
  into: Expected
): void {
  const group = benchmarks.groupOf[Math.floor(tape.rows.path[row] / SOURCES.length)]
  into.views = benchmarks.views[group]
  into.visits = visitChance(benchmarks, group, DEVICE_TYPE[tape.rows.device[row]], country)
  into.conversions = (into.visits * benchmarks.conversions[group]) / 1e6
}

/** Whether a cap or gap stops a win at `minute`, after `wins` wins at `times` (ascending). Windows are half-open. */
export function cappedAt(
  times: readonly number[] | Int32Array,
  wins: number,
  minute: number,
  caps: readonly Cap[],
  gapMinutes: number
): boolean {
  if (wins > 0 && minute - times[wins - 1] < gapMinutes) return true
  for (let c = 0; c < caps.length; c++) {
    const { times: most, hours } = caps[c]
    if (wins >= most && minute - times[wins - most] < hours * 60) return true
  }
  return false
}

/** Exposures before the replay, by position of the person on the tape: minutes before it, negative, oldest first. */
export function exposuresBefore(question: ForecastQuestion, tape: Tape, startMinute: number): Map<number, number[]> {
  const { person, minute } = question.exposures
  const found = new Map<number, number[]>()
  if (person.length === 0) return found
  const positions = new Map<number, number>()
  for (let n = 0; n < tape.peopleCount; n++) positions.set(tape.numbers[n], n)
  person.forEach((number, e) => {
    const n = positions.get(number)
    if (n !== undefined && minute[e] < startMinute) found.set(n, [...(found.get(n) ?? []), minute[e] - startMinute])
  })
  for (const minutes of found.values()) minutes.sort((a, b) => a - b)
  return found
}

const LONGEST_MEMORY = 30 * 1440

/** Most rows of one person in a replay: two passes over fourteen days of the busiest. */
const MOST_ENTRIES = 2 * TAPE_DAYS * MOST_A_DAY
const entryMinute = new Int32Array(MOST_ENTRIES)
const entryRow = new Uint32Array(MOST_ENTRIES)
const times = new Int32Array(MOST_ENTRIES + 4096)

/** Sorts one person's rows by minute; equal minutes keep the order of the tape. */
function sortEntries(n: number): void {
  for (let i = 1; i < n; i++) {
    const minute = entryMinute[i]
    const row = entryRow[i]
    let j = i
    for (; j > 0 && entryMinute[j - 1] > minute; j--) {
      entryMinute[j] = entryMinute[j - 1]
      entryRow[j] = entryRow[j - 1]
    }
    entryMinute[j] = minute
    entryRow[j] = row
  }
}

const NO_EXPECTATIONS = { visits: new Uint32Array(0), group: new Uint8Array(0) }
const NOTHING_KEPT = { rows: new Uint32Array(0), minutes: new Int32Array(0), charges: new Float64Array(0), persons: new Uint32Array(0) }

export interface ReplayOptions {
  /** Whether totals by group, views, visits and conversions are wanted. */
  full: boolean
  /** Whether the rows that were won are wanted. */
  keep?: boolean
  /** Only every n-th person of the tape. */
  every?: number
  before?: ReadonlyMap<number, readonly number[]>
}

/** Replays the rows that a bid wins, person by person in order of time, with rolling caps and no budget. */
export function replay(play: Play, timeline: Timeline, options: ReplayOptions, cancelled: () => boolean): Replay {
  const { tape, market, question, matched, bases } = play
  const base = bases ? Math.max(...bases) : play.base
  const { chain, hour, chance, programme, isEvent } = matched
  const { full, keep = false, every = 1, before } = options
  const { time, clock, repeats, firstMinute } = timeline
  const { span } = timeline
  const slots = timeline.days * 24
  const groups = full ? GROUPS : 1
  const totals = (): Float64Array => new Float64Array(groups)
  const byGroup: GroupTotals = {
    wins: totals(),
    spend: totals(),
    reach: totals(),
    clearing: totals(),
    views: totals(),
    visits: totals(),
    conversions: totals()
  }
  const slotSpend = new Float64Array(groups * slots)
  const slotWins = new Float64Array(groups * slots)
  const frequency = new Array<number>(FREQUENCY_BINS).fill(0)
  const caps = question.campaignCaps.length > 0 ? [...question.caps, ...question.campaignCaps] : question.caps
  const { gapMinutes, dataMicros } = question
  const discount = question.price.repeatDiscount ?? 0
  const plain = chain === null && hour === null && chance === null && discount === 0 && !bases
  const hasDeals = question.buys.deals.length > 0
  const plainBid = programme.bid(base, 0, 1000, 0, 1_000_000, false)
  const isCapped = caps.length > 0 || gapMinutes > 0
  const inOrder = isCapped || discount > 0
  const { views: viewChance, conversions: conversionChance } = market.benchmarks
  if (plain && !hasDeals && !keep && !(before && before.size > 0) && Number.isInteger(dataMicros)) {
    const compiled = matched instanceof KernelMatched ? kernelOf(tape, market) : null
    if (compiled && matched instanceof KernelMatched) {
      if (cancelled()) throw new CancelledError()
      const early = every === 1 ? matched.kept.earlyOf(timeline, plainBid, dataMicros, caps, gapMinutes, full) : null
      if (early) return { ...early, slots, won: NOTHING_KEPT }
      return { ...compiled.replay(matched.kept, plainBid, dataMicros, timeline, caps, gapMinutes, full, every), slots, won: NOTHING_KEPT }
    }
  }
  if (plain && !hasDeals && !keep && every === 1 && !(before && before.size > 0)) {
    const kernel = runPlain(tape, matched, market.benchmarks, plainBid, dataMicros, timeline, caps, gapMinutes, full)
    if (cancelled()) throw new CancelledError()
    return { ...kernel, slots, won: NOTHING_KEPT }
  }
  const { people, starts, rows, need, pay, minute: tapeMinute } = matched
  const { visits: visitChance, group: benchmarkGroup } = full ? matched : NO_EXPECTATIONS
  const wonRows: number[] = []
  const wonMinutes: number[] = []
  const wonCharges: number[] = []
  const wonPersons: number[] = []
  let allWins = 0
  let allReach = 0
  let squares = 0

  for (let p = 0; p < people.length; p++) {
    if (p % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    const person = people[p]
    if (every > 1 && person % every !== 0) continue
    const from = starts[p]
    const to = starts[p + 1]
    let n = 0
    let last = -1
    let sorted = true
    for (let pass = 0; pass < repeats; pass++) {
      for (let m = from; m < to; m++) {
        // What could never win is left out before anything is sorted; a discount only lowers bids.
        if (
          plain
            ? need[m] > plainBid
            : need[m] > programme.bid(base, chain ? chain[m] : 0, hour ? hour[m] : 1000, 0, chance ? chance[m] : 0, isEvent)
        )
          continue
        const at = time[tapeMinute[m]]
        const minute = at + pass * PASS_MINUTES
        if (at < 0 || minute < firstMinute || minute >= span) continue
        entryMinute[n] = minute
        entryRow[n++] = m
        if (minute < last) sorted = false
        last = minute
      }
    }
    if (n === 0) continue
    if (inOrder && !sorted) sortEntries(n)
    const group = full ? tape.group[person] : 0
    const slotAt = group * slots
    let seen = 0
    if (before && before.size > 0) for (const minute of before.get(person) ?? []) times[seen++] = minute
    const known = seen
    let spend = 0
    let cleared = 0
    let views = 0
    let visits = 0
    let conversions = 0
    for (let e = 0; e < n; e++) {
      const minute = entryMinute[e]
      if (isCapped && cappedAt(times, seen, minute, caps, gapMinutes)) continue
      const m = entryRow[e]
      const row = rows[m]
      let bid = plainBid
      let repeated = 0
      if (!plain) {
        if (discount > 0) for (let t = seen - 1; t >= 0 && times[t] > minute - LONGEST_MEMORY; t--) repeated++
        bid = programme.bid(
          bases ? bases[Math.floor(minute / 1440)] : base,
          chain ? chain[m] : 0,
          hour ? hour[m] : 1000,
          repeated,
          chance ? chance[m] : 0,
          isEvent
        )
        if (bid < need[m]) continue
      }
      times[seen++] = minute
      const clearing = hasDeals ? rowPrice(play, row, bid) : pay[m] === BID_ITSELF ? bid : pay[m]
      const charge =
        isEvent && chance
          ? (chance[m] / 1e6) *
            eventCharge(
              programme.eventBid(bases ? bases[Math.floor(minute / 1440)] : base, chain ? chain[m] : 0, hour ? hour[m] : 1000, repeated),
              clearing,
              chance[m]
            )
          : clearing
      const paid = charge + dataMicros
      const local = clock === time ? minute : clock[tapeMinute[m]]
      const slot = slotAt + Math.floor(local / 60)
      slotSpend[slot] += paid
      slotWins[slot]++
      spend += paid
      cleared += charge
      squares += paid * paid
      if (full) {
        const of = benchmarkGroup[m]
        const visit = visitChance[m]
        views += viewChance[of]
        visits += visit
        conversions += (visit * conversionChance[of]) / 1e6
      }
      if (keep) {
        wonRows.push(row)
        wonMinutes.push(local)
        wonCharges.push(paid)
        wonPersons.push(person)
      }
    }
    const wins = seen - known
    if (wins > 0) {
      allWins += wins
      allReach++
      byGroup.wins[group] += wins
      byGroup.reach[group]++
      byGroup.spend[group] += spend
      byGroup.clearing[group] += cleared
      byGroup.views[group] += views
      byGroup.visits[group] += visits
      byGroup.conversions[group] += conversions
      frequency[Math.min(wins, FREQUENCY_BINS) - 1]++
    }
  }
  for (const rate of ['views', 'visits', 'conversions'] as const) for (let g = 0; g < groups; g++) byGroup[rate][g] /= 1e6
  return {
    wins: allWins,
    reach: allReach,
    frequency,
    slotSpend,
    slotWins,
    slots,
    byGroup,
    squares,
    won: {
      rows: Uint32Array.from(wonRows),
      minutes: Int32Array.from(wonMinutes),
      charges: Float64Array.from(wonCharges),
      persons: Uint32Array.from(wonPersons)
    }
  }
}

/** Base units of the bid that a question's line has at the moment it asks about. */
export function baseOf(question: ForecastQuestion, micros = question.price.bidMicros): number {
  return baseUnits(question.price.model, micros)
}

/** Sums over groups of a slot array. */
export function overGroups(values: Float64Array, slots: number): Float64Array {
  if (values.length === slots) return values
  const sums = new Float64Array(slots)
  for (let i = 0; i < values.length; i++) sums[i % slots] += values[i]
  return sums
}
