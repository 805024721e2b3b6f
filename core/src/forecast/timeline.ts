import { MINUTES_PER_DAY, MINUTES_PER_WEEK, weekdayOf } from '../time/index.js'
import type { Tape } from '../tape/index.js'

/**
 * How tape time becomes the time of a replay.
 * `week`: one UTC tape week as it stands; slots are hours of the line's local week, days its weekdays.
 * `flight`: local days counted from the flight's first day, each taken from week floor(i / 7) mod 2 of the tape and
 * its own weekday; people stay themselves.
 */
export interface Timeline {
  days: number
  /** Minute of the replay at which the first day opens: a flight that began before the clock goes on from there. */
  firstMinute: number
  /** Slot minutes of a tape row, or -1 when the row is not part of this replay. `repeat` is the n-th pass of 14 days. */
  minuteOf: (tapeMinute: number, repeat: number) => number
  /** Passes over the tape. */
  repeats: number
}

/** Minute of the local week, Monday = 0, of a tape minute. */
function localMinuteOfWeek(tape: Pick<Tape, 'firstDay'>, tapeMinute: number, offset: number): number {
  const utc = weekdayOf(tape.firstDay) * MINUTES_PER_DAY + (tapeMinute % MINUTES_PER_WEEK)
  return (utc + offset + MINUTES_PER_WEEK) % MINUTES_PER_WEEK
}

/** One of the two tape weeks (0 older). Days are weekdays of the zone, Monday first. */
export function weekTimeline(tape: Pick<Tape, 'firstDay'>, week: 0 | 1, offset: number): Timeline {
  const from = week * MINUTES_PER_WEEK
  return {
    days: 7, firstMinute: 0, repeats: 1,
    minuteOf: (minute) => (minute < from || minute >= from + MINUTES_PER_WEEK ? -1 : localMinuteOfWeek(tape, minute, offset))
  }
}

/** Longest replay of a flight; beyond it the last seven days go on. */
export const LONGEST_REPLAY_DAYS = 28

/**
 * A flight's replay.
 * @param startDay local market day of the flight's first day
 * @param days 1 to 28
 * @param firstMinute minute of the first day at which buying can begin
 */
export function flightTimeline(tape: Pick<Tape, 'firstDay'>, startDay: number, days: number, firstMinute: number, offset: number): Timeline {
  const startWeekday = weekdayOf(startDay)
  const span = days * MINUTES_PER_DAY
  return {
    days, firstMinute, repeats: days > 14 ? 2 : 1,
    minuteOf: (minute, repeat) => {
      const local = localMinuteOfWeek(tape, minute, offset)
      const weekday = Math.floor(local / MINUTES_PER_DAY)
      const week = minute < MINUTES_PER_WEEK ? 0 : 1
      const day = week * 7 + ((weekday - startWeekday + 7) % 7) + repeat * 14
      const at = day * MINUTES_PER_DAY + (local % MINUTES_PER_DAY)
      return at < firstMinute || at >= span ? -1 : at
    }
  }
}
