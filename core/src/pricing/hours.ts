import { MINUTES_PER_WEEK } from '../time/index.js'
import type { HourPlan } from './price.js'

/**
 * Multiplier of an hour plan in thousandths, 0 for off.
 * @param utcMinuteOfWeek from Monday 00:00 UTC
 * @param offset minutes that the clock which is read is before UTC
 */
export function hourPerMille({ perMille }: HourPlan, utcMinuteOfWeek: number, offset: number): number {
  return perMille[Math.floor(((utcMinuteOfWeek + offset + 2 * MINUTES_PER_WEEK) % MINUTES_PER_WEEK) / 60)]
}

/** Whether a plan multiplies anything at all. */
export function hasMultipliers(hours: HourPlan | null | undefined): hours is HourPlan {
  return hours != null && hours.perMille.some((perMille) => perMille !== 1000)
}
