import { dayLimit, fillShares, impressionsOf, moneyOf, type LimitPeriod, type Pacing } from '../exchange/index.js'
import type { DayMate, Limits, SpentSoFar } from './question.js'

/** The replay's time as the money step needs it. */
export interface MoneyCalendar {
  days: number
  /** Minute of the first day at which it opens, and of the replay at which it ends. */
  firstMinute: number
  span: number
  /** Weekday of the first day, Monday = 0; 0 for a week as it stands. */
  weekday: number
  /** Days from the first one to the end of its calendar month, itself included. */
  daysLeftInMonth: number
  /** Days over which totals are spread, this replay's included; null for a flight without end. */
  flightDays: number | null
  /** Open minutes of each hour of the week, Monday 00:00 first; 60 where nothing is off. */
  openMinutes: ArrayLike<number>
}

export interface MoneyLimits {
  pacing: Pacing
  own: Limits
  campaign: Limits
  /** The campaign's other lines in force, which share its day. */
  mates: readonly DayMate[]
  /** Weight of the line's own share, micros a day, where it stays whatever is asked about; else what it could spend. */
  weightMicros?: number | null
  /** What is gone already when the first day opens; a whole week as it stands has none. */
  spent: SpentSoFar
  campaignSpent: SpentSoFar
}

/** A limit that decides a day's plan. */
export interface PlanLimit {
  kind: 'limit'
  whose: 'line' | 'campaign'
  period: LimitPeriod
  what: 'money' | 'impressions'
}

export interface MoneyResult {
  /** In the sample, as the replay's own figures. */
  spend: number
  wins: number
  /** Share of each slot that is bought. */
  shares: Float64Array
  /** Day plans: micros and impressions of the market, Infinity for none; and by which limits. */
  plans: { micros: number; impressions: number; by: { money: PlanLimit | null; impressions: PlanLimit | null } }[]
  daySpend: number[]
  dayWins: number[]
}

const LONG_AFTER = 400

/** Weight of days: open minutes, or for `traffic` what each could take. */
function dayWeights(slots: ArrayLike<number>, limits: MoneyLimits, calendar: MoneyCalendar): number[] {
  const open = openOfSlots(calendar)
  return Array.from({ length: calendar.days }, (_, day) => {
    let sum = 0
    for (let hour = 0; hour < 24; hour++) sum += limits.pacing === 'traffic' ? slots[day * 24 + hour] : open[day * 24 + hour]
    return sum
  })
}

const openSlots = new WeakMap<MoneyCalendar, Float64Array>()

/** Minutes of each slot of the replay in which the line is open. */
export function openOfSlots(calendar: MoneyCalendar): Float64Array {
  let open = openSlots.get(calendar)
  if (!open) openSlots.set(calendar, (open = openedSlots(calendar)))
  return open
}

function openedSlots({ days, firstMinute, span, weekday, openMinutes }: MoneyCalendar): Float64Array {
  return Float64Array.from({ length: days * 24 }, (_, slot) => {
    const ofWeek = ((weekday + Math.floor(slot / 24)) % 7) * 24 + (slot % 24)
    return (openMinutes[ofWeek] * Math.max(0, Math.min(slot * 60 + 60, span) - Math.max(slot * 60, firstMinute))) / 60
  })
}

/**
 * What budgets leave of a replay. Within a day money becomes available with the plan, what is not spent stays
 * available, and each hour spends the smaller of what it could and what there is:
 * backlog += p; c = min(a, backlog); backlog -= c. The same with impressions; the smaller share counts.
 * @param slotSpend spend by hour slot that the market would take, in the sample; `slotWins` wins
 * @param sample people of the market for each on the tape
 */
export function moneyStep(
  slotSpend: ArrayLike<number>,
  slotWins: ArrayLike<number>,
  limits: MoneyLimits,
  calendar: MoneyCalendar,
  sample: number
): MoneyResult {
  const { days } = calendar
  const result: MoneyResult = { spend: 0, wins: 0, shares: new Float64Array(days * 24), plans: [], daySpend: [], dayWins: [] }
  const open = openOfSlots(calendar)
  const weights = dayWeights(slotSpend, limits, calendar)
  // Beyond the replay days weigh as much as the mean of its last seven.
  const later = weights.slice(-7).reduce((sum, weight) => sum + weight, 0) / Math.min(7, days)
  const weightOf = (day: number) => (day < days ? weights[day] : later)
  const sumTo = (from: number, to: number) => {
    let sum = 0
    for (let day = from; day < Math.min(to, days); day++) sum += weights[day]
    return sum + Math.max(0, Math.min(to, days + LONG_AFTER) - Math.max(from, days)) * later
  }
  const flightEnd = calendar.flightDays ?? Infinity
  const start = (spent: SpentSoFar, what: 'micros' | 'impressions') => ({
    day: spent.day[what],
    week: spent.week[what],
    month: spent.month[what],
    total: spent.total[what]
  })
  const taken = {
    own: start(limits.spent, 'micros'),
    campaign: start(limits.campaignSpent, 'micros'),
    ownShown: start(limits.spent, 'impressions'),
    campaignShown: start(limits.campaignSpent, 'impressions')
  }
  const fast = limits.pacing === 'fast'
  let demand = 0
  for (let slot = 0; slot < days * 24; slot++) demand += slotSpend[slot]
  const own = { weight: limits.weightMicros ?? (demand * sample) / days, spent: 0, room: Infinity }
  // The exchange shares the day anew at each hour; over a day that comes to this: what a mate cannot use is left to the others.
  const shareOf = (whole: number, what: 'micros' | 'impressions') =>
    whole === Infinity || limits.mates.length === 0
      ? whole
      : fillShares(whole, [
          own,
          ...limits.mates.map(({ demandMicros, dailyMicros }) => ({
            weight: demandMicros,
            spent: 0,
            room: what === 'micros' ? Math.min(demandMicros, dailyMicros ?? Infinity) : Infinity
          }))
        ])[0]
  for (let day = 0; day < days; day++) {
    if (day > 0) {
      for (const counts of Object.values(taken)) {
        counts.day = 0
        if ((calendar.weekday + day) % 7 === 0) counts.week = 0
        if (day === calendar.daysLeftInMonth) counts.month = 0
      }
    }
    const weekEnd = day + 7 - ((calendar.weekday + day) % 7)
    const monthEnd = day < calendar.daysLeftInMonth ? calendar.daysLeftInMonth : calendar.daysLeftInMonth + 30
    const left = {
      day: weightOf(day),
      week: sumTo(day, Math.min(weekEnd, flightEnd)),
      month: sumTo(day, Math.min(monthEnd, flightEnd)),
      flight: flightEnd === Infinity ? Infinity : sumTo(day, flightEnd)
    }
    const tightest = (what: 'money' | 'impressions') => {
      const isMoney = what === 'money'
      const limitsOf = (whose: Limits) => (isMoney ? moneyOf(whose) : impressionsOf(whose))
      const line = dayLimit(limitsOf(limits.own), isMoney ? taken.own : taken.ownShown, left, fast)
      const whole = dayLimit(limitsOf(limits.campaign), isMoney ? taken.campaign : taken.campaignShown, left, fast)
      const campaign = { ...whole, amount: shareOf(whole.amount, isMoney ? 'micros' : 'impressions') }
      const [whose, { amount, period }] = line.amount <= campaign.amount ? (['line', line] as const) : (['campaign', campaign] as const)
      return { amount, limit: period === null ? null : { kind: 'limit' as const, whose, period, what } }
    }
    const [byMoney, byImpressions] = [tightest('money'), tightest('impressions')]
    const [money, shown] = [byMoney.amount, byImpressions.amount]
    result.plans.push({ micros: money, impressions: shown, by: { money: byMoney.limit, impressions: byImpressions.limit } })
    spendDay({ day, money: money / sample, shown: shown / sample, pacing: limits.pacing }, { slotSpend, slotWins, open }, result)
    for (const counts of [taken.own, taken.campaign]) {
      const spent = result.daySpend[day] * sample
      counts.day += spent
      counts.week += spent
      counts.month += spent
      counts.total += spent
    }
    for (const counts of [taken.ownShown, taken.campaignShown]) {
      const won = result.dayWins[day] * sample
      counts.day += won
      counts.week += won
      counts.month += won
      counts.total += won
    }
  }
  return result
}

/** What a day may take, in the sample: micros and impressions; Infinity for no limit. */
interface DayMoney {
  day: number
  money: number
  shown: number
  pacing: Pacing
}

/** By hour slot of the replay: what the market would take, and minutes in which the line is open. */
interface Slots {
  slotSpend: ArrayLike<number>
  slotWins: ArrayLike<number>
  open: Float64Array
}

/** Spends a day hour by hour, and adds what was bought to a result. */
function spendDay({ day, money, shown, pacing }: DayMoney, { slotSpend, slotWins, open }: Slots, result: MoneyResult): void {
  const from = day * 24
  let openSum = 0
  let spendSum = 0
  let firstOpen = -1
  for (let slot = from; slot < from + 24; slot++) {
    openSum += open[slot]
    spendSum += slotSpend[slot]
    if (firstOpen < 0 && open[slot] > 0) firstOpen = slot
  }
  let moneyLeft = 0
  let shownLeft = 0
  let daySpend = 0
  let dayWins = 0
  for (let slot = from; slot < from + 24; slot++) {
    const part =
      pacing === 'fast'
        ? slot === firstOpen
          ? 1
          : 0
        : pacing === 'traffic'
          ? spendSum > 0
            ? slotSpend[slot] / spendSum
            : 0
          : openSum > 0
            ? open[slot] / openSum
            : 0
    const a = slotSpend[slot]
    const w = slotWins[slot]
    if (money !== Infinity) moneyLeft += money * part
    if (shown !== Infinity) shownLeft += shown * part
    const byMoney = money === Infinity || a === 0 ? (money === Infinity || moneyLeft > 0 ? 1 : 0) : Math.min(a, moneyLeft) / a
    const byShown = shown === Infinity || w === 0 ? 1 : Math.min(w, shownLeft) / w
    const share = Math.min(byMoney, byShown)
    if (money !== Infinity) moneyLeft = Math.max(0, moneyLeft - a * share)
    if (shown !== Infinity) shownLeft = Math.max(0, shownLeft - w * share)
    result.shares[slot] = share
    daySpend += a * share
    dayWins += w * share
  }
  result.daySpend.push(daySpend)
  result.dayWins.push(dayWins)
  result.spend += daySpend
  result.wins += dayWins
}

/** Whether any limit is set that the money step knows. */
export function hasLimits(...all: Limits[]): boolean {
  return all.some((limits) =>
    Object.entries(limits).some(([name, value]) => name !== 'placementDailyMicros' && name !== 'sourceDailyMicros' && value != null)
  )
}
