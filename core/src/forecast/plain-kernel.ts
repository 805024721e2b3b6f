import type { Cap } from '../exchange/index.js'
import { MOST_A_DAY } from '../market/index.js'
import type { Benchmarks } from '../response/index.js'
import { GROUPS, TAPE_DAYS, type Tape } from '../tape/index.js'
import { BID_ITSELF, type Matched } from './matched.js'
import type { GroupTotals } from './replay.js'
import { PASS_MINUTES, type Timeline } from './timeline.js'

/**
 * Replays of lines whose bid is the same for every row, which nearly all are: loops small enough for the compiler to
 * keep in registers. The general replay gives the same answers; a test holds the two together.
 */

const BINS = 10
const MOST_ENTRIES = 2 * TAPE_DAYS * MOST_A_DAY
const entryMinute = new Int32Array(MOST_ENTRIES)
const entryMatch = new Uint32Array(MOST_ENTRIES)
const times = new Int32Array(MOST_ENTRIES)
/** Hour slot by tape minute for the timeline in hand, -1 outside of it. */
const slotOf = new Int16Array(PASS_MINUTES)

/** Sums of one person, handed from the inner loops to the totals. */
const person = { spend: 0, squares: 0, views: 0, visits: 0, conversions: 0 }

export interface KernelResult {
  wins: number
  reach: number
  frequency: number[]
  slotSpend: Float64Array
  slotWins: Float64Array
  byGroup: GroupTotals
  squares: number
}

export function runPlain(
  tape: Tape,
  matched: Matched,
  benchmarks: Benchmarks,
  bid: number,
  dataMicros: number,
  timeline: Timeline,
  caps: readonly Cap[],
  gapMinutes: number,
  full: boolean
): KernelResult {
  const { time, clock, firstMinute, repeats } = timeline
  const { span } = timeline
  const slots = timeline.days * 24
  const groups = full ? GROUPS : 1
  for (let minute = 0; minute < PASS_MINUTES; minute++) slotOf[minute] = clock[minute] < 0 ? -1 : Math.floor(clock[minute] / 60)
  const totals = () => new Float64Array(groups)
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
  const frequency = new Array<number>(BINS).fill(0)
  const { people, starts } = matched
  const capTimes = Int32Array.from(caps, (cap) => cap.times)
  const capMinutes = Int32Array.from(caps, (cap) => cap.hours * 60)
  const isCapped = caps.length > 0 || gapMinutes > 0
  // Only a flight that begins inside a day or takes the tape twice needs to look at minutes when nothing is capped.
  const simple = !isCapped && repeats === 1 && firstMinute === 0
  const views = benchmarks.views
  const conversions = benchmarks.conversions
  let allWins = 0
  let allReach = 0
  let squares = 0
  for (let p = 0; p < people.length; p++) {
    const group = full ? tape.group[people[p]] : 0
    const from = starts[p]
    const to = starts[p + 1]
    let wins
    if (simple)
      wins = takeAll(
        matched.need,
        matched.pay,
        matched.minute,
        matched.visits,
        matched.group,
        from,
        to,
        bid,
        dataMicros,
        slotSpend,
        slotWins,
        group * slots,
        views,
        conversions,
        full
      )
    else {
      const n = gather(matched.need, matched.minute, time, from, to, bid, repeats, firstMinute, span, isCapped)
      wins =
        n === 0
          ? 0
          : takeFree(
              matched.pay,
              matched.minute,
              matched.visits,
              matched.group,
              n,
              bid,
              dataMicros,
              capTimes,
              capMinutes,
              gapMinutes,
              isCapped,
              slotSpend,
              slotWins,
              group * slots,
              timeline.kind === 'flight',
              views,
              conversions,
              full
            )
    }
    if (wins === 0) continue
    allWins += wins
    allReach++
    squares += person.squares
    byGroup.wins[group] += wins
    byGroup.reach[group]++
    byGroup.spend[group] += person.spend
    byGroup.clearing[group] += person.spend - wins * dataMicros
    byGroup.views[group] += person.views
    byGroup.visits[group] += person.visits
    byGroup.conversions[group] += person.conversions
    frequency[wins < BINS ? wins - 1 : BINS - 1]++
  }
  for (const rate of [byGroup.views, byGroup.visits, byGroup.conversions]) for (let g = 0; g < groups; g++) rate[g] /= 1e6
  return { wins: allWins, reach: allReach, frequency, slotSpend, slotWins, byGroup, squares }
}

/** Wins of one person when nothing limits them and every row counts once. */
function takeAll(
  need: Uint32Array,
  pay: Uint32Array,
  minute: Uint16Array,
  visits: Uint32Array,
  group: Uint8Array,
  from: number,
  to: number,
  bid: number,
  dataMicros: number,
  slotSpend: Float64Array,
  slotWins: Float64Array,
  slotAt: number,
  viewChance: Uint32Array,
  conversionChance: Uint32Array,
  full: boolean
): number {
  let wins = 0
  let spend = 0
  let squares = 0
  let views = 0
  let visited = 0
  let conversions = 0
  for (let m = from; m < to; m++) {
    if (need[m] > bid) continue
    const slot = slotOf[minute[m]]
    if (slot < 0) continue
    const price = pay[m]
    const paid = (price === BID_ITSELF ? bid : price) + dataMicros
    wins++
    spend += paid
    squares += paid * paid
    slotSpend[slotAt + slot] += paid
    slotWins[slotAt + slot]++
    if (full) {
      const visit = visits[m]
      const of = group[m]
      views += viewChance[of]
      visited += visit
      conversions += (visit * conversionChance[of]) / 1e6
    }
  }
  person.spend = spend
  person.squares = squares
  person.views = views
  person.visits = visited
  person.conversions = conversions
  return wins
}

/** Rows of one person that the bid wins, in order of the replay's time; returns how many. */
function gather(
  need: Uint32Array,
  minute: Uint16Array,
  time: Int32Array,
  from: number,
  to: number,
  bid: number,
  repeats: number,
  firstMinute: number,
  span: number,
  inOrder: boolean
): number {
  let n = 0
  for (let pass = 0; pass < repeats; pass++) {
    const more = pass * PASS_MINUTES
    for (let m = from; m < to; m++) {
      if (need[m] > bid) continue
      const at = time[minute[m]]
      const when = at + more
      if (at < 0 || when < firstMinute || when >= span) continue
      let j = n++
      if (inOrder) {
        for (; j > 0 && entryMinute[j - 1] > when; j--) {
          entryMinute[j] = entryMinute[j - 1]
          entryMatch[j] = entryMatch[j - 1]
        }
      }
      entryMinute[j] = when
      entryMatch[j] = m
    }
  }
  return n
}

/** Wins of one person among gathered rows, under caps and gap. */
function takeFree(
  pay: Uint32Array,
  minute: Uint16Array,
  visits: Uint32Array,
  group: Uint8Array,
  n: number,
  bid: number,
  dataMicros: number,
  capTimes: Int32Array,
  capMinutes: Int32Array,
  gapMinutes: number,
  isCapped: boolean,
  slotSpend: Float64Array,
  slotWins: Float64Array,
  slotAt: number,
  isFlight: boolean,
  viewChance: Uint32Array,
  conversionChance: Uint32Array,
  full: boolean
): number {
  let wins = 0
  let spend = 0
  let squares = 0
  let views = 0
  let visited = 0
  let conversions = 0
  for (let e = 0; e < n; e++) {
    const when = entryMinute[e]
    if (isCapped) {
      if (wins > 0 && when - times[wins - 1] < gapMinutes) continue
      let capped = false
      for (let c = 0; c < capTimes.length; c++) {
        const most = capTimes[c]
        if (wins >= most && when - times[wins - most] < capMinutes[c]) {
          capped = true
          break
        }
      }
      if (capped) continue
      times[wins] = when
    }
    const m = entryMatch[e]
    const price = pay[m]
    const paid = (price === BID_ITSELF ? bid : price) + dataMicros
    const slot = slotAt + (isFlight ? Math.floor(when / 60) : slotOf[minute[m]])
    wins++
    spend += paid
    squares += paid * paid
    slotSpend[slot] += paid
    slotWins[slot]++
    if (full) {
      const visit = visits[m]
      const of = group[m]
      views += viewChance[of]
      visited += visit
      conversions += (visit * conversionChance[of]) / 1e6
    }
  }
  person.spend = spend
  person.squares = squares
  person.views = views
  person.visits = visited
  person.conversions = conversions
  return wins
}
