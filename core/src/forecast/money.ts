import { dayLimit, type Pacing } from '../exchange/index.js'

/** Money limits of the line and of its campaign, in the market's money (not the sample's). */
export interface MoneyLimits {
  dailyMicros: number | null
  totalMicros: number | null
  pacing: Pacing
  /** Campaign limits, and the share of the campaign's day this line may plan with, 0 to 1. */
  campaignDailyMicros: number | null
  campaignTotalMicros: number | null
  campaignShare: number
}

/** The replay's time as the money step needs it. */
export interface MoneyCalendar {
  days: number
  /** Open minutes of the first day and of all others: [from, 1440). */
  firstMinute: number
  /** Days over which totals are spread; null for a flight without end. */
  flightDays: number | null
}

export interface MoneyResult {
  /** In the sample, as the replay's own figures. */
  spend: number
  wins: number
  /** Day plans in the market's money. */
  plans: number[]
  /** Spend of each day, in the sample. */
  daySpend: number[]
}

/**
 * What a budget leaves of a replay. Within a day money becomes available with the plan, what is not spent stays
 * available, and each hour spends the smaller of what it could and what there is:
 * backlog += p; c = min(a, backlog); backlog -= c.
 * @param sample people of the market for each on the tape
 */
export function moneyStep(slotSpend: Float64Array, slotWins: Float64Array, limits: MoneyLimits, calendar: MoneyCalendar, sample: number): MoneyResult {
  const result: MoneyResult = { spend: 0, wins: 0, plans: [], daySpend: [] }
  let spentTotal = 0
  for (let day = 0; day < calendar.days; day++) {
    const openFrom = day === 0 ? calendar.firstMinute : 0
    const minutes = 1440 - openFrom
    const minutesLeft = calendar.flightDays === null ? null : minutes + (calendar.flightDays - day - 1) * 1440
    const left = (total: number | null) => (total === null ? null : total - spentTotal)
    const own = dayLimit(limits.dailyMicros, left(limits.totalMicros), limits.pacing, minutes, minutesLeft)
    const campaign = dayLimit(limits.campaignDailyMicros, left(limits.campaignTotalMicros), limits.pacing, minutes, minutesLeft)
    const plan = Math.min(own, campaign * limits.campaignShare)
    result.plans.push(plan)
    let backlog = 0
    let daySpend = 0
    for (let hour = 0; hour < 24; hour++) {
      const slot = day * 24 + hour
      const open = Math.max(0, Math.min(60, hour * 60 + 60 - openFrom))
      backlog += plan === Infinity ? slotSpend[slot]
        : limits.pacing === 'fast' ? (open > 0 && (hour === 0 || hour * 60 <= openFrom) ? plan / sample : 0)
        : ((plan / sample) * open) / minutes
      const spend = Math.min(slotSpend[slot], backlog)
      backlog -= spend
      daySpend += spend
      if (slotSpend[slot] > 0) result.wins += (slotWins[slot] * spend) / slotSpend[slot]
      else if (backlog > 0) result.wins += slotWins[slot]
    }
    result.daySpend.push(daySpend)
    result.spend += daySpend
    spentTotal += daySpend * sample
  }
  return result
}
