import { ExposureBook, OUTCOME, Pacer, allocate, book, type Cap, type LineAccount } from '../exchange/index.js'
import type { Tape } from '../tape/index.js'
import { rowPrice, FREQUENCY_BINS } from './replay.js'
import { CancelledError, type Scan } from './scan.js'
import type { MoneyLimits } from './money.js'
import type { Timeline } from './timeline.js'

/** Who is reached when money binds, in the sample. */
export interface Shape {
  wins: number
  reach: number
  frequency: number[]
}

/**
 * Runs the rows a bid wins, in order of time, through the exchange's own allocation step with every limit divided
 * by the sample.
 */
export function shapeOf(
  scan: Scan, tape: Tape, bid: number, caps: readonly Cap[], limits: Pick<MoneyLimits, 'pacing' | 'totalMicros'>, plans: readonly number[], timeline: Timeline, cancelled: () => boolean
): Shape {
  const room = scan.rows.length * timeline.repeats
  const minutes = new Uint16Array(room)
  // Gathered in the order of the tape, since the pass in order of time would miss the cache at every row.
  const people = new Uint32Array(room)
  const keys = new Uint32Array(room)
  const prices = new Uint32Array(room)
  let count = 0
  for (let repeat = 0; repeat < timeline.repeats; repeat++) {
    for (let i = 0; i < scan.rows.length; i++) {
      const minute = timeline.minuteOf(tape.minute[scan.rows[i]], repeat)
      if (minute < 0) continue
      const row = scan.rows[i]
      minutes[count] = minute
      people[count] = tape.rows.person[row]
      keys[count] = tape.rows.key[row]
      prices[count++] = rowPrice(tape, row, bid)
    }
  }
  const order = sortByMinute(minutes, count, timeline.days * 1440)
  const exposures = new ExposureBook()
  const account: LineAccount = {
    line: 1, campaign: null, pacing: limits.pacing, caps, pacer: new Pacer(), plan: { limitMicros: 0, openFrom: 0, openTo: 1440 },
    purse: { dailyMicros: 0, totalMicros: limits.totalMicros === null ? null : limits.totalMicros / tape.sample, spentToday: 0, spentTotal: 0 }
  }
  const seen = new Map<number, number>()
  let wins = 0
  let day = -1
  for (let n = 0; n < order.length; n++) {
    if (n % 65536 === 0 && cancelled()) throw new CancelledError()
    const minute = minutes[order[n]]
    if (Math.floor(minute / 1440) !== day) {
      day = Math.floor(minute / 1440)
      const limit = plans[day] / tape.sample
      account.plan = { limitMicros: limit, openFrom: day === 0 ? timeline.firstMinute : 0, openTo: 1440 }
      account.purse.dailyMicros = Number.isFinite(limit) ? limit : null
      account.purse.spentToday = 0
      account.pacer.restart()
    }
    const person = people[order[n]]
    const price = prices[order[n]]
    if (allocate(account, exposures, person, minute, minute % 1440, keys[order[n]], price) !== OUTCOME.won) continue
    book(account, exposures, person, minute, price)
    seen.set(person, (seen.get(person) ?? 0) + 1)
    wins++
  }
  const frequency = new Array<number>(FREQUENCY_BINS).fill(0)
  for (const times of seen.values()) frequency[Math.min(times, FREQUENCY_BINS) - 1]++
  return { wins, reach: seen.size, frequency }
}

/** Counting sort of the first `count` entries; equal minutes keep the order of the tape. 28 days of minutes fit 16 bits. */
function sortByMinute(minutes: Uint16Array, count: number, span: number): Uint32Array {
  const at = new Uint32Array(span + 1)
  for (let i = 0; i < count; i++) at[minutes[i] + 1]++
  for (let m = 0; m < span; m++) at[m + 1] += at[m]
  const order = new Uint32Array(count)
  for (let i = 0; i < count; i++) order[at[minutes[i]]++] = i
  return order
}
