import { GROUPS, TAPE_DAYS } from '../tape/index.js'
import { bindingOf, type Binding } from './binding.js'
import { calendarOf, curvesOf, periodMoney, periodOf, type Bought, type Period } from './period.js'
import { rateKnown } from './question.js'
import { rateDraws, type RateDraw } from './rate-draws.js'
import { repeatFactor, withMean, type KnownRate, type RateKind } from '../response/index.js'
import { FORMATS, SHAPE_FORMAT } from '../taxonomy/index.js'
import { kindOf } from '../exchange/index.js'
import type { Workings } from './workings.js'
import {
  LEAST_WINS,
  countRange,
  exactly,
  jackknife,
  meanOf,
  moneyNoise,
  noiseOf,
  ratioRange,
  smallRange,
  variedRange,
  type RangeTerms,
  type Ranged,
  type Varied
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

/** Sums two weeks' groups; a period of one replay has one. */
function meanGroups(parts: readonly Replay[], measure: Measure): Float64Array {
  return Float64Array.from({ length: GROUPS }, (_, g) => parts.reduce((sum, part) => sum + part.byGroup[measure][g], 0) / parts.length)
}

/** d ln reach / d ln wins at the bid, from a replay of one week at a bid a sixth lower. */
function elasticityOf(work: Workings, cancelled: () => boolean): number {
  const level = work.level?.factor ?? 1
  const [wins, reach] = [work.weekReplays[0].wins / level, work.weekReplays[0].reach / level]
  if (wins < LEAST_WINS) return 1
  const lower = replay({ ...work.play, base: Math.floor(work.play.base / 1.2) }, work.weeks[0], { full: false }, cancelled)
  if (lower.wins === 0 || lower.reach === 0 || lower.wins >= wins) return 1
  return Math.min(1, Math.max(0, Math.log(reach / lower.reach) / Math.log(wins / lower.wins)))
}

/** Draws of the rate that a line's bids follow, over the seven days that its budgets allow. */
function drawsOf(work: Workings, cancelled: () => boolean): RateDraw[] {
  const event = followedEvent(work.question)
  if (event === null) return []
  const [week] = work.weekReplays
  const spend = sumOf(week.byGroup.spend)
  const { money } = periodMoney(work, work.weeks[0], week)
  const events = (work.question.aim ? week.aimed / 1e6 : sumOf(week.byGroup[event === 'click' ? 'visits' : 'views'])) * work.tape.sample
  const known = rateKnown(work.question, event)
  const mean = rateAmong(work, event, week.frequency, week.wins).factor / known.factor
  return rateDraws(work, known, spend > 0 ? (events * money.spend) / spend : 0, mean, cancelled)
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
  /** Draws of the rate that the line's bids follow. */
  draws: readonly RateDraw[]
}

/** Counts that a budget may bound. */
type Bounded = Pick<Figures, 'wins' | 'spend' | 'reach' | 'views' | 'visits' | 'conversions'>

const replaysOf = ({ periods }: Span) => periods.map((period) => period.replay)
const tapeWinsOf = ({ weekReplays: [older, newer] }: Workings) => older.wins + newer.wins
const EVENTS = { views: 'view', visits: 'click', conversions: 'conversion' } as const

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

/** Wins or spend of a span, of the market, and how they vary. */
function variedOf(span: Span, what: keyof Bought): Varied {
  const { sample } = span.terms
  const mean = (pick: (period: Period) => Bought) => meanOf(span.periods.map((period) => pick(period)[what])) * sample
  return {
    value: mean(({ now }) => now),
    without: Array.from({ length: GROUPS }, (_, g) => mean(({ without }) => without[g])),
    up: mean(({ up }) => up),
    down: mean(({ down }) => down),
    draws: span.draws.map((_, n) => mean(({ draws }) => draws[n]))
  }
}

/** Shares of a measure to wins without each group in turn, over that with all. */
function ratiosWithout(parts: readonly Replay[], measure: Measure): number[] {
  const [tops, bottoms] = [meanGroups(parts, measure), meanGroups(parts, 'wins')]
  const [top, bottom] = [sumOf(tops), sumOf(bottoms)]
  return Array.from({ length: GROUPS }, (_, g) => {
    const rest = bottom - bottoms[g]
    return rest > 0 && top > 0 ? ((top - tops[g]) / rest) * (bottom / top) : 1
  })
}

/** Share of the jackknife's variance that budgets leave: what they decide is not drawn. */
function leftOpen(span: Span, what: keyof Bought, without: readonly number[]): number {
  if (!span.periods.some(({ binds }) => binds)) return 1
  const totals = meanGroups(replaysOf(span), what)
  const all = sumOf(totals)
  const unbounded = jackknife(Array.from(totals, (total) => ((all - total) * GROUPS * span.terms.sample) / (GROUPS - 1)))
  return unbounded > 0 ? Math.min(1, jackknife(without) / unbounded) : 1
}

/**
 * How far pacing ends from the spend that limits allow, and the run in order of time from what the exchange buys: relative sd, by
 * `npm run calibrate -- campaigns`.
 */
const PACING_SD = 0.005
const ORDER_SD = 0.015
/** How far other lines of ours take more or less than they are expected to; and how far a campaign's day is shared otherwise. */
const OTHERS_SD = 0.15
/** How far bids that move with results or with the market come to buy otherwise than at those of now. */
const MOVING_SD = 0.06
const SHARE_SD = 0.08
/** What is paid by the event comes in lumps: variance of what a day ends off its limit by, in squared charges. */
const LUMP_VARIANCE = 0.4

/** Whether the span's money is a share of its campaign's. */
const isSharing = ({ periods }: Span) =>
  periods.some(
    ({ binds, money }) => binds && money.plans.some(({ by }) => by.money?.whose === 'campaign' || by.impressions?.whose === 'campaign')
  )

/** What is bought, who is reached, and what they do; each with its range. */
function bounded(work: Workings, span: Span, cancelled: () => boolean): { figures: Bounded; people: number[] } {
  const { terms, elasticity } = span
  const { sample } = terms
  const parts = replaysOf(span)
  const binds = span.periods.some((period) => period.binds)
  const shapes = span.periods.map((period, n) => shapeOf(work, period, span.timelines[n], cancelled))
  // The run in order of time tells who; how many is told by the money step.
  const factors = span.periods.map(({ now }, n) => (shapes[n].wins > 0 ? now.wins / shapes[n].wins : 0))
  const shaped = (pick: (shape: Shape) => number) => meanOf(shapes.map((shape, n) => pick(shape) * factors[n])) * sample
  const [won, paid] = [variedOf(span, 'wins'), variedOf(span, 'spend')]
  const [winsOpen, spendOpen] = [leftOpen(span, 'wins', won.without), leftOpen(span, 'spend', paid.without)]
  const order = binds ? ORDER_SD : 0
  // What other lines of ours leave is what they are expected to leave.
  const others = OTHERS_SD * Math.min(1, winsOpen) * work.lostToOwn
  const shares = isSharing(span) ? SHARE_SD : 0
  const moving = followedEvent(work.question) !== null || work.question.follow === true ? MOVING_SD : 0
  const more = others * others + shares * shares + moving * moving
  const squares = meanOf(parts.map((part) => part.squares))
  const wins = variedRange(won, noiseOf(won.value) * winsOpen + (order ** 2 + more) * won.value ** 2)
  const lumps = binds ? LUMP_VARIANCE * span.days * chargeOf(work, parts) ** 2 : 0
  const spend = variedRange(
    paid,
    lumps + paidNoise(work, paid.value, squares, sample) * spendOpen + ((binds ? PACING_SD ** 2 : 0) + more) * paid.value ** 2
  )
  const people = Array.from({ length: FREQUENCY_BINS }, (_, n) => shaped((shape) => shape.frequency[n]))
  const events = (name: keyof typeof EVENTS): Ranged => {
    const { factor, sd } = rateAmong(
      work,
      EVENTS[name],
      people,
      shaped((shape) => shape.wins)
    )
    const isPaid = EVENTS[name] === followedEvent(work.question)
    const believed = rateKnown(work.question, EVENTS[name]).factor
    const rate = won.value > 0 ? (shaped((shape) => shape[name]) * factor) / won.value : 0
    const ratios = ratiosWithout(parts, name)
    const varied: Varied = {
      value: won.value * rate,
      without: won.without.map((n, g) => n * rate * ratios[g]),
      up: won.up * rate,
      down: won.down * rate,
      // A draw says already what becomes of the mean.
      draws: won.draws.map((n, d) => n * rate * (isPaid ? (span.draws[d].rate * believed) / factor : 1))
    }
    const own = isPaid && varied.draws.length > 0 ? 0 : (varied.value * sd) ** 2
    const chance = Math.min(1, rate)
    return variedRange(
      varied,
      noiseOf(varied.value) * chance * winsOpen + varied.value * (1 - chance) + (order ** 2 + more) * varied.value ** 2 + own
    )
  }
  const reached = Math.min(
    shaped((shape) => shape.reach),
    won.value
  )
  const ratios = ratiosWithout(parts, 'reach')
  const perWin = (bought: number) => (won.value > 0 ? reached * (bought / won.value) ** elasticity : 0)
  const reach = variedRange(
    {
      value: reached,
      without: won.without.map((n, g) => perWin(n) * ratios[g]),
      up: perWin(won.up),
      down: perWin(won.down),
      draws: won.draws.map(perWin)
    },
    noiseOf(reached) * winsOpen + (order ** 2 + more) * reached ** 2
  )
  return {
    figures: {
      wins,
      spend,
      reach: inside(reach, wins.high),
      views: events('views'),
      visits: events('visits'),
      conversions: events('conversions')
    },
    people
  }
}

/** What one event costs that is paid for; 0 where impressions are. */
function chargeOf(work: Workings, parts: readonly Replay[]): number {
  const event = paidEvent(work.question)
  if (event === null) return 0
  const events = sumOf(meanGroups(parts, event === 'click' ? 'visits' : 'views'))
  return events > 0 ? sumOf(meanGroups(parts, 'spend')) / events : 0
}

/** Variance of the draws of money: prices of what is won, or charges of events that come or do not. */
function paidNoise(work: Workings, spend: number, squares: number, sample: number): number {
  if (paidEvent(work.question) === null) return moneyNoise(squares, sample)
  // An event's charge is at most its price.
  return moneyNoise(squares, sample) + spend * work.play.base
}

/** What is known of a rate, among people who see the ads so often. */
function rateAmong({ question }: Workings, kind: RateKind, people: readonly number[], wins: number): KnownRate {
  const known = rateKnown(question, kind)
  const isClicked = kind !== 'view' && FORMATS[SHAPE_FORMAT[question.shapes[0] ?? 0]] !== 'pop'
  return isClicked ? withMean(kind, known, repeatFactor(people, wins)) : known
}

/** The event that a question's line pays for; null where it pays for impressions. */
function paidEvent({ price: { model } }: Workings['question']): RateKind | null {
  return model === 'CPC' ? 'click' : model === 'view' ? 'view' : null
}

/** The event whose rate a question's bids follow: what is aimed at, or paid for. */
function followedEvent(question: Workings['question']): RateKind | null {
  return question.aim ? kindOf(question.aim.event) : paidEvent(question)
}

/** Of very few tape wins: how many is read from a gamma distribution, and what follows them is at least as unsure. */
function ofFew(work: Workings, { terms }: Span, figures: Bounded): Bounded {
  const tapeWins = tapeWinsOf(work)
  if (tapeWins >= LEAST_WINS) return figures
  const scale = (terms.sample * terms.horizon) / TAPE_DAYS
  const wins = smallRange(figures.wins.value, tapeWins, scale)
  return { ...figures, wins, reach: inside(smallRange(figures.reach.value, tapeWins, scale), wins.high) }
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
  const binds = span.periods.some((period) => period.binds)
  const bought = bounded(work, span, cancelled)
  const figures = binds ? bought.figures : ofFew(work, span, bought.figures)
  const unknown = { ...terms, rate: 0 }
  return {
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
}

/** Main figures of a worked-out question. */
export function mainFigures(work: Workings, cancelled: () => boolean = NO_ONE): MainFigures {
  const { tape, matched, standing, weekReplays, flightReplay, weeks, flight, replayedDays, flightDaysLeft, firstMinute, sd } = work
  const { sample } = tape
  const elasticity = elasticityOf(work, cancelled)
  const rate = work.level?.sd ?? 0
  const weekTerms: RangeTerms = { sample, horizon: 7, sd, rate }
  const flightTerms: RangeTerms = { sample, horizon: replayedDays, sd, rate }
  const draws = drawsOf(work, cancelled)
  const weekPeriods = weeks.map((timeline, n) => periodOf(work, timeline, weekReplays[n], weekTerms, draws))
  const flightPeriod = periodOf(work, flight, flightReplay, flightTerms, draws)
  const week = figuresOf(work, { periods: weekPeriods, timelines: weeks, terms: weekTerms, days: 7, elasticity, draws }, cancelled)
  const flightDays = (flight.span - firstMinute) / 1440
  const whole = figuresOf(
    work,
    { periods: [flightPeriod], timelines: [flight], terms: flightTerms, days: flightDays, elasticity, draws },
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
    binding: bindingOf(weekPeriods, { matched: sumOf(bothMatched), first: sumOf(standing.first) }, sample),
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
