/** Limits of a line or a campaign, in the market's money; null for none. */
export interface Limits {
  dailyMicros: number | null
  weeklyMicros: number | null
  monthlyMicros: number | null
  totalMicros: number | null
  dailyImpressions: number | null
  weeklyImpressions: number | null
  monthlyImpressions: number | null
  totalImpressions: number | null
  /** A day on one placement. */
  placementDailyMicros: number | null
  /** A day through one supply source; left out for none. */
  sourceDailyMicros?: number | null
}

export const NO_LIMITS: Limits = {
  dailyMicros: null,
  weeklyMicros: null,
  monthlyMicros: null,
  totalMicros: null,
  dailyImpressions: null,
  weeklyImpressions: null,
  monthlyImpressions: null,
  totalImpressions: null,
  placementDailyMicros: null
}

/** Money and impressions together. */
export interface Amounts {
  micros: number
  impressions: number
}

/** What was spent and shown already, in the periods that the clock stands in. */
export interface SpentSoFar {
  day: Amounts
  week: Amounts
  month: Amounts
  total: Amounts
}
const NOTHING = { micros: 0, impressions: 0 }
export const NOTHING_SPENT: SpentSoFar = { day: NOTHING, week: NOTHING, month: NOTHING, total: NOTHING }

export const PERIODS = ['day', 'week', 'month', 'total'] as const
export type LimitPeriod = (typeof PERIODS)[number]

/** The limits of one kind by period. */
export interface PeriodLimits {
  daily: number | null
  weekly: number | null
  monthly: number | null
  total: number | null
}
export const moneyOf = (limits: Limits): PeriodLimits => ({
  daily: limits.dailyMicros,
  weekly: limits.weeklyMicros,
  monthly: limits.monthlyMicros,
  total: limits.totalMicros
})
export const impressionsOf = (limits: Limits): PeriodLimits => ({
  daily: limits.dailyImpressions,
  weekly: limits.weeklyImpressions,
  monthly: limits.monthlyImpressions,
  total: limits.totalImpressions
})

/** Weight of a day, and of all days left in its week, its month and the flight, itself included; Infinity for a flight without end. */
export interface DayWeights {
  day: number
  week: number
  month: number
  flight: number
}

/** What may be taken on a day, and which limit says so; none where nothing does. */
export interface DayLimit {
  amount: number
  period: LimitPeriod | null
}

/**
 * What may be taken of one kind of limit on a day: the daily limit, and of week, month and total what is left by the weight
 * of the day among those left. The L_d of docs/engine.md, 5.
 * @param taken in each period before the day began; `day` what was taken of the day itself before its plan was made
 * @param fast takes all that is left
 * @returns in the limit's unit; Infinity for no limit
 */
export function dayLimit(
  limit: PeriodLimits,
  taken: Readonly<Record<(typeof PERIODS)[number], number>>,
  weights: DayWeights,
  fast: boolean
): DayLimit {
  const share = (left: number, whole: number) =>
    Math.max(0, left) * (fast || !Number.isFinite(whole) ? 1 : whole > 0 ? Math.min(1, weights.day / whole) : 0)
  let tightest: DayLimit = { amount: Infinity, period: null }
  const atMost = (period: LimitPeriod, amount: number) => {
    if (amount < tightest.amount) tightest = { amount, period }
  }
  if (limit.daily !== null) atMost('day', Math.max(0, limit.daily - taken.day))
  if (limit.weekly !== null) atMost('week', share(limit.weekly - taken.week, weights.week))
  if (limit.monthly !== null) atMost('month', share(limit.monthly - taken.month, weights.month))
  if (limit.total !== null) atMost('total', share(limit.total - taken.total, weights.flight))
  return tightest
}

/** The amount of `dayLimit` alone. */
export const dayAllowance = (...asked: Parameters<typeof dayLimit>): number => dayLimit(...asked).amount
