import { GROUPS, TAPE_DAYS } from '../tape/index.js'
import { calendarOf, curvesOf, periodOf, type Period } from './period.js'
import type { Workings } from './workings.js'
import {
  LEAST_WINS,
  budgetRange,
  countRange,
  exactly,
  jackknife,
  moneyRange,
  moneyNoise,
  noiseOf,
  ratioRange,
  smallRange,
  type RangeTerms,
  type Ranged
} from './ranges.js'
import { replay } from './replay.js'
import { FREQUENCY_BINS, overGroups, sumOf, type Measure, type Replay } from './totals.js'
import { shapesOf, type Shape } from './shape.js'
import type { Timeline } from './timeline.js'

/** Main figures of a period, of the whole market, each with its range. Money in micros. */
export interface Figures {
  matched: Ranged
  /** Matched with a bid at or over the floor. */
  eligible: Ranged
  wins: Ranged
  spend: Ranged
  /** Rows over floor and rival, before caps and budget, of matched. */
  winRate: Ranged
  /** Wins of matched. */
  winShare: Ranged
  /** Price paid without the cost of data, micros a thousand. */
  cpm: Ranged
  reach: Ranged
  /** Exposures a person. */
  frequency: Ranged
  views: Ranged
  visits: Ranged
  conversions: Ranged
  /** People by number of exposures: entry n - 1 for n, the last for that many or more. */
  people: number[]
}

export interface MainFigures {
  /** The mean day of seven; its reach, frequency and people are those of seven days. */
  day: Figures
  flight: Figures & {
    days: number
    /** Days that were replayed; the rest goes on like the last seven, and reach is then not extrapolated. */
    replayedDays: number
    open: boolean
    /** Local market day of the first day that is replayed. */
    firstDay: number
  }
  /** Shares of matched rows: best bid, second, lower. */
  ranks: { first: Ranged; second: Ranged; lower: Ranged }
  /** Spend a day without any budget, the weight by which lines share their campaign's money. */
  demandMicros: number
  /** Whether money, not the market, decides how much is bought. */
  budgetBinds: boolean
  /** Tape rows won in both weeks; under 30 the ranges are read from a gamma distribution. */
  tapeWins: number
  tooFew: boolean
  /** Rows whose price is their own, in the market a day. */
  ownPricedADay: number
  tape: { firstDay: number; days: number }
}

const NO_ONE = () => false

/** Sums two weeks' groups; a period of one replay has one. */
function meanGroups(parts: readonly Replay[], measure: Measure): Float64Array {
  return Float64Array.from({ length: GROUPS }, (_, g) => parts.reduce((sum, part) => sum + part.byGroup[measure][g], 0) / parts.length)
}

/** d ln reach / d ln wins at the bid, and d ln wins / d ln bid, from a replay of one week at a bid a sixth lower. */
function elasticities(work: Workings, cancelled: () => boolean): { reach: number; wins: number } {
  const [week] = work.weekReplays
  if (week.wins < LEAST_WINS) return { reach: 1, wins: 1 }
  const lower = replay({ ...work.play, base: Math.floor(work.play.base / 1.2) }, work.weeks[0], { full: false }, cancelled)
  if (lower.wins === 0 || lower.reach === 0 || lower.wins >= week.wins) return { reach: 1, wins: 0 }
  const wins = Math.log(week.wins / lower.wins)
  return { reach: Math.min(1, Math.max(0, Math.log(week.reach / lower.reach) / wins)), wins: Math.min(3, wins / Math.log(1.2)) }
}

const scaled = (figure: Ranged, by: number): Ranged => ({ value: figure.value * by, low: figure.low * by, high: figure.high * by })
const inside = (figure: Ranged, most: number): Ranged => ({
  value: Math.min(figure.value, most),
  low: Math.min(figure.low, most),
  high: Math.min(figure.high, most)
})

/** What figures are made of: one replay for a flight, two weeks for seven days. */
interface Span {
  periods: readonly Period[]
  timelines: readonly Timeline[]
  terms: RangeTerms
  /** Days that the figures are of. */
  days: number
  /** d ln reach / d ln wins at the bid. */
  elasticity: number
}

/** Counts that a budget may bound. */
type Bounded = Pick<Figures, 'wins' | 'spend' | 'reach' | 'views' | 'visits' | 'conversions'>

const replaysOf = ({ periods }: Span) => periods.map((period) => period.replay)
const meanOf = ({ periods }: Span, pick: (period: Period) => number) =>
  periods.reduce((sum, period) => sum + pick(period), 0) / periods.length
const tapeWinsOf = ({ weekReplays: [older, newer] }: Workings) => older.wins + newer.wins

/** What could be won without budgets. */
function freeFigures(work: Workings, span: Span): Bounded {
  const { terms, elasticity } = span
  const { sample } = terms
  const totals = (measure: Measure) => meanGroups(replaysOf(span), measure)
  // What is drawn at each win or visit adds its own noise to what is expected.
  const drawn = (rate: 'views' | 'visits' | 'conversions') => {
    const { value } = countRange(totals(rate), terms)
    return countRange(totals(rate), terms, 1, noiseOf(value) + value)
  }
  const free: Bounded = {
    wins: countRange(totals('wins'), terms),
    spend: moneyRange(
      totals('spend'),
      meanOf(span, ({ replay: part }) => part.squares),
      terms
    ),
    reach: countRange(totals('reach'), terms, elasticity),
    views: drawn('views'),
    visits: drawn('visits'),
    conversions: drawn('conversions')
  }
  const tapeWins = tapeWinsOf(work)
  if (tapeWins >= LEAST_WINS) return free
  const scale = (sample * terms.horizon) / TAPE_DAYS
  const wins = smallRange(free.wins.value, tapeWins, scale)
  return { ...free, wins, reach: inside(smallRange(free.reach.value, tapeWins, scale), wins.high) }
}

/** Who is reached in a period, and what they do: under a budget by a run in the order of time. */
function shapeOf(work: Workings, period: Period, timeline: Timeline, cancelled: () => boolean): Shape {
  if (!period.binds) {
    const { byGroup, wins, reach, frequency } = period.replay
    const [views, visits, conversions] = [sumOf(byGroup.views), sumOf(byGroup.visits), sumOf(byGroup.conversions)]
    return { wins, spend: 0, reach, frequency, views, visits, conversions }
  }
  const isFlight = timeline.kind === 'flight'
  const line = {
    play: isFlight ? work.flightPlay : work.play,
    money: period.money,
    calendar: calendarOf(work, timeline),
    curves: curvesOf(work, timeline, period.replay),
    before: isFlight ? work.before : undefined
  }
  return shapesOf([line], timeline, cancelled)[0]
}

/** A figure of money or wins that a budget bounds. @param noise variance of the draws themselves */
function boundBy(span: Span, what: 'wins' | 'spend', noise: number): Ranged {
  const { sample } = span.terms
  const mean = (pick: (period: Period) => number) => meanOf(span, pick) * sample
  const all = ({ replay: part }: Period) => (what === 'wins' ? part.wins : sumOf(part.byGroup.spend))
  const groups = Array.from({ length: GROUPS }, (_, g) => g)
  const without = groups.map((g) => mean((period) => period.without?.[what][g] ?? period.money[what]))
  const unbounded = jackknife(groups.map((g) => (mean((period) => all(period) - period.replay.byGroup[what][g]) * GROUPS) / (GROUPS - 1)))
  return budgetRange(
    mean((period) => (period.binds ? period.money[what] : all(period))),
    without,
    mean((period) => (period.up ?? period.money)[what]),
    mean((period) => (period.down ?? period.money)[what]),
    noise,
    unbounded > 0 ? jackknife(without) / unbounded : 1
  )
}

/** What the budgets leave of it, and people by number of exposures. */
function boundedFigures(work: Workings, span: Span, free: Bounded, cancelled: () => boolean): { figures: Bounded; people: number[] } {
  const { sample } = span.terms
  const shapes = span.periods.map((period, n) => shapeOf(work, period, span.timelines[n], cancelled))
  // The run in order of time tells who; how many is told by the money step.
  const factors = span.periods.map(({ binds, money, replay: part }, n) =>
    shapes[n].wins > 0 ? (binds ? money.wins : part.wins) / shapes[n].wins : 0
  )
  const shaped = (pick: (shape: Shape) => number) =>
    (shapes.reduce((sum, shape, n) => sum + pick(shape) * factors[n], 0) / shapes.length) * sample
  const wins = boundBy(span, 'wins', noiseOf(meanOf(span, (period) => period.money.wins) * sample))
  const squares = meanOf(span, ({ replay: part }) => part.squares)
  // Who is reached and what they do follow the wins: relative width of the wins, at least.
  const along = (value: number): Ranged =>
    wins.value > 0 ? { value, low: (value * wins.low) / wins.value, high: (value * wins.high) / wins.value } : exactly(0)
  const reach = Math.min(
    shaped((shape) => shape.reach),
    wins.value
  )
  return {
    figures: {
      wins,
      spend: boundBy(span, 'spend', moneyNoise(squares, sample)),
      reach: inside(along(reach), free.reach.high),
      views: along(shaped((shape) => shape.views)),
      visits: along(shaped((shape) => shape.visits)),
      conversions: along(shaped((shape) => shape.conversions))
    },
    people: Array.from({ length: FREQUENCY_BINS }, (_, n) => shaped((shape) => shape.frequency[n]))
  }
}

/** Figures of a period from its replays. */
function figuresOf(work: Workings, span: Span, cancelled: () => boolean): Figures {
  const { standing, matched } = work
  const { terms, days } = span
  const { sample } = terms
  const parts = replaysOf(span)
  const totals = (measure: Measure) => meanGroups(parts, measure)
  const [wins, reach] = [totals('wins'), totals('reach')]
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const ofMatched = bothMatched.map((rows) => (rows * days) / TAPE_DAYS)
  const ofEligible = standing.eligible.map((rows) => (rows * days) / TAPE_DAYS)
  const free = freeFigures(work, span)
  const bounded = span.periods.some((period) => period.binds) ? boundedFigures(work, span, free, cancelled) : null
  const figures = bounded?.figures ?? free
  const unknown = { ...terms, rate: 0 }
  return {
    matched: countRange(ofMatched, unknown),
    eligible: countRange(ofEligible, unknown),
    ...figures,
    frequency: bounded ? exactly(figures.reach.value > 0 ? figures.wins.value / figures.reach.value : 0) : ratioRange(wins, reach),
    cpm: ratioRange(
      totals('clearing').map((micros) => micros * 1000),
      wins
    ),
    winRate: ratioRange(standing.first, bothMatched),
    winShare: bounded ? exactly(sumOf(ofMatched) > 0 ? figures.wins.value / sample / sumOf(ofMatched) : 0) : ratioRange(wins, ofMatched),
    people:
      bounded?.people ??
      Array.from({ length: FREQUENCY_BINS }, (_, n) => (parts.reduce((sum, part) => sum + part.frequency[n], 0) / parts.length) * sample)
  }
}

/** Main figures of a worked-out question. */
export function mainFigures(work: Workings, cancelled: () => boolean = NO_ONE): MainFigures {
  const { tape, matched, standing, weekReplays, flightReplay, weeks, flight, replayedDays, flightDaysLeft, firstMinute, sd } = work
  const { sample } = tape
  const { reach: elasticity, wins: perBid } = elasticities(work, cancelled)
  const rate = matched.isEvent ? (work.question.rateSd ?? 0) * perBid : 0
  const weekTerms: RangeTerms = { sample, horizon: 7, sd, rate }
  const flightTerms: RangeTerms = { sample, horizon: replayedDays, sd, rate }
  const weekPeriods = weeks.map((timeline, n) => periodOf(work, timeline, weekReplays[n], weekTerms))
  const flightPeriod = periodOf(work, flight, flightReplay, flightTerms)
  const week = figuresOf(work, { periods: weekPeriods, timelines: weeks, terms: weekTerms, days: 7, elasticity }, cancelled)
  const flightDays = (flight.span - firstMinute) / 1440
  const whole = figuresOf(
    work,
    { periods: [flightPeriod], timelines: [flight], terms: flightTerms, days: flightDays, elasticity },
    cancelled
  )
  const day = { ...week }
  for (const name of ['matched', 'eligible', 'wins', 'spend', 'views', 'visits', 'conversions'] as const)
    day[name] = scaled(week[name], 1 / 7)
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const lower = bothMatched.map((rows, g) => rows - standing.first[g] - standing.second[g])
  const tapeWins = tapeWinsOf(work)
  return {
    day,
    flight: {
      ...extended(whole, work, flightPeriod),
      days: flightDaysLeft ?? replayedDays,
      replayedDays,
      open: flightDaysLeft === null,
      firstDay: work.firstDay
    },
    ranks: {
      first: ratioRange(standing.first, bothMatched),
      second: ratioRange(standing.second, bothMatched),
      lower: ratioRange(lower, bothMatched)
    },
    demandMicros: Math.round(work.demandMicros),
    budgetBinds: flightPeriod.binds || weekPeriods.some((period) => period.binds),
    tapeWins,
    tooFew: tapeWins < LEAST_WINS,
    ownPricedADay: (matched.ownPriced * sample) / TAPE_DAYS,
    tape: { firstDay: tape.firstDay, days: TAPE_DAYS }
  }
}

/** Beyond the replay its last seven days go on; reach and people stay those of the replay. */
function extended(figures: Figures, { flightDaysLeft, replayedDays }: Workings, { money, replay: played, binds }: Period): Figures {
  const more = flightDaysLeft === null ? 0 : flightDaysLeft - replayedDays
  if (more <= 0) return figures
  const wins = overGroups(played.slotWins, played.slots)
  const share = (daily: readonly number[]) => {
    const all = daily.reduce((sum, value) => sum + value, 0)
    return all > 0 ? 1 + (daily.slice(-7).reduce((sum, value) => sum + value, 0) / 7 / all) * more : 1
  }
  const daily = binds
    ? money.dayWins
    : Array.from({ length: replayedDays }, (_, day) => wins.subarray(day * 24, day * 24 + 24).reduce((sum, value) => sum + value, 0))
  const grown = { ...figures }
  const growth = share(daily)
  for (const name of ['wins', 'views', 'visits', 'conversions'] as const) grown[name] = scaled(figures[name], growth)
  grown.spend = scaled(figures.spend, binds ? share(money.daySpend) : growth)
  for (const name of ['matched', 'eligible'] as const) grown[name] = scaled(figures[name], (flightDaysLeft as number) / replayedDays)
  return grown
}
