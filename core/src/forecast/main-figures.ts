import { GROUPS, TAPE_DAYS } from '../tape/index.js'
import { bindingOf, type Binding } from './binding.js'
import { estimatesOf, meanGroups, ofFew, replaysOf, tapeWinsOf, type Estimates, type Span, type Without } from './estimates.js'
import { periodOf, type Period } from './period.js'
import { ALL_DRAWS, rateDraws, type RateDraw } from './rate-draws.js'
import { LEAST_WINS, countRange, exactly, ratioRange, type RangeTerms, type Ranged } from './ranges.js'
import { replay } from './replay.js'
import { overGroups, sumOf, type Measure } from './totals.js'
import type { Workings } from './workings.js'

/** Main figures of a period, of the whole market, each with its range. Money in micros. */
export interface Figures extends Estimates {
  matched: Ranged
  /** Matched with a bid at or over the floor. */
  eligible: Ranged
  /** Rows over floor and rival, before caps and budget, of matched. */
  winRate: Ranged
  /** Wins of matched. */
  winShare: Ranged
  /** Price paid without the cost of data, micros a thousand. */
  cpm: Ranged
  /** Exposures a person. */
  frequency: Ranged
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
  /** What decides how much is bought. */
  binding: Binding
  /** Tape rows won in both weeks; under 30 the ranges are read from a gamma distribution. */
  tapeWins: number
  tooFew: boolean
  /** Rows whose price is their own, in the market a day. */
  ownPricedADay: number
  tape: { firstDay: number; days: number }
}

const NO_ONE = () => false

/** How far other lines of ours take more or less than they are expected to, for each win that they leave. */
const OTHERS_SD = 0.15
/** What of a line's level is not known: from its own days, and from what our other lines leave. */
const levelSd = ({ level, lostToOwn }: Workings) => Math.hypot(level?.sd ?? 0, OTHERS_SD * lostToOwn)

/** d ln reach / d ln wins at the bid, from a replay of one week at a bid a sixth lower. */
function elasticityOf(work: Workings, cancelled: () => boolean): number {
  const level = work.level?.factor ?? 1
  const [wins, reach] = [work.weekReplays[0].wins / level, work.weekReplays[0].reach / level]
  if (wins < LEAST_WINS) return 1
  const lower = replay({ ...work.play, base: Math.floor(work.play.base / 1.2) }, work.weeks[0], { full: false }, cancelled)
  if (lower.wins === 0 || lower.reach === 0 || lower.wins >= wins) return 1
  return Math.min(1, Math.max(0, Math.log(reach / lower.reach) / Math.log(wins / lower.wins)))
}

const scaled = (figure: Ranged, by: number): Ranged => ({ value: figure.value * by, low: figure.low * by, high: figure.high * by })
/** Figures of a period from its replays. */
function figuresOf(work: Workings, span: Span, cancelled: () => boolean): { figures: Figures; without: Without } {
  const { standing, matched } = work
  const { terms, days } = span
  const { sample } = terms
  const parts = replaysOf(span)
  const totals = (measure: Measure) => meanGroups(parts, measure)
  const [wins, reach] = [totals('wins'), totals('reach')]
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const ofMatched = bothMatched.map((rows) => (rows * days) / TAPE_DAYS)
  const ofEligible = standing.eligible.map((rows) => (rows * days) / TAPE_DAYS)
  const binds = span.periods.some((period) => period.binds)
  const bought = estimatesOf(work, span, cancelled)
  const figures = binds ? bought.figures : ofFew(work, span, bought.figures)
  const unknown = { ...terms, rate: 0 }
  const told: Figures = {
    matched: countRange(ofMatched, unknown),
    eligible: countRange(ofEligible, unknown),
    ...figures,
    frequency: binds ? exactly(figures.reach.value > 0 ? figures.wins.value / figures.reach.value : 0) : ratioRange(wins, reach),
    cpm: ratioRange(
      totals('clearing').map((micros) => micros * 1000),
      wins
    ),
    winRate: ratioRange(standing.first, bothMatched),
    winShare: binds ? exactly(sumOf(ofMatched) > 0 ? figures.wins.value / sample / sumOf(ofMatched) : 0) : ratioRange(wins, ofMatched),
    people: bought.people
  }
  return { figures: told, without: bought.without }
}

/** The mean day of seven, and what the flight's figures share with it. */
interface WeekFigures {
  day: Figures
  without: Without
  binding: Binding
  periods: readonly Period[]
  elasticity: number
  draws: readonly RateDraw[]
}

const known = new WeakMap<Workings, WeekFigures>()

/**
 * Figures of the mean day of seven: what a question is asked for alone when uses of its money are compared. Made once of what was worked
 * out, since the main figures tell them and advice compares with them.
 */
export function weekFigures(work: Workings, cancelled: () => boolean = NO_ONE): WeekFigures {
  let week = known.get(work)
  if (!week) known.set(work, (week = weekOf(work, cancelled)))
  return week
}

function weekOf(work: Workings, cancelled: () => boolean): WeekFigures {
  const { tape, matched, standing, weekReplays, weeks } = work
  const elasticity = elasticityOf(work, cancelled)
  const terms: RangeTerms = { sample: tape.sample, horizon: 7, sd: work.sd, rate: levelSd(work) }
  const draws = rateDraws(work, ALL_DRAWS, cancelled)
  const periods = weeks.map((timeline, n) => periodOf(work, timeline, weekReplays[n], terms, draws))
  const { figures, without } = figuresOf(work, { periods, timelines: weeks, terms, days: 7, elasticity, draws }, cancelled)
  const day = { ...figures }
  for (const name of ['matched', 'eligible', 'wins', 'spend', 'views', 'visits', 'conversions'] as const)
    day[name] = scaled(figures[name], 1 / 7)
  const binding = bindingOf(periods, { matched: sumOf(matched.byGroup), first: sumOf(standing.first) }, tape.sample)
  return { day, without, binding, periods, elasticity, draws }
}

/** Main figures of a worked-out question. */
export function mainFigures(work: Workings, cancelled: () => boolean = NO_ONE): MainFigures {
  const { tape, matched, standing, flightReplay, flight, replayedDays, flightDaysLeft, firstMinute, sd } = work
  const { sample } = tape
  const { day, binding, elasticity, draws } = weekFigures(work, cancelled)
  const flightTerms: RangeTerms = { sample, horizon: replayedDays, sd, rate: levelSd(work) }
  const flightPeriod = periodOf(work, flight, flightReplay, flightTerms, draws)
  const flightDays = (flight.span - firstMinute) / 1440
  const { figures: whole } = figuresOf(
    work,
    { periods: [flightPeriod], timelines: [flight], terms: flightTerms, days: flightDays, elasticity, draws },
    cancelled
  )
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
    binding,
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
