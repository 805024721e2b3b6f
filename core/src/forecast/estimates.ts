import { paidEvent } from '../exchange/index.js'
import { GROUPS, TAPE_DAYS } from '../tape/index.js'
import { followedEvent, rateAmong } from './bid-rates.js'
import { calendarOf, curvesOf, type Bought, type Period } from './period.js'
import { rateKnown } from './question.js'
import type { RateDraw } from './rate-draws.js'
import {
  LEAST_WINS,
  jackknife,
  meanOf,
  moneyNoise,
  noiseOf,
  smallRange,
  variedRange,
  type RangeTerms,
  type Ranged,
  type Varied
} from './ranges.js'
import { shapesOf, type Shape } from './shape.js'
import type { Timeline } from './timeline.js'
import { FREQUENCY_BINS, sumOf, type Measure, type Replay } from './totals.js'
import type { Workings } from './workings.js'

/** Sums two weeks' groups; a period of one replay has one. */
export function meanGroups(parts: readonly Replay[], measure: Measure): Float64Array {
  return Float64Array.from({ length: GROUPS }, (_, g) => parts.reduce((sum, part) => sum + part.byGroup[measure][g], 0) / parts.length)
}

const inside = (figure: Ranged, most: number): Ranged => ({
  value: Math.min(figure.value, most),
  low: Math.min(figure.low, most),
  high: Math.min(figure.high, most)
})

/** What figures are made of: one replay for a flight, two weeks for seven days. */
export interface Span {
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

/** What is bought, who is reached, and what they do. */
export interface Estimates {
  wins: Ranged
  spend: Ranged
  reach: Ranged
  views: Ranged
  visits: Ranged
  conversions: Ranged
}

/** Of each, what there would be without each group of people in turn, grown to the whole. */
export type Without = Readonly<Record<Exclude<keyof Estimates, 'spend'>, readonly number[]>>

export const replaysOf = ({ periods }: Span) => periods.map((period) => period.replay)
export const tapeWinsOf = ({ weekReplays: [older, newer] }: Workings) => older.wins + newer.wins
const EVENTS = { views: 'view', visits: 'click', conversions: 'conversion' } as const

/** Rows of a run in the order of time beyond which it is of a part of the people. */
const MOST_SHAPED = 25_000
/** Wins of such a run under which too few are left to say whom it reaches. */
const LEAST_SHAPED = 300

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
  // Every n-th person is enough to tell whom money reaches: how many are won is told by the money step.
  const rows = (sumOf(work.standing.first) * timeline.days) / TAPE_DAYS
  const every = Math.min(Math.ceil(rows / MOST_SHAPED), Math.floor(period.now.wins / LEAST_SHAPED))
  return shapesOf([line], timeline, cancelled, Math.max(1, every))[0]
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
/** How far a campaign's day is shared otherwise than it is expected to be. */
const SHARE_SD = 0.04
/** How far bids that move with results, or with the market, come to buy otherwise than at those of now. */
const MOVING_SD = 0.06
const FOLLOWING_SD = 0.045
/** What is paid by the event comes in lumps: variance of what a day ends off its limit by, in squared charges. */
const LUMP_VARIANCE = 0.4

/** Whether the span's money is a share of its campaign's. */
const isSharing = ({ periods }: Span) =>
  periods.some(
    ({ binds, money }) => binds && money.plans.some(({ by }) => by.money?.whose === 'campaign' || by.impressions?.whose === 'campaign')
  )

/** Each of them with its range, under the budgets that bind; and people by number of exposures. */
export function estimatesOf(
  work: Workings,
  span: Span,
  cancelled: () => boolean
): { figures: Estimates; people: number[]; without: Without } {
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
  const shares = isSharing(span) ? SHARE_SD : 0
  const moving = followedEvent(work.question) !== null ? MOVING_SD : work.question.follow === true ? FOLLOWING_SD : 0
  const more = shares * shares + moving * moving
  const squares = meanOf(parts.map((part) => part.squares))
  const wins = variedRange(won, noiseOf(won.value) * winsOpen + (order ** 2 + more) * won.value ** 2)
  const lumps = binds ? LUMP_VARIANCE * span.days * chargeOf(work, parts) ** 2 : 0
  const spend = variedRange(
    paid,
    lumps + paidNoise(work, paid.value, squares, sample) * spendOpen + ((binds ? PACING_SD ** 2 : 0) + more) * paid.value ** 2
  )
  const people = Array.from({ length: FREQUENCY_BINS }, (_, n) => shaped((shape) => shape.frequency[n]))
  const events = (name: keyof typeof EVENTS): { range: Ranged; without: readonly number[] } => {
    const { factor, sd } = rateAmong(
      work.question,
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
    const range = variedRange(
      varied,
      noiseOf(varied.value) * chance * winsOpen + varied.value * (1 - chance) + (order ** 2 + more) * varied.value ** 2 + own
    )
    return { range, without: varied.without }
  }
  const reached = Math.min(
    shaped((shape) => shape.reach),
    won.value
  )
  const ratios = ratiosWithout(parts, 'reach')
  const perWin = (bought: number) => (won.value > 0 ? reached * (bought / won.value) ** elasticity : 0)
  const reachWithout = won.without.map((n, g) => perWin(n) * ratios[g])
  const reach = variedRange(
    {
      value: reached,
      without: reachWithout,
      up: perWin(won.up),
      down: perWin(won.down),
      draws: won.draws.map(perWin)
    },
    noiseOf(reached) * winsOpen + (order ** 2 + more) * reached ** 2
  )
  const [views, visits, conversions] = [events('views'), events('visits'), events('conversions')]
  return {
    figures: {
      wins,
      spend,
      reach: inside(reach, wins.high),
      views: views.range,
      visits: visits.range,
      conversions: conversions.range
    },
    people,
    without: {
      wins: won.without,
      reach: reachWithout,
      views: views.without,
      visits: visits.without,
      conversions: conversions.without
    }
  }
}

/** What one event costs that is paid for; 0 where impressions are. */
function chargeOf(work: Workings, parts: readonly Replay[]): number {
  const event = paidEvent(work.question.price)
  if (event === null) return 0
  const events = sumOf(meanGroups(parts, event === 'click' ? 'visits' : 'views'))
  return events > 0 ? sumOf(meanGroups(parts, 'spend')) / events : 0
}

/** Variance of the draws of money: prices of what is won, or charges of events that come or do not. */
function paidNoise(work: Workings, spend: number, squares: number, sample: number): number {
  if (paidEvent(work.question.price) === null) return moneyNoise(squares, sample)
  // An event's charge is at most its price.
  return moneyNoise(squares, sample) + spend * work.play.base
}

/** Of very few tape wins: how many is read from a gamma distribution, and what follows them is at least as unsure. */
export function ofFew(work: Workings, { terms }: Span, figures: Estimates): Estimates {
  const tapeWins = tapeWinsOf(work)
  if (tapeWins >= LEAST_WINS) return figures
  const scale = (terms.sample * terms.horizon) / TAPE_DAYS
  const wins = smallRange(figures.wins.value, tapeWins, scale)
  return { ...figures, wins, reach: inside(smallRange(figures.reach.value, tapeWins, scale), wins.high) }
}
