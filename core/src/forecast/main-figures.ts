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
import { shapesOf } from './shape.js'
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

/** Figures of a period from its replays: one for a flight, two weeks for seven days. */
function figuresOf(
  work: Workings,
  periods: readonly Period[],
  timelines: readonly Timeline[],
  terms: RangeTerms,
  matchedDays: number,
  elasticity: number,
  cancelled: () => boolean
): Figures {
  const { tape, standing, matched } = work
  const { sample } = tape
  const parts = periods.map((period) => period.replay)
  const totals = (measure: Measure) => meanGroups(parts, measure)
  const mean = (pick: (period: Period) => number) => periods.reduce((sum, period) => sum + pick(period), 0) / periods.length
  const wins = totals('wins')
  const reach = totals('reach')
  const tapeWins = work.weekReplays[0].wins + work.weekReplays[1].wins
  const ofMatched = Float64Array.from(
    { length: GROUPS },
    (_, g) => ((matched.byGroup[g] + matched.byGroup[GROUPS + g]) * matchedDays) / TAPE_DAYS
  )
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const ofEligible = standing.eligible.map((rows) => (rows * matchedDays) / TAPE_DAYS)
  const free = {
    wins: countRange(wins, terms),
    spend: moneyRange(
      totals('spend'),
      mean(({ replay: part }) => part.squares),
      terms
    ),
    reach: countRange(reach, terms, elasticity),
    views: countRange(totals('views'), terms),
    visits: countRange(totals('visits'), terms),
    conversions: countRange(totals('conversions'), terms)
  }
  // What is drawn at each win or visit adds its own noise to what is expected.
  for (const rate of ['views', 'visits', 'conversions'] as const)
    free[rate] = countRange(totals(rate), terms, 1, noiseOf(free[rate].value) + free[rate].value)
  const scale = (sample * terms.horizon) / TAPE_DAYS
  if (tapeWins < LEAST_WINS) {
    free.wins = smallRange(free.wins.value, tapeWins, scale)
    free.reach = inside(smallRange(free.reach.value, tapeWins, scale), free.wins.high)
  }
  let bounded = free
  let people = Array.from({ length: FREQUENCY_BINS }, (_, n) => parts.reduce((sum, part) => sum + part.frequency[n], 0) / parts.length)
  if (periods.some((period) => period.binds)) {
    const shapes = periods.map((period, n) =>
      period.binds
        ? shapesOf(
            [
              {
                play: timelines[n].kind === 'flight' ? work.flightPlay : work.play,
                money: period.money,
                calendar: calendarOf(work, timelines[n]),
                curves: curvesOf(work, timelines[n], period.replay),
                before: timelines[n].kind === 'flight' ? work.before : undefined
              }
            ],
            timelines[n],
            cancelled
          )[0]
        : {
            ...period.replay,
            wins: period.replay.wins,
            spend: 0,
            reach: period.replay.reach,
            frequency: period.replay.frequency,
            views: sumOf(period.replay.byGroup.views),
            visits: sumOf(period.replay.byGroup.visits),
            conversions: sumOf(period.replay.byGroup.conversions)
          }
    )
    const factor = periods.map((period, n) =>
      shapes[n].wins > 0 ? (period.binds ? period.money.wins : period.replay.wins) / shapes[n].wins : 0
    )
    const shaped = (pick: (shape: (typeof shapes)[0]) => number) =>
      (shapes.reduce((sum, shape, n) => sum + pick(shape) * factor[n], 0) / shapes.length) * sample
    const bound = (what: 'wins' | 'spend', noise: number) => {
      const value =
        mean((period) => (period.binds ? period.money[what] : what === 'wins' ? period.replay.wins : sumOf(period.replay.byGroup.spend))) *
        sample
      const jack = Array.from({ length: GROUPS }, (_, g) => mean((period) => period.without?.[what][g] ?? period.money[what]) * sample)
      const loose = Array.from(
        { length: GROUPS },
        (_, g) =>
          (mean((period) =>
            what === 'wins'
              ? period.replay.wins - period.replay.byGroup.wins[g]
              : sumOf(period.replay.byGroup.spend) - period.replay.byGroup.spend[g]
          ) *
            sample *
            GROUPS) /
          (GROUPS - 1)
      )
      const looseVariance = jackknife(loose)
      return budgetRange(
        value,
        jack,
        mean((period) => (period.up ?? period.money)[what]) * sample,
        mean((period) => (period.down ?? period.money)[what]) * sample,
        noise,
        looseVariance > 0 ? jackknife(jack) / looseVariance : 1
      )
    }
    const winsBound = bound('wins', noiseOf(mean((period) => period.money.wins) * sample))
    const spendBound = bound(
      'spend',
      moneyNoise(
        mean(({ replay: part }) => part.squares),
        sample
      )
    )
    // Who is reached and what they do follow the wins: relative width of the wins, at least.
    const along = (value: number): Ranged =>
      winsBound.value > 0
        ? { value, low: (value * winsBound.low) / winsBound.value, high: (value * winsBound.high) / winsBound.value }
        : exactly(0)
    bounded = {
      wins: winsBound,
      spend: spendBound,
      reach: inside(
        along(
          Math.min(
            shaped((shape) => shape.reach),
            winsBound.value
          )
        ),
        free.reach.high
      ),
      views: along(shaped((shape) => shape.views)),
      visits: along(shaped((shape) => shape.visits)),
      conversions: along(shaped((shape) => shape.conversions))
    }
    people = Array.from({ length: FREQUENCY_BINS }, (_, n) => shaped((shape) => shape.frequency[n]) / sample)
  }
  const budgeted = bounded !== free
  const frequency = budgeted ? exactly(bounded.reach.value > 0 ? bounded.wins.value / bounded.reach.value : 0) : ratioRange(wins, reach)
  const cpm = ratioRange(
    totals('clearing').map((micros) => micros * 1000),
    wins
  )
  const winShare = ratioRange(wins, ofMatched)
  return {
    matched: countRange(ofMatched, { ...terms, rate: 0 }),
    eligible: countRange(ofEligible, { ...terms, rate: 0 }),
    ...bounded,
    frequency,
    cpm,
    winRate: ratioRange(standing.first, bothMatched),
    winShare: budgeted ? exactly(sumOf(ofMatched) > 0 ? bounded.wins.value / sample / sumOf(ofMatched) : 0) : winShare,
    people: people.map((count) => count * sample)
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
  const week = figuresOf(work, weekPeriods, weeks, weekTerms, 7, elasticity, cancelled)
  const flightDays = (flight.span - firstMinute) / 1440
  const whole = figuresOf(work, [flightPeriod], [flight], flightTerms, flightDays, elasticity, cancelled)
  const day = { ...week }
  for (const name of ['matched', 'eligible', 'wins', 'spend', 'views', 'visits', 'conversions'] as const)
    day[name] = scaled(week[name], 1 / 7)
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const lower = bothMatched.map((rows, g) => rows - standing.first[g] - standing.second[g])
  const tapeWins = weekReplays[0].wins + weekReplays[1].wins
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
