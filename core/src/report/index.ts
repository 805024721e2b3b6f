export { REPORT_MEASURES, type MeasureKind, type ReportMeasure } from './measure-table.js'
export { REPORT_MEASURE_NAMES, measured } from './measures.js'
export { reportFile } from './report-file.js'
import { gammaQuantile } from './gamma.js'

/** Two-sided normal quantile of the 90 % that all ranges of results use. */
const Z90 = 1.6448536269514722

export interface Interval {
  low: number
  high: number
}

/**
 * Wilson score interval for a rate, 90 % two-sided (E. B. Wilson 1927).
 * @param trials 0 gives [0, 1]
 */
export function wilson(events: number, trials: number): Interval {
  if (!(trials > 0)) return { low: 0, high: 1 }
  const p = events / trials
  const z2 = (Z90 * Z90) / trials
  const middle = p + z2 / 2
  const spread = Z90 * Math.sqrt((p * (1 - p)) / trials + z2 / (4 * trials))
  // Without or with nothing but events the bound is exact; the formula would miss it by its last bit.
  return {
    low: events === 0 ? 0 : Math.max(0, (middle - spread) / (1 + z2)),
    high: events === trials ? 1 : Math.min(1, (middle + spread) / (1 + z2))
  }
}

/** Impressions under which a click rate is shown faint: fewer say nothing about rates near a tenth of a per cent. */
export const LEAST_FOR_RATE = 1000
export * from './gamma.js'

/**
 * 90 % range of a cost per event: the count of events is gamma-Poisson with a prior of half an event.
 * @returns micros an event; `high` is Infinity when nothing says that there are any, null when nothing was spent
 */
export function costRange(spendMicros: number, events: number): Interval | null {
  if (!(spendMicros > 0)) return null
  return {
    low: spendMicros / gammaQuantile(0.95, events + 0.5, 1),
    high: events === 0 ? Infinity : spendMicros / gammaQuantile(0.05, events + 0.5, 1)
  }
}

/**
 * 90 % range of events a trial, of which a trial may have several: gamma-Poisson with a prior of half an event.
 * @param trials 0 gives [0, 1]
 */
export const countRange = (events: number, trials: number): Interval =>
  trials > 0
    ? { low: events === 0 ? 0 : gammaQuantile(0.05, events + 0.5, 1) / trials, high: gammaQuantile(0.95, events + 0.5, 1) / trials }
    : { low: 0, high: 1 }

/**
 * A count over what was expected of it, with its 90 % range: both counts are Poisson, and the logarithm of their ratio is near
 * normal with variance 1/a + 1/b (Katz et al. 1978), half an event added to each.
 * @param behind events from which the expectation was made
 */
export function countRatioRange(count: number, expected: number, behind: number): Interval & { value: number } {
  const spread = Math.exp(Z90 * Math.sqrt(1 / (count + 0.5) + 1 / (behind + 0.5)))
  const middle = (count + 0.5) / expected
  return { value: count / expected, low: count === 0 ? 0 : Math.min(count / expected, middle / spread), high: middle * spread }
}

/** Events that what is known of a kind of traffic counts for, beside a buyer's own. */
const PRIOR_EVENTS = 20

/**
 * A rate from what the trade knows of such traffic and a buyer's own results: gamma-Poisson, the prior as heavy as twenty events.
 * @param prior events a trial
 * @returns the mean with its 90 % range
 */
export function shrunkRate(prior: number, events: number, trials: number): Interval & { value: number } {
  if (!(prior > 0)) return { value: 0, low: 0, high: 0 }
  const scale = 1 / (PRIOR_EVENTS / prior + trials)
  const shape = PRIOR_EVENTS + events
  return { value: shape * scale, low: gammaQuantile(0.05, shape, scale), high: gammaQuantile(0.95, shape, scale) }
}
