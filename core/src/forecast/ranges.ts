import { COUNTRIES } from '../places/index.js'
import { gammaQuantile } from '../report/index.js'
import { GROUPS, TAPE_DAYS, type Tape } from '../tape/index.js'

/** A figure with the range that holds it in eight cases of ten. */
export interface Ranged {
  value: number
  low: number
  high: number
}

/** Half-width of an 80 % range in standard deviations, a little over the normal 1.28 for the 31 degrees of freedom. */
const Z80 = 1.31
/** Wins of a person come in clumps: variance of a count over its mean. */
const CLUMPING = 1.5
/** Mean of a week of which two weeks bring none in one case of ten: ln 10 / 2. */
const NONE_IN_A_WEEK = 1.15
/** Tape wins under which a range is read from a gamma distribution, and the screen says "too few to say". */
export const LEAST_WINS = 30

export const exactly = (value: number): Ranged => ({ value, low: value, high: value })

function around(value: number, variance: number): Ranged {
  const spread = Z80 * Math.sqrt(Math.max(0, variance))
  return { value, low: Math.max(0, value - spread), high: value + spread }
}

/**
 * Spread of daily totals that no weekday explains: sd of relative residuals of all traffic of the format and the countries
 * (cells added first) about seven weekday means over 14 days, on 7 degrees of freedom.
 * @param countries indices; all when empty
 */
export function dailySpread(tape: Pick<Tape, 'traffic'>, format: number, countries: readonly number[]): number {
  const days = new Float64Array(TAPE_DAYS)
  for (const country of countries.length > 0 ? countries : COUNTRIES.keys()) {
    const start = (format * COUNTRIES.length + country) * TAPE_DAYS
    for (let day = 0; day < TAPE_DAYS; day++) days[day] += tape.traffic[start + day]
  }
  let sum = 0
  for (let weekday = 0; weekday < 7; weekday++) {
    const mean = (days[weekday] + days[weekday + 7]) / 2
    if (mean > 0) sum += ((days[weekday] - mean) / mean) ** 2 + ((days[weekday + 7] - mean) / mean) ** 2
  }
  return Math.sqrt(sum / 7)
}

/** What ranges of a period need besides totals. */
export interface RangeTerms {
  sample: number
  /** Days of the period, up to 28. */
  horizon: number
  sd: number
  /** Relative sd of what is won since a line's own rates are not known yet; none when left out. */
  rate?: number
}

const dayTerm = ({ horizon, sd, rate = 0 }: RangeTerms) => Math.hypot(sd * Math.sqrt(1 / horizon + 1 / TAPE_DAYS), rate)

/** Between-group variance of a total in the market: sample^2 (32/31) sum (T_g - mean)^2. */
function groupVariance(totals: ArrayLike<number>, sample: number): number {
  let sum = 0
  for (let g = 0; g < GROUPS; g++) sum += totals[g]
  const mean = sum / GROUPS
  let squares = 0
  for (let g = 0; g < GROUPS; g++) squares += (totals[g] - mean) ** 2
  return sample * sample * (GROUPS / (GROUPS - 1)) * squares
}

/**
 * Range of a count without budgets.
 * @param totals by group, in the sample
 * @param elasticity of the day term: 1 for counts, d ln reach / d ln wins for reach
 */
export function countRange(totals: ArrayLike<number>, terms: RangeTerms, elasticity = 1, noise?: number): Ranged {
  let sum = 0
  for (let g = 0; g < GROUPS; g++) sum += totals[g]
  const value = terms.sample * sum
  return around(value, groupVariance(totals, terms.sample) + (noise ?? CLUMPING * value) + (value * dayTerm(terms) * elasticity) ** 2)
}

/**
 * Range of a count from very few tape wins.
 * @param wins on the tape, in both weeks
 * @param scale what one win of the tape stands for in the period: sample / 2 for seven days
 */
export function smallRange(value: number, wins: number, scale: number): Ranged {
  if (wins === 0) return { value, low: 0, high: NONE_IN_A_WEEK * 2 * scale * CLUMPING }
  const shape = (wins + 0.5) / CLUMPING
  return {
    value,
    low: Math.min(value, gammaQuantile(0.1, shape, CLUMPING * scale)),
    high: Math.max(value, gammaQuantile(0.9, shape, CLUMPING * scale))
  }
}

/** Range of a ratio of two sums by jackknife over the groups, without the day term: both move together. */
export function ratioRange(tops: ArrayLike<number>, bottoms: ArrayLike<number>): Ranged {
  let top = 0
  let bottom = 0
  for (let g = 0; g < GROUPS; g++) {
    top += tops[g]
    bottom += bottoms[g]
  }
  if (!(bottom > 0)) return exactly(0)
  const value = top / bottom
  const without = Array.from({ length: GROUPS }, (_, g) => (bottom - bottoms[g] > 0 ? (top - tops[g]) / (bottom - bottoms[g]) : value))
  return around(value, jackknife(without))
}

/** Jackknife variance of leave-one-out values: (31/32) sum (F_-g - mean)^2. */
export function jackknife(without: readonly number[]): number {
  const mean = without.reduce((sum, value) => sum + value, 0) / without.length
  return ((without.length - 1) / without.length) * without.reduce((sum, value) => sum + (value - mean) ** 2, 0)
}

/** A figure of the market, and what it would be if what it rests on were another. */
export interface Varied {
  value: number
  /** Without each group in turn, what is left grown to the whole. */
  without: readonly number[]
  /** With all traffic grown and shrunk by the day term. */
  up: number
  down: number
  /** By draws of the line's own rate; none where it does not depend on one. */
  draws: readonly number[]
}

export const meanOf = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length

/** Shape from which a gamma distribution is as good as normal. */
const NORMAL_SHAPE = 40

/**
 * Range of a figure from what moves it: people by jackknife, days, the line's own rate, and the draws themselves.
 * @param noise variance of the draws
 */
export function variedRange({ value, without, up, down, draws }: Varied, noise: number): Ranged {
  const mean = draws.length > 0 ? meanOf(draws) : value
  const ofRate = draws.length > 0 ? meanOf(draws.map((draw) => (draw - mean) ** 2)) : 0
  const variance = jackknife(without) + ((up - down) / 2) ** 2 + ofRate + noise
  const shape = (mean * mean) / variance
  // Of few, or of a rate that is hardly known, what comes is more often a little under the mean and seldom far over it.
  if (shape < NORMAL_SHAPE && mean > 0)
    return {
      value: mean,
      low: Math.min(mean, gammaQuantile(0.1, shape, variance / mean)),
      high: Math.max(mean, gammaQuantile(0.9, shape, variance / mean))
    }
  return around(mean, variance)
}

export { dayTerm }
export const noiseOf = (value: number) => CLUMPING * value
/** The same of money. @param squares sum of squared charges in the sample */
export const moneyNoise = (squares: number, sample: number) => CLUMPING * sample * squares
