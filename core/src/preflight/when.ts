import { flightHours, type LineDraft } from '../buying/index.js'
import type { HourPlan } from '../pricing/index.js'
import { HOURS_PER_DAY, dateOfDay, dayOfDate, hoursOfDay, localDayOf, localHourOf, weekdayOf, zoneIndex } from '../time/index.js'
import { fixed, type Findings } from './collecting.js'

/** Working hours, of Monday to Friday in the line's zone. */
const WORK_FROM = 8
const WORK_TO = 19

/** Whether a flight is over, and whether it would begin while nobody watches. */
export function flight(line: LineDraft, { nowHour, isLive }: { nowHour: number; isLive?: boolean }, { stops, warns }: Findings): void {
  const { startHour, endHour } = flightHours(line.flight, line.zone)
  const zone = zoneIndex(line.zone)
  if (endHour !== null && endHour <= nowHour) stops('flight.endDate', 'The flight is over by the market clock.')
  const first = Math.max(startHour, nowHour)
  const hour = localHourOf(zone, first)
  const weekday = weekdayOf(localDayOf(zone, first))
  const atNight = hour < WORK_FROM || hour >= WORK_TO
  if (!isLive && line.onceCleared === 'start' && (endHour === null || endHour > nowHour) && (weekday > 4 || atNight)) {
    warns(
      'onceCleared',
      `It would start ${weekday > 4 ? 'at the weekend' : `at ${hour}:00`}, when nobody may be watching.`,
      fixed('Wait for release', { field: 'onceCleared', value: 'wait' })
    )
  }
}

/** Whether any hour of a flight of a few days is open by the line's own clock: it may begin and end inside a day. */
function isOpenInside({ flight: ran, zone }: LineDraft, { perMille }: HourPlan): boolean {
  const index = zoneIndex(zone)
  const { startHour, endHour } = flightHours(ran, zone)
  for (let hour = startHour; hour < (endHour ?? startHour); hour++)
    if (perMille[weekdayOf(localDayOf(index, hour)) * HOURS_PER_DAY + localHourOf(index, hour)] > 0) return true
  return false
}

/** Whether hours meet their flight, and what a change of the clock does to them. */
export function hours(line: LineDraft, _: unknown, { stops, warns }: Findings): void {
  const {
    hours: plan,
    flight: { startDate, endDate },
    zone
  } = line
  if (!plan) return
  const from = dayOfDate(startDate)
  const to = endDate === null ? Infinity : dayOfDate(endDate)
  const days = Array.from({ length: Math.min(7, to - from + 1) }, (__, n) => weekdayOf(from + n))
  const isOpenOn = (day: number) => plan.perMille.slice(day * HOURS_PER_DAY, (day + 1) * HOURS_PER_DAY).some((perMille) => perMille > 0)
  if (!(plan.clock === 'line' && to - from < 7 ? isOpenInside(line, plan) : days.some(isOpenOn)))
    stops('hours', 'Its hours never meet its flight.', fixed('Open all hours', { field: 'hours', value: null }))
  if (plan.clock !== 'line') return
  const index = zoneIndex(zone)
  for (let day = from; day <= Math.min(to, from + 400); day++) {
    const clock = hoursOfDay(index, day)
    if (clock.length === HOURS_PER_DAY) continue
    const odd =
      Array.from({ length: HOURS_PER_DAY }, (__, hour) => hour).find((hour) => clock.filter((one) => one === hour).length !== 1) ?? 0
    if (plan.perMille[weekdayOf(day) * HOURS_PER_DAY + odd] > 0)
      warns(
        'hours',
        `On ${dateOfDay(day)} the clock of ${zone} changes: the hour from ${odd}:00, in which it is open, ${clock.length < HOURS_PER_DAY ? 'does not happen' : 'happens twice'}.`
      )
    break
  }
}
