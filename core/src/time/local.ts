import { HOURS_PER_DAY } from './market-time.js'
import { offsetMinutes } from './zones.js'

/**
 * Local days of a whole-hour zone. A local day starts at the first market hour whose local date is that day;
 * days on which clocks change have 23 or 25 hours.
 */

/** Local day number (days since 2026-01-01 on the zone's calendar) of a market hour. */
export function localDayOf(zone: number, hour: number): number {
  return Math.floor((hour * 60 + offsetMinutes(zone, hour)) / 1440)
}

/** First market hour (UTC) of a local day. */
export function startOfLocalDay(zone: number, day: number): number {
  let hour = day * HOURS_PER_DAY - Math.floor(offsetMinutes(zone, day * HOURS_PER_DAY) / 60)
  while (localDayOf(zone, hour) >= day) hour--
  while (localDayOf(zone, hour) < day) hour++
  return hour
}

/** Hour of the local day, 0 to 23, in which a market hour begins. */
export function localHourOf(zone: number, hour: number): number {
  return (((((hour * 60 + offsetMinutes(zone, hour)) % 1440) + 1440) % 1440) / 60) | 0
}

/**
 * First market hour of a local day at which its clock is at an hour or past it; 24 is the end of the day. An hour that does not happen
 * is the one after it.
 */
export function hourOfLocalDay(zone: number, day: number, clock: number): number {
  const end = startOfLocalDay(zone, day + 1)
  for (let hour = startOfLocalDay(zone, day); hour < end; hour++) if (localHourOf(zone, hour) >= clock) return hour
  return end
}

/** Hours on the clock of a local day, one after the other: not 0 to 23 on a day on which the clock changes. */
export function hoursOfDay(zone: number, day: number): number[] {
  const start = startOfLocalDay(zone, day)
  return Array.from({ length: startOfLocalDay(zone, day + 1) - start }, (_, n) => localHourOf(zone, start + n))
}
