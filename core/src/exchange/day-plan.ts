import {
  HOURS_PER_DAY,
  dateOfDay,
  dayOfDate,
  localDayOf,
  localHourOf,
  offsetMinutes,
  startOfLocalDay,
  weekdayOf,
  zoneIndex
} from '../time/index.js'
import type { HourPlan } from '../pricing/index.js'
import { NO_LIMITS, PERIODS, dayAllowance, impressionsOf, moneyOf, type DayWeights, type Limits, type SpentSoFar } from './limits.js'
import type { Purse } from './allocation.js'
import type { Pacing } from './pacing.js'

/** Longest flight that totals are spread over, in days. */
const LONGEST_SPREAD = 800

/** When a line or campaign may buy, and how much each hour of its local week weighs. */
export interface Calendar {
  zone: number
  startHour: number
  endHour: number | null
  /** By local hour of the week, Monday 00:00 first. */
  weights: ArrayLike<number>
}

/** Weight of each hour of the week: open minutes, or for pacing by traffic what the forecast said it could spend. */
export function hourWeights(pacing: Pacing, hours: HourPlan | null | undefined, traffic: readonly number[] | undefined): number[] {
  return Array.from({ length: 168 }, (_, hour) =>
    pacing === 'traffic' && traffic ? traffic[hour] : hours && hours.clock === 'line' && hours.perMille[hour] === 0 ? 0 : 60
  )
}

const ALWAYS_OPEN = new Array<number>(168).fill(60)
export const calendarOfCampaign = ({
  zone,
  startHour,
  endHour
}: {
  zone: string
  startHour: number
  endHour: number | null
}): Calendar => ({ zone: zoneIndex(zone), startHour, endHour, weights: ALWAYS_OPEN })

/** Weight of a local day's hours inside [from, to). */
function weightOf({ zone, weights }: Calendar, day: number, from: number, to: number): number {
  const start = startOfLocalDay(zone, day)
  const end = startOfLocalDay(zone, day + 1)
  const weekday = weekdayOf(day)
  let sum = 0
  for (let hour = Math.max(start, from); hour < Math.min(end, to); hour++) sum += weights[weekday * HOURS_PER_DAY + localHourOf(zone, hour)]
  return sum
}

/** First day of the calendar month after a day. */
export function nextMonth(day: number): number {
  const [year, month] = dateOfDay(day).split('-').map(Number)
  return dayOfDate(month === 12 ? `${year + 1}-01-01` : `${year}-${String(month + 1).padStart(2, '0')}-01`)
}

/**
 * Whether a local day has its usual hours, told from well before it to well after it: where its clock changes, an hour is missing
 * or comes twice.
 */
const isWhole = (zone: number, day: number) =>
  offsetMinutes(zone, (day - 1) * HOURS_PER_DAY) === offsetMinutes(zone, (day + 2) * HOURS_PER_DAY)

const newestWeights = new WeakMap<Calendar, { day: number; from: number; weights: DayWeights }>()

/**
 * Weights of a local day and of what is left of its week, month and flight, itself included. A calendar is asked about one day
 * hour after hour: its last answer is kept.
 * @param from market hour from which the day counts
 */
export function dayWeights(calendar: Calendar, day: number, from: number): DayWeights {
  const known = newestWeights.get(calendar)
  if (known?.day === day && known.from === from) return known.weights
  const weights = weighDay(calendar, day, from)
  newestWeights.set(calendar, { day, from, weights })
  return weights
}

function weighDay(calendar: Calendar, day: number, from: number): DayWeights {
  const { endHour } = calendar
  const to = endHour ?? Infinity
  const today = weightOf(calendar, day, from, to)
  const week = Array.from({ length: 7 }, (_, weekday) => {
    let sum = 0
    for (let hour = 0; hour < HOURS_PER_DAY; hour++) sum += calendar.weights[weekday * HOURS_PER_DAY + hour]
    return sum
  })
  const lastDay = endHour === null ? Infinity : localDayOf(calendar.zone, endHour - 1)
  const until = (end: number) => {
    let sum = today
    for (let other = day + 1; other < Math.min(end, lastDay, day + LONGEST_SPREAD); other++)
      sum += isWhole(calendar.zone, other) ? week[weekdayOf(other)] : weightOf(calendar, other, -Infinity, Infinity)
    if (lastDay > day && lastDay < end) sum += weightOf(calendar, lastDay, -Infinity, to)
    return sum
  }
  return {
    day: today,
    week: until(day + 7 - weekdayOf(day)),
    month: until(nextMonth(day)),
    flight: endHour === null ? Infinity : until(lastDay + 1)
  }
}

/** What a purse may spend and show on a day, by its limits and what went before that day. */
export function purseAllowance(
  { limits, spent }: { limits: Limits; spent: SpentSoFar },
  weights: DayWeights,
  fast: boolean
): { micros: number; impressions: number } {
  const before = (what: 'micros' | 'impressions') =>
    Object.fromEntries(PERIODS.map((period) => [period, spent[period][what] - spent.day[what]])) as Record<(typeof PERIODS)[number], number>
  return {
    micros: dayAllowance(moneyOf(limits), before('micros'), weights, fast),
    impressions: dayAllowance(impressionsOf(limits), before('impressions'), weights, fast)
  }
}

/** Whether a purse has any limit of money or impressions over time. */
export const isLimited = (limits: Limits) => OVER_TIME.some((name) => limits[name] !== null)
const OVER_TIME = (Object.keys(NO_LIMITS) as (keyof Limits)[]).filter(
  (name) => name !== 'placementDailyMicros' && name !== 'sourceDailyMicros'
)

/** Begins the periods that a new local day begins. */
export function beginDay({ spent }: Purse, day: number): void {
  const clear = (period: (typeof PERIODS)[number]) => Object.assign(spent[period], { micros: 0, impressions: 0 })
  clear('day')
  if (weekdayOf(day) === 0) clear('week')
  if (dateOfDay(day).endsWith('-01')) clear('month')
}
