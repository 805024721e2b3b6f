import { HOURS_PER_DAY, MINUTES_PER_DAY } from '../time/index.js'
import { STREAM, hash, hashColumns } from '../random/index.js'
import {
  MOST_A_DAY, dayTables, drawMinutes, fillRow, opportunitiesOver, opportunityBytes, opportunityColumns, type Opportunities, type World
} from '../market/index.js'

/** Whole UTC days on a tape. */
export const TAPE_DAYS = 14

/**
 * The recorded sample of past opportunities: the same people always, over the 14 whole UTC days before the clock,
 * sorted by person, then time. A pure function of the world and the last day.
 */
export interface Tape {
  /** First market day (UTC) on the tape. */
  firstDay: number
  /** One person in `sample` is on it. */
  sample: number
  rowCount: number
  peopleCount: number
  /** First row of each person; one entry more than people. */
  starts: Uint32Array
  /** Minute since the start of the first day, 0 to 20,159. */
  minute: Uint16Array
  rows: Opportunities
  /** The memory all columns lie in, to be handed to another thread. */
  buffers: { rows: SharedArrayBuffer; minute: SharedArrayBuffer; starts: SharedArrayBuffer }
}

/** Numbers of the people on the tape, ascending. */
export function tapePeople(world: World): Uint32Array {
  const people: number[] = []
  for (let person = 0; person < world.people; person++) {
    if (hash(world.seed, STREAM.sample, person) % world.sample === 0) people.push(person)
  }
  return Uint32Array.from(people)
}

/** What a build reports now and then: rows made of about how many. */
export type TapeProgress = (done: number, of: number) => void

/** Builds the tape whose last whole day is `lastDay` (UTC market day). */
export function buildTape(world: World, lastDay: number, progress?: TapeProgress): Tape {
  const firstDay = lastDay - TAPE_DAYS + 1
  const days = Array.from({ length: TAPE_DAYS }, (_, n) => dayTables(world, firstDay + n))
  const people = tapePeople(world)
  const minutes = new Uint16Array(MOST_A_DAY)

  // Two passes, so that the one allocation is exact: the columns are shared and never copied.
  const starts = new SharedArrayBuffer((people.length + 1) * 4)
  const startOf = new Uint32Array(starts)
  let total = 0
  for (let n = 0; n < people.length; n++) {
    startOf[n] = total
    for (const day of days) total += drawMinutes(day, people[n], minutes)
  }
  startOf[people.length] = total

  const buffer = new SharedArrayBuffer(opportunityBytes(total))
  const rows = opportunitiesOver(buffer, total)
  const minuteBuffer = new SharedArrayBuffer(total * 2)
  const minute = new Uint16Array(minuteBuffer)
  const order = new Uint32Array(MOST_A_DAY)
  let at = 0
  for (let n = 0; n < people.length; n++) {
    if (n % 4096 === 0) progress?.(at, total)
    for (let d = 0; d < TAPE_DAYS; d++) {
      const count = drawMinutes(days[d], people[n], minutes)
      for (let k = 0; k < count; k++) {
        const entry = (minutes[k] << 6) | k
        let j = k
        for (; j > 0 && order[j - 1] > entry; j--) order[j] = order[j - 1]
        order[j] = entry
      }
      for (let j = 0; j < count; j++, at++) {
        fillRow(days[d], people[n], order[j] & 63, order[j] >>> 6, rows, at)
        minute[at] = d * MINUTES_PER_DAY + (order[j] >>> 6)
      }
    }
  }
  progress?.(total, total)
  return openTape({ firstDay, sample: world.sample, rowCount: total, peopleCount: people.length }, { rows: buffer, minute: minuteBuffer, starts })
}

export type TapeHead = Pick<Tape, 'firstDay' | 'sample' | 'rowCount' | 'peopleCount'>

/** Column views over memory that `buildTape` filled, on this or another thread. */
export function openTape(head: TapeHead, buffers: Tape['buffers']): Tape {
  return {
    ...head, buffers,
    starts: new Uint32Array(buffers.starts),
    minute: new Uint16Array(buffers.minute),
    rows: opportunitiesOver(buffers.rows, head.rowCount)
  }
}

export function tapeHead({ firstDay, sample, rowCount, peopleCount }: Tape): TapeHead {
  return { firstDay, sample, rowCount, peopleCount }
}

/** First market hour after the tape. */
export function tapeEnd(head: TapeHead): number {
  return (head.firstDay + TAPE_DAYS) * HOURS_PER_DAY
}

export function tapeHash(tape: Tape): string {
  return hashColumns([tape.starts, tape.minute, ...opportunityColumns(tape.rows)])
}
