import type { HourPlan } from '../pricing/index.js'
import { HOURS_PER_DAY, localDayOf, localHourOf, weekdayOf } from '../time/index.js'

/** Market hours [from, to). */
export interface HourRange {
  from: number
  to: number
}

/** Market hours of a flight; null for one without end. */
interface FlightHours {
  startHour: number
  endHour: number | null
}

/** Hours of a flight in which something was in force, up to a moment. */
export function hoursRun({ startHour, endHour }: FlightHours, inForce: readonly HourRange[], until: number): number {
  const last = Math.min(until, endHour ?? until)
  return inForce.reduce((sum, { from, to }) => sum + Math.max(0, Math.min(to, last) - Math.max(from, startHour)), 0)
}

/**
 * Days of an even plan that are due: hours in which a line could buy, each as a part of the open hours of its day. What was shut, paused or
 * not yet live is never owed.
 * @param zone of its days; hours that are the viewer's are read in it too
 */
export function daysDue(
  flight: FlightHours,
  { hours, zone }: { hours: HourPlan | null; zone: number },
  inForce: readonly HourRange[],
  until: number
): number {
  const shut = hours?.perMille.some((perMille) => perMille === 0)
  if (!hours || !shut) return hoursRun(flight, inForce, until) / HOURS_PER_DAY
  const openOn = Array.from(
    { length: 7 },
    (_, day) => hours.perMille.slice(day * HOURS_PER_DAY, (day + 1) * HOURS_PER_DAY).filter((perMille) => perMille > 0).length
  )
  const last = Math.min(until, flight.endHour ?? until)
  let days = 0
  for (const { from, to } of inForce)
    for (let hour = Math.max(from, flight.startHour); hour < Math.min(to, last); hour++) {
      const weekday = weekdayOf(localDayOf(zone, hour))
      if (hours.perMille[weekday * HOURS_PER_DAY + localHourOf(zone, hour)] > 0) days += 1 / openOn[weekday]
    }
  return days
}

/** Ranges in order, those that meet or overlap as one. */
export function joined(ranges: readonly HourRange[]): HourRange[] {
  const all: HourRange[] = []
  for (const range of [...ranges].sort((a, b) => a.from - b.from)) {
    const last = all[all.length - 1]
    if (range.to <= range.from) continue
    if (last && range.from <= last.to) last.to = Math.max(last.to, range.to)
    else all.push({ ...range })
  }
  return all
}
