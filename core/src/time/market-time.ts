/**
 * Market time: whole hours or minutes since 2026-01-01T00:00Z, never a date object in storage.
 * Day 0 is Thursday 1 January 2026 (UTC). Weekdays count from Monday = 0.
 */
export const HOURS_PER_DAY = 24
export const MINUTES_PER_DAY = 1440
export const MINUTES_PER_WEEK = 10_080
const EPOCH_MS = Date.UTC(2026, 0, 1)

/** Weekday of a market day, Monday = 0; works for negative days. */
export function weekdayOf(day: number): number {
  return (((day + 3) % 7) + 7) % 7
}

export function dayOfHour(hour: number): number {
  return Math.floor(hour / HOURS_PER_DAY)
}

/** Market day of a calendar date `YYYY-MM-DD`; throws RangeError unless it is a real date. */
export function dayOfDate(date: string): number {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(date)
  const ms = match ? Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3])) : NaN
  if (!match || new Date(ms).toISOString().slice(0, 10) !== date) throw new RangeError(`"${date}" is not a date such as 2026-03-02.`)
  return Math.round((ms - EPOCH_MS) / 86_400_000)
}

/** Calendar date `YYYY-MM-DD` of a market day. */
export function dateOfDay(day: number): string {
  return new Date(EPOCH_MS + day * 86_400_000).toISOString().slice(0, 10)
}

/** The JavaScript instant of a market hour, for formatting only. */
export function instantOf(hour: number): Date {
  return new Date(EPOCH_MS + hour * 3_600_000)
}
