import { CENT, CPM_STEP, threeDigits } from '../../money/index.js'
import { GROUPS } from '../../tape/index.js'
import { isLimit } from '../binding.js'
import { weekFigures, type MainFigures } from '../main-figures.js'
import { jackknife } from '../ranges.js'
import type { Ladder } from '../ladder.js'
import type { Sieve } from '../sieve.js'
import { matchKey, workOut, type Workings } from '../workings.js'
import { changed, type Change } from './change.js'
import type { GoalMeasure } from './measure.js'
import { capMoves, leaveOuts, lifts, paceMoves } from './moves.js'
import { Trials, type Trial } from './trial.js'

/** A better use of a line's money: one change or two, and what a day is worth with them. */
export interface Advice {
  changes: readonly Change[]
  /** More a day in the goal's measure, with its range; reach in seven days. */
  gain: number
  low: number
  high: number
  /** More wins and spend a day. */
  wins: number
  spendMicros: number
  /** Whether the budget is spent with it. */
  spends: boolean
  /** Whether it takes more money than the line may spend now. */
  takesMore: boolean
  /** What one more of the measure costs, micros; null where it costs nothing more. */
  eachMicros: number | null
}

/** What the search found. */
export interface Advised {
  advice: Advice[]
  /**
   * What the line buys of the goal, of the best that was found for the same money by price, caps, gap, hours, pace; 1 where nothing is
   * better, null where too little is known.
   */
  possible: number | null
}

/** Share of a budget that counts as spent. */
const SPENT = 0.98
/** Gains below this share of what there is are noise. */
const LEAST_GAIN = 0.02
/** Money that is spent beyond now before it counts as more, of a line without any limit. */
const SAME = 1.005
/** Most that is asked on thinned weeks, and matched anew. */
const MOST_ASKED = 40
const MOST_MATCHED = 12
/** What is offered, and asked in full for it. */
const MOST_OFFERED = 3
/** Steps of golden section, of a bid alone and beside another change. */
const SEEKS = 4
const SEEKS_BESIDE = 2
/** Standard deviations of an 80 % range. */
const Z80 = 1.2816
const GOLDEN = (Math.sqrt(5) - 1) / 2

/** Changes that were tried, and what they buy. */
interface Tried {
  changes: readonly Change[]
  trial: Trial
}

/**
 * Looks for the best use of a line's money: single changes and pairs of them on thinned weeks, then those that would be offered in full. A
 * line that its money binds is told to bid less where that buys more, and never to let in more that it has no money for; one that does not
 * spend its money, what would let it; then what more money would buy.
 * @param ladder and `sieve` of the same question
 */
export function advise(
  work: Workings,
  main: MainFigures,
  ladder: Ladder,
  sieve: Sieve,
  measure: GoalMeasure,
  cancelled: () => boolean
): Advised {
  const { question } = work
  const now = weekFigures(work, cancelled)
  if (question.price.bidMicros === 0 && !question.aim) return { advice: [], possible: null }
  const plan = dayPlanOf(now.periods)
  const trials = new Trials(work, measure, cancelled)
  const before = trials.of()
  const search = new Search(trials, before, plan)
  const isHeld = isLimit(main.binding)
  const found: Tried[] = []
  const bid = question.aim || question.follow ? null : seekBid(search, work, ladder, plan)
  if (bid) found.push(bid)
  const singles = [
    ...paceMoves(question, main.binding),
    ...capMoves(question),
    ...(isHeld && plan !== null ? leaveOuts(work, plan, measure) : lifts(question, sieve))
  ]
  for (const change of singles) {
    const tried = search.of(change)
    if (tried) found.push(tried)
  }
  const same = found.filter((tried) => search.isSame(tried) && search.gainOf(tried) > 0)
  const pairs = pairsOf(search, byKind(same, search), bid, work)
  const full = (changes: readonly Change[]) => inFull(work, now, plan, changes, measure, cancelled)
  const offered: Advice[] = []
  const best = [...byKind(same, search), ...pairs].sort((a, b) => search.gainOf(b) - search.gainOf(a))
  const least = now.day[measure].value * LEAST_GAIN
  const isOffered = ({ gain, low }: Advice) => gain > least && low > 0
  const money = moneyMove(search, work, main, full)
  if (money && isOffered(money)) offered.push({ ...money, takesMore: true })
  for (const { changes } of [...best, ...dearer(search, found, ladder, work)].slice(0, MOST_OFFERED + 1)) {
    if (offered.length >= MOST_OFFERED) break
    const advice = full(changes)
    if (isOffered(advice) && !isCovered(advice, offered)) offered.push(advice)
  }
  const { value } = now.day[measure]
  const own = offered.filter(({ takesMore, changes }) => !takesMore && changes.every(isOwn))
  const most = Math.max(value, ...own.map(({ gain }) => value + gain))
  return {
    advice: offered.sort((a, b) => Number(a.takesMore) - Number(b.takesMore) || b.gain - a.gain),
    possible: most > 0 && !main.tooFew ? value / most : null
  }
}

/** A pair that gains hardly more than a single of it that is offered is no news. */
const isCovered = (advice: Advice, offered: readonly Advice[]) =>
  advice.changes.length > 1 &&
  offered.some(
    ({ changes, gain }) => changes.length === 1 && advice.changes.some((one) => sameChange(one, changes[0])) && gain > 0.95 * advice.gain
  )
const sameChange = (a: Change, b: Change) => JSON.stringify(a) === JSON.stringify(b)

/** Whether a change is of what the trader decides day by day, not of whom the line is for. */
const isOwn = ({ kind }: Change) => kind !== 'restriction' && kind !== 'left out'

/** Asks within what the search may cost, and compares. */
class Search {
  constructor(
    readonly trials: Trials,
    readonly before: Trial,
    private readonly plan: number | null
  ) {}

  of(...changes: readonly Change[]): Tried | null {
    const isOver = this.trials.asked >= MOST_ASKED || this.trials.matched >= MOST_MATCHED
    return isOver ? null : { changes, trial: this.trials.of(...changes) }
  }

  gainOf({ trial }: Tried): number {
    return trial.measure - this.before.measure
  }

  /** Whether it stays within what the line may spend: its plan, or without any what it spends now. */
  isSame({ trial }: Tried): boolean {
    return this.plan !== null || trial.spend <= this.before.spend * SAME
  }
}

/** The best of each kind, best first. */
function byKind(tried: readonly Tried[], search: Search): Tried[] {
  const kinds = new Map<string, Tried>()
  for (const one of tried) {
    const name = one.changes.map(kindOf).join()
    const known = kinds.get(name)
    if (!known || search.gainOf(one) > search.gainOf(known)) kinds.set(name, one)
  }
  return [...kinds.values()].sort((a, b) => search.gainOf(b) - search.gainOf(a))
}

function kindOf(change: Change): string {
  if (change.kind === 'restriction') return `restriction ${change.place}`
  return change.kind === 'cap' ? `cap ${change.cap}` : change.kind === 'left out' ? `left out ${change.dimension}` : change.kind
}

/** The bid at which the money buys most, found between the rungs on both sides of the best one. */
function seekBid(search: Search, { question }: Workings, { rungs, current }: Ladder, plan: number | null): Tried | null {
  if (plan === null || rungs.length < 3) return null
  const top = rungs.reduce((most, rung, n) => (rung.budgetWins > rungs[most].budgetWins * 1.0001 ? n : most), 0)
  const step = stepOf(question.price.model)
  const [low, high] = [rungs[Math.max(0, top - 1)].bidMicros, rungs[Math.min(rungs.length - 1, top + 1)].bidMicros]
  const best = golden(low, high, step, (micros) => search.of({ kind: 'bid', micros }), { search, seeks: SEEKS })
  return best && current >= 0 && sameBid(best, rungs[current]?.bidMicros) ? null : best
}

const sameBid = ({ changes: [change] }: Tried, micros: number | undefined) => change.kind === 'bid' && change.micros === micros
const stepOf = (model: string) => (model === 'CPM' ? CPM_STEP : 1)

/** Golden section between two bids, in their logarithms. */
function golden(
  low: number,
  high: number,
  step: number,
  ask: (micros: number) => Tried | null,
  { search, seeks }: { search: Search; seeks: number }
): Tried | null {
  const askAt = (log: number) => ask(threeDigits(Math.exp(log), step))
  const value = (tried: Tried | null) => (tried ? search.gainOf(tried) : -Infinity)
  let [left, right] = [Math.log(Math.max(step, low)), Math.log(Math.max(step, high))]
  let inner = right - GOLDEN * (right - left)
  let outer = left + GOLDEN * (right - left)
  let [a, b] = [askAt(inner), askAt(outer)]
  let best = value(a) >= value(b) ? a : b
  for (let n = 0; n < seeks; n++) {
    if (value(a) >= value(b)) {
      right = outer
      ;[outer, b] = [inner, a]
      a = askAt((inner = right - GOLDEN * (right - left)))
    } else {
      left = inner
      ;[inner, a] = [outer, b]
      b = askAt((outer = left + GOLDEN * (right - left)))
    }
    for (const one of [a, b]) if (value(one) > value(best)) best = one
  }
  return best
}

/** The best pairs of the three best singles; where a bid was found, it is sought anew beside each of the others. */
function pairsOf(search: Search, singles: readonly Tried[], bid: Tried | null, { question }: Workings): Tried[] {
  const three = singles.slice(0, 3)
  const pairs: Tried[] = []
  const add = (tried: Tried | null) => tried && search.isSame(tried) && pairs.push(tried)
  three.forEach(({ changes: [first] }, n) => {
    for (const {
      changes: [second]
    } of three.slice(n + 1))
      if (first.kind !== 'bid' && second.kind !== 'bid') add(search.of(first, second))
    // What follows the market has its bid as its maximum.
    if (!bid || first.kind === 'bid' || first.kind === 'follow') return
    const [found] = bid.changes
    const micros = found.kind === 'bid' ? found.micros : 0
    const seek = (bidMicros: number) => search.of(first, { kind: 'bid', micros: bidMicros })
    add(golden(micros / 1.5, micros * 1.5, stepOf(question.price.model), seek, { search, seeks: SEEKS_BESIDE }))
  })
  return pairs.sort((a, b) => search.gainOf(b) - search.gainOf(a)).slice(0, 2)
}

/** A use of the money asked in full, with the range of its gain from what each group of people brings it. */
function inFull(
  work: Workings,
  now: ReturnType<typeof weekFigures>,
  plan: number | null,
  changes: readonly Change[],
  measure: GoalMeasure,
  cancelled: () => boolean
): Advice {
  const next = changed(work.question, ...changes)
  const kept = matchKey(next) === matchKey(work.question) ? work.matched : undefined
  const { day, without } = weekFigures(workOut(next, work.tape, work.market, cancelled, kept), cancelled)
  const gain = day[measure].value - now.day[measure].value
  const spendMicros = day.spend.value - now.day.spend.value
  const days = measure === 'reach' ? 1 : 7
  const sd = Math.sqrt(jackknife(Array.from({ length: GROUPS }, (_, g) => (without[measure][g] - now.without[measure][g]) / days)))
  return {
    changes,
    gain,
    low: gain - Z80 * sd,
    high: gain + Z80 * sd,
    wins: day.wins.value - now.day.wins.value,
    spendMicros,
    spends: plan !== null && day.spend.value >= plan * SPENT,
    takesMore: plan === null && spendMicros > now.day.spend.value * (SAME - 1),
    eachMicros: spendMicros > 0 && gain > 0 ? spendMicros / gain : null
  }
}

/** The least daily budget that spends all that the bid can: never where a limit above it would stop it. */
function moneyMove(search: Search, work: Workings, main: MainFigures, full: (changes: readonly Change[]) => Advice): Advice | null {
  const { binding, demandMicros } = main
  const { dailyMicros } = work.question.limits
  if (!isLimit(binding) || binding.whose !== 'line' || dailyMicros === null) return null
  const most = Math.ceil((demandMicros * 1.02) / CENT) * CENT
  // What stands above it may leave less: it is the least that is then spent.
  const all = search.of({ kind: 'daily budget', micros: most })
  const spent = all && search.before.spend > 0 ? (all.trial.spend / search.before.spend) * main.day.spend.value : Infinity
  const micros = Math.min(most, Math.ceil((spent * 1.02) / CENT) * CENT)
  return micros > dailyMicros ? full([{ kind: 'daily budget', micros }]) : null
}

/** What takes more money of a line without any limit, best first: among it the bid that wins nine in ten. */
function dearer(
  search: Search,
  found: readonly Tried[],
  { marks: { nineInTen } }: Ladder,
  { question: { price, aim, follow } }: Workings
): Tried[] {
  const step = stepOf(price.model)
  const target = nineInTen === null ? 0 : Math.ceil(nineInTen / step) * step
  const higher = !aim && !follow && target > price.bidMicros ? search.of({ kind: 'bid', micros: target }) : null
  return byKind(
    [...found, ...(higher ? [higher] : [])].filter((tried) => !search.isSame(tried)),
    search
  )
}

/** What a mean day may spend after all limits, the campaign's included; null without any. */
function dayPlanOf(periods: ReturnType<typeof weekFigures>['periods']): number | null {
  const plans = periods.flatMap(({ money }) => money.plans.map(({ micros }) => micros))
  const mean = plans.reduce((sum, micros) => sum + micros, 0) / plans.length
  return Number.isFinite(mean) ? mean : null
}
