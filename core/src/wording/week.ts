import { HOURS_PER_WEEK, type HourPlan } from '../pricing/index.js'
import { cutAt, partsOf } from './quoting.js'

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const
const DAY = 24
const OPEN = 1000

/** Stretches of a day in which the multiplier stays the same, those that are off left out. */
function stretches(day: readonly number[]): string {
  const found: string[] = []
  for (let from = 0; from < DAY;) {
    let to = from + 1
    while (to < DAY && day[to] === day[from]) to++
    if (day[from] > 0) found.push(`${from} to ${to}${day[from] === OPEN ? '' : ` at ${day[from] / 10} %`}`)
    from = to
  }
  return found.join(' and ')
}

/** All hours of a week with their multipliers; days that are alike are said once. */
export function longWeek(perMille: readonly number[]): string {
  const days = WEEKDAYS.map((_, day) => stretches(perMille.slice(day * DAY, (day + 1) * DAY)))
  return [...new Set(days)]
    .filter((hours) => hours !== '')
    .map((hours) => `${WEEKDAYS.filter((_, day) => days[day] === hours).join(', ')} ${hours}`)
    .join('; ')
}

/** Reads the hours of a week; null for a text that does not say them. */
export function readWeek(text: string, clock: HourPlan['clock']): HourPlan | null {
  const perMille = new Array<number>(HOURS_PER_WEEK).fill(0)
  for (const part of partsOf(text, /; /)) {
    const found = /^((?:[A-Z][a-z]+day(?:, )?)+) (.+)$/.exec(part)
    const days = found?.[1].split(', ').map((name) => WEEKDAYS.indexOf(name as 'Monday')) ?? []
    if (!found || days.some((day) => day < 0)) return null
    for (const stretch of partsOf(found[2], / and /)) {
      const [hours, said] = cutAt(stretch, / at /)
      const [, from, to] = /^(\d{1,2}) to (\d{1,2})$/.exec(hours)?.map(Number) ?? [0, NaN, NaN]
      const value = said === null ? OPEN : /^\d+(\.\d)? %$/.test(said) ? Math.round(parseFloat(said) * 10) : NaN
      if (!(from < to && to <= DAY) || Number.isNaN(value)) return null
      for (const day of days) perMille.fill(value, day * DAY + from, day * DAY + to)
    }
  }
  return { clock, perMille }
}
