/** Kinds of event whose rates a line learns. */
export const RATE_KINDS = ['view', 'click', 'stay', 'conversion'] as const
export type RateKind = (typeof RATE_KINDS)[number]

/**
 * How much is known of a line's rates before it has results: so many events had as expected, the weight of a gamma prior. Fitted to how far
 * lines lie from the trade's means by `npm run truth -- rates`; exchange, forecasts and their ranges read it.
 */
export const RATE_WEIGHTS: Readonly<Record<RateKind, number>> = { view: 100, click: 14, stay: 12, conversion: 4 }

/** A line's rate of a kind: factor over the trade's mean, and its relative standard deviation. */
export interface KnownRate {
  factor: number
  sd: number
}

/** Events that came, and how many the trade's means had expected. */
export interface Evidence {
  events: number
  expected: number
}

/**
 * A rate whose mean before there are results is another than the trade's, such as of people who see an ad more often than the mean.
 * @param mean of it, against the trade's
 */
export function withMean(kind: RateKind, { factor, sd }: KnownRate, mean: number): KnownRate {
  const known = 1 / (sd * sd)
  if (!Number.isFinite(known)) return { factor, sd }
  return { factor: (factor * (known - RATE_WEIGHTS[kind] * (1 - mean))) / known, sd }
}

/** Gamma-Poisson: mean and spread of what is left open of a rate. */
export function knownRate(kind: RateKind, { events, expected }: Evidence): KnownRate {
  const weight = RATE_WEIGHTS[kind]
  return { factor: (events + weight) / (expected + weight), sd: 1 / Math.sqrt(events + weight) }
}
