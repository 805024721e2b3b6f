import { weekdayOf } from '../time/index.js'

/** When somebody works: Monday to Friday, from one hour of UTC to another. */
export interface WorkingDay {
  from: number
  to: number
}
/** The reviewer's day, and the working hours that an answer takes at most. */
export const REVIEWERS: WorkingDay & { most: number } = { from: 8, to: 18, most: 4 }

export const isWorkingHour = (hour: number, { from, to }: WorkingDay): boolean =>
  weekdayOf(Math.floor(hour / 24)) < 5 && hour % 24 >= from && hour % 24 < to

/** The first market hour at whose start so many working hours have passed since an hour. */
export function afterWorking(hour: number, hours: number, day: WorkingDay): number {
  let [left, now] = [hours, hour]
  for (; left > 0; now++) if (isWorkingHour(now, day)) left--
  return now
}

/** By when the reviewer has answered what is sent at an hour. */
export const answeredBy = (hour: number): number => afterWorking(hour, REVIEWERS.most, REVIEWERS)
