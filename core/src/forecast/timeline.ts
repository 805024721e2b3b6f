import { MINUTES_PER_DAY, MINUTES_PER_WEEK, weekdayOf } from '../time/index.js'
import { TAPE_DAYS, type TapeHead } from '../tape/index.js'

const TAPE_MINUTES = TAPE_DAYS * MINUTES_PER_DAY

/**
 * How tape time becomes the time of a replay.
 * A week is one UTC tape week as it stands: caps see the tape's own minutes, money the hours of the line's local week.
 * A flight is local days counted from its first day, each taken from week floor(i / 7) mod 2 of the tape and its own
 * weekday; people stay themselves, and caps run across the joints.
 */
export interface Timeline {
  kind: 'week' | 'flight'
  days: number
  /** Minute of the replay at which the first day opens: a flight that began before the clock goes on from there. */
  firstMinute: number
  /** Minute of the replay at which it ends: a flight may end inside its last day. */
  span: number
  /** Passes over the tape. */
  repeats: number
  /** Time of a tape minute in the first pass, for caps; -1 when it is not part of this replay at all. */
  time: Int32Array
  /** Minute of the replay of a tape minute, for hours and days; equal to `time` in a flight. */
  clock: Int32Array
  /** Weekday of the first day, Monday = 0. */
  weekday: number
}

/** Minute of the local week, Monday = 0, of a tape minute. */
export function localMinuteOfWeek(tape: Pick<TapeHead, 'firstDay'>, tapeMinute: number, offset: number): number {
  const utc = weekdayOf(tape.firstDay) * MINUTES_PER_DAY + (tapeMinute % MINUTES_PER_WEEK)
  return (utc + offset + MINUTES_PER_WEEK) % MINUTES_PER_WEEK
}

const weekTimelines = new Map<string, Timeline>()

/**
 * One of the two tape weeks (0 older). Days are weekdays of the zone, Monday first. The same week is the same object,
 * never to be changed.
 */
export function weekTimeline(tape: Pick<TapeHead, 'firstDay'>, week: 0 | 1, offset: number): Timeline {
  const name = `${weekdayOf(tape.firstDay)}.${week}.${offset}`
  let timeline = weekTimelines.get(name)
  if (!timeline) weekTimelines.set(name, (timeline = makeWeek(tape, week, offset)))
  return timeline
}

function makeWeek(tape: Pick<TapeHead, 'firstDay'>, week: 0 | 1, offset: number): Timeline {
  const time = new Int32Array(TAPE_MINUTES).fill(-1)
  const clock = new Int32Array(TAPE_MINUTES).fill(-1)
  for (let minute = 0; minute < MINUTES_PER_WEEK; minute++) {
    time[week * MINUTES_PER_WEEK + minute] = minute
    clock[week * MINUTES_PER_WEEK + minute] = localMinuteOfWeek(tape, minute, offset)
  }
  return { kind: 'week', days: 7, firstMinute: 0, span: MINUTES_PER_WEEK, repeats: 1, time, clock, weekday: 0 }
}

/** Longest replay of a flight; beyond it the last seven days go on. */
export const LONGEST_REPLAY_DAYS = 28

/**
 * A flight's replay.
 * @param startDay local market day of the flight's first day
 * @param days 1 to 28
 * @param firstMinute minute of the first day at which buying can begin
 * @param lastMinute minute of the replay at which it ends, at most the end of the last day
 */
export function flightTimeline(
  tape: Pick<TapeHead, 'firstDay'>,
  startDay: number,
  days: number,
  firstMinute: number,
  offset: number,
  lastMinute = days * MINUTES_PER_DAY
): Timeline {
  const weekday = weekdayOf(startDay)
  const span = Math.min(lastMinute, days * MINUTES_PER_DAY)
  const time = new Int32Array(TAPE_MINUTES)
  for (let minute = 0; minute < TAPE_MINUTES; minute++) {
    const local = localMinuteOfWeek(tape, minute, offset)
    const week = minute < MINUTES_PER_WEEK ? 0 : 1
    const day = week * 7 + ((Math.floor(local / MINUTES_PER_DAY) - weekday + 7) % 7)
    const localMinute = day * MINUTES_PER_DAY + (local % MINUTES_PER_DAY)
    time[minute] = localMinute < span ? localMinute : -1
  }
  return { kind: 'flight', days, firstMinute, span, repeats: days > TAPE_DAYS ? 2 : 1, time, clock: time, weekday }
}

/** Replay minutes that one pass over the tape adds. */
export const PASS_MINUTES = TAPE_MINUTES
