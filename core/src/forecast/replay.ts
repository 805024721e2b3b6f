import type { Cap } from '../exchange/index.js'
import type { Tape } from '../tape/index.js'
import { SOURCES } from '../market/index.js'
import { clearingPrice } from '../pricing/index.js'
import { CancelledError, type Scan } from './scan.js'
import type { Timeline } from './timeline.js'

/** A capped replay without budget, in sampled people: multiply by the tape's sample for the market. */
export interface Replay {
  wins: number
  reach: number
  spendMicros: number
  /** People by number of exposures: entry n - 1 for n, the last for that many or more. */
  frequency: number[]
  /** Spend and wins by hour slot of the replay. */
  slotSpend: Float64Array
  slotWins: Float64Array
}

export const FREQUENCY_BINS = 10
const FIRST_PRICE = Uint8Array.from(SOURCES, (source) => (source.auction === 'first price' ? 1 : 0))

/** What a row costs at a bid. */
export function rowPrice(tape: Tape, row: number, bid: number): number {
  const { source, floor, rival } = tape.rows
  return clearingPrice(FIRST_PRICE[source[row]] === 1 ? 'first price' : 'second price', bid, floor[row], rival[row])
}

/**
 * The rows of one person in the order of the replay's time, as minute x 2^21 + row of the person.
 * @returns how many were written into `into`
 */
function order(scan: Scan, tape: Tape, from: number, to: number, timeline: Timeline, into: number[]): number {
  let n = 0
  for (let repeat = 0; repeat < timeline.repeats; repeat++) {
    for (let i = from; i < to; i++) {
      const minute = timeline.minuteOf(tape.minute[scan.rows[i]], repeat)
      if (minute < 0) continue
      const entry = minute * 0x200000 + (i - from)
      let j = n++
      for (; j > 0 && into[j - 1] > entry; j--) into[j] = into[j - 1]
      into[j] = entry
    }
  }
  return n
}

/** Whether a cap stops a win at `minute`, after `wins` wins at `times` (ascending). */
export function cappedAt(times: readonly number[], wins: number, minute: number, caps: readonly Cap[]): boolean {
  for (const { times: most, hours } of caps) {
    if (wins >= most && minute - times[wins - most] < hours * 60) return true
  }
  return false
}

/** Replays the rows a bid wins, person by person, with rolling caps and no budget. */
export function replay(scan: Scan, tape: Tape, bid: number, caps: readonly Cap[], timeline: Timeline, cancelled: () => boolean): Replay {
  const slots = timeline.days * 24
  const result: Replay = {
    wins: 0, reach: 0, spendMicros: 0, frequency: new Array<number>(FREQUENCY_BINS).fill(0),
    slotSpend: new Float64Array(slots), slotWins: new Float64Array(slots)
  }
  const entries: number[] = []
  const times: number[] = []
  for (let person = 0; person + 1 < scan.starts.length; person++) {
    if (person % 4096 === 0 && cancelled()) throw new CancelledError()
    const from = scan.starts[person]
    const n = order(scan, tape, from, scan.starts[person + 1], timeline, entries)
    let wins = 0
    for (let e = 0; e < n; e++) {
      const minute = Math.floor(entries[e] / 0x200000)
      if (cappedAt(times, wins, minute, caps)) continue
      times[wins++] = minute
      const price = rowPrice(tape, scan.rows[from + (entries[e] % 0x200000)], bid)
      const slot = Math.floor(minute / 60)
      result.slotSpend[slot] += price
      result.slotWins[slot]++
      result.spendMicros += price
    }
    if (wins > 0) {
      result.wins += wins
      result.reach++
      result.frequency[Math.min(wins, FREQUENCY_BINS) - 1]++
    }
  }
  return result
}
