import { SOURCES } from '../market/index.js'
import { CPM_STEP } from '../money/index.js'
import { TAPE_DAYS } from '../tape/index.js'
import { calendarOf, limitsFor } from './period.js'
import type { Workings } from './workings.js'
import { underPrice } from './kernel-matched.js'
import { NEVER, type Matched } from './matched.js'
import { moneyStep } from './money.js'
import type { Play } from './play.js'
import { replay } from './replay.js'
import { sumOf } from './totals.js'

/** One bid of the ladder: a day of seven, of the market; reach is of seven days. */
export interface Rung {
  /** As typed: micros a thousand, or an event. */
  bidMicros: number
  /** What the bid could win, with caps and without budgets. */
  wins: number
  spendMicros: number
  reach: number
  /** What this budget wins and spends at it. */
  budgetWins: number
  budgetSpendMicros: number
}

/** Base bids at which something happens, as typed; null where the base bid has no say. */
export interface Marks {
  lowestFloor: number | null
  /** Floor that covers 95 % of matched. */
  mostFloors: number | null
  /** One, five and nine in ten of the matched rows that the base bid decides. */
  enters: number | null
  half: number | null
  nineInTen: number | null
}

export interface Ladder {
  rungs: Rung[]
  /** Position of the line's own bid among the rungs. */
  current: number
  marks: Marks
  /** Rows whose price is their own, in the market a day: no mark is about them. */
  ownPricedADay: number
  /** One person in this many was replayed. */
  every: number
}

const RUNGS = 16
/** Eligible rows above which only every n-th person is replayed. */
const MOST_ROWS = 100_000
/** "Enters": the bid that wins one matched row in ten. */
const ENTERS = 0.1
const COUNTED = 1 << 17

/** Quantiles of base bids, the least value that covers each share: counted where small, sorted where not. */
export function quantiles(values: Uint32Array, shares: readonly number[]): (number | null)[] {
  const counts = new Uint32Array(COUNTED)
  const large: number[] = []
  let total = 0
  for (const value of values) {
    if (value === NEVER) continue
    total++
    if (value < COUNTED) counts[value]++
    else large.push(value)
  }
  if (total === 0) return shares.map(() => null)
  large.sort((a, b) => a - b)
  return shares.map((share) => {
    const rank = Math.max(1, Math.ceil(share * total))
    let before = 0
    for (let value = 0; value < COUNTED; value++) {
      before += counts[value]
      if (before >= rank) return value
    }
    return large[rank - before - 1]
  })
}

function floorBases(matched: Matched, { tape, market, question }: Play): Uint32Array {
  const { rows, chain, hour, chance, programme, isEvent, deals } = matched
  const { path } = tape.rows
  const hasDeals = question.buys.deals.length > 0
  return Uint32Array.from(rows, (row, m) => {
    const deal = hasDeals ? deals[Math.floor(path[row] / SOURCES.length)] : -1
    const open = market.inventory.floors[path[row]]
    const floor = deal >= 0 ? Math.min(question.buys.open ? open : Infinity, question.buys.deals[deal].price) : open
    const least = programme.leastBase(floor, chain ? chain[m] : 0, hour ? hour[m] : 1000, chance ? chance[m] : 0, isEvent)
    return least < NEVER ? least : NEVER
  })
}

function marksOf({ matched, play, question }: Workings): Marks {
  const typed = (base: number | null) => (base === null ? null : question.price.model === 'CPM' ? base * 1000 : base)
  const [lowestFloor, mostFloors] = quantiles(floorBases(matched, play), [0, 0.95])
  const [enters, half, nineInTen] = quantiles(matched.base, [ENTERS, 0.5, 0.9])
  return {
    lowestFloor: typed(lowestFloor),
    mostFloors: typed(mostFloors),
    enters: typed(enters),
    half: typed(half),
    nineInTen: typed(nineInTen)
  }
}

/** Bids in geometric steps from half the lowest mark to the larger of twice the bid and 1.2 times nine in ten, and the current one. */
function rungBids(marks: Marks, bidMicros: number, step: number): number[] {
  const known = Object.values(marks).filter((mark): mark is number => mark !== null && mark > 0)
  const low = Math.max(step, (known.length > 0 ? Math.min(...known) : Math.max(step, bidMicros)) / 2)
  const high = Math.max(2 * bidMicros, 1.2 * (marks.nineInTen ?? 0), low * 2)
  const bids = Array.from({ length: RUNGS }, (_, n) => Math.max(step, Math.round((low * (high / low) ** (n / (RUNGS - 1))) / step) * step))
  return [...new Set([...bids, ...(bidMicros > 0 ? [bidMicros] : [])])].sort((a, b) => a - b)
}

export function ladder(work: Workings, cancelled: () => boolean): Ladder {
  const { question, tape, matched, weeks, standing, whole, wholeReplays } = work
  const { model } = question.price
  const step = model === 'CPM' ? CPM_STEP : 1
  const marks = marksOf(work)
  const current = model === 'CPM' ? whole.base * 1000 : whole.base
  const bids = rungBids(marks, current, step)
  const every = Math.max(1, Math.ceil(sumOf(standing.eligible) / MOST_ROWS))
  const free = matched.programme.withPrice({ ...question.price, maxMicros: null }, work.market)
  const limits = weeks.map((timeline) => limitsFor(work, timeline))
  const rungAt = (bidMicros: number) => {
    const base = model === 'CPM' ? Math.floor(bidMicros / 1000) : bidMicros
    // The maximum is ignored above it; what aims at something has no other bid than its maximum.
    const over = question.price.maxMicros !== null && bidMicros > question.price.maxMicros
    const priced = question.aim
      ? underPrice(matched, matched.programme.withPrice({ ...question.price, maxMicros: bidMicros }, work.market))
      : over
        ? underPrice(matched, free)
        : matched
    const own: Play = { ...whole, base, matched: priced }
    return weeks.map((timeline) => replay(own, timeline, { full: false, every }, cancelled))
  }
  // Everybody's replay at the current bid scales the thinned ones.
  const thinned = every === 1 || current === 0 ? null : rungAt(current)
  const scale = (full: number, part: number) => (every === 1 ? (work.level?.factor ?? 1) : part > 0 ? full / part : every)
  const full = (pick: 'wins' | 'reach') => wholeReplays[0][pick] + wholeReplays[1][pick]
  const fullSpend = sumOf(wholeReplays[0].byGroup.spend) + sumOf(wholeReplays[1].byGroup.spend)
  const by = {
    wins: scale(full('wins'), thinned ? thinned[0].wins + thinned[1].wins : 0),
    reach: scale(full('reach'), thinned ? thinned[0].reach + thinned[1].reach : 0),
    spend: scale(fullSpend, thinned ? sumOf(thinned[0].byGroup.spend) + sumOf(thinned[1].byGroup.spend) : 0)
  }
  // A line that goes live at another bid shares its campaign's day by what it could spend at that.
  const weightAt = (spend: number, week: number) => {
    const now = sumOf(wholeReplays[week].byGroup.spend)
    return now > 0 ? ((work.limits.weightMicros ?? 0) * spend) / now : null
  }
  const rungs = bids.map((bidMicros): Rung => {
    const parts = rungAt(bidMicros)
    const money = parts.map((part, week) =>
      moneyStep(
        part.slotSpend.map((micros) => micros * by.spend),
        part.slotWins.map((wins) => wins * by.wins),
        { ...limits[week], weightMicros: weightAt(sumOf(part.byGroup.spend) * by.spend, week) },
        calendarOf(work, weeks[week]),
        tape.sample
      )
    )
    const aDay = tape.sample / TAPE_DAYS
    return {
      bidMicros,
      wins: (parts[0].wins + parts[1].wins) * by.wins * aDay,
      spendMicros: (sumOf(parts[0].byGroup.spend) + sumOf(parts[1].byGroup.spend)) * by.spend * aDay,
      reach: ((parts[0].reach + parts[1].reach) * by.reach * tape.sample) / 2,
      budgetWins: (money[0].wins + money[1].wins) * aDay,
      budgetSpendMicros: (money[0].spend + money[1].spend) * aDay
    }
  })
  return { rungs, current: bids.indexOf(current), marks, ownPricedADay: (matched.ownPriced * tape.sample) / TAPE_DAYS, every }
}
