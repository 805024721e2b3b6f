import { STREAM, drawBits } from '../random/index.js'
import { OUTCOMES, SHORT_BY, shortBin } from './outcomes.js'

/** A cell takes 128 bytes: two lines of the nearest memory. Four doubles lie first, whole numbers after them. */
const DOUBLES = 16
const INTS = 32
const [BID, DATA, SEEN_MICROS, SEEN_SHOWN] = [0, 1, 2, 3]
const NUMBER = 8
const FLAGS = 9
const WINDOW = 10
const RATE = 11
const DAY_WINDOW = 12
const COUNTS = 13
const SHORT = COUNTS + OUTCOMES.length
if (SHORT + SHORT_BY.length > INTS) throw new Error('A cell does not hold what is counted of a line.')

/** Share let through when nothing is held back, and when the plan is met already. */
export const PASS_ALL = 65536
export const PASS_NONE = -1

/**
 * What nearly every opportunity asks of a line and counts of it, a cell a line, side by side: a thousand lines of objects, or a
 * dozen arrays of a thousand, do not fit the nearest memory.
 */
export class LineCells {
  private readonly doubles: Float64Array
  private readonly ints: Int32Array

  constructor(readonly lines: number) {
    this.doubles = new Float64Array(lines * DOUBLES)
    this.ints = new Int32Array(this.doubles.buffer)
    for (let at = 0; at < lines; at++) {
      this.ints[at * INTS + WINDOW] = -1
      this.ints[at * INTS + RATE] = PASS_ALL
    }
  }

  /** One bid for all rows, micros an impression; NaN where rows are bid for apart. */
  bid(at: number): number {
    return this.doubles[at * DOUBLES + BID]
  }

  dataMicros(at: number): number {
    return this.doubles[at * DOUBLES + DATA]
  }

  number(at: number): number {
    return this.ints[at * INTS + NUMBER]
  }

  flags(at: number): number {
    return this.ints[at * INTS + FLAGS]
  }

  setLine(at: number, number: number, dataMicros: number): void {
    this.ints[at * INTS + NUMBER] = number
    this.doubles[at * DOUBLES + DATA] = dataMicros
  }

  /** @param dayWindow the first five minutes of the line's local day, counted as `window` counts the market's */
  setHour(at: number, bid: number, flags: number, dayWindow: number): void {
    this.doubles[at * DOUBLES + BID] = bid
    this.ints[at * INTS + FLAGS] = flags
    this.ints[at * INTS + DAY_WINDOW] = dayWindow
    this.ints.fill(0, at * INTS + COUNTS, (at + 1) * INTS)
  }

  setFlags(at: number, flags: number): void {
    this.ints[at * INTS + FLAGS] = flags
  }

  count(at: number, outcome: number): void {
    this.ints[at * INTS + COUNTS + outcome]++
  }

  uncount(at: number, outcome: number): void {
    this.ints[at * INTS + COUNTS + outcome]--
  }

  /** Counts a bid that lost, by how much it fell short of what was needed. */
  lose(at: number, outcome: number, need: number, bid: number): void {
    const { ints } = this
    ints[at * INTS + COUNTS + outcome]++
    ints[at * INTS + SHORT + shortBin(need, bid)]++
  }

  counts(at: number): Int32Array {
    return this.ints.subarray(at * INTS + COUNTS, at * INTS + SHORT)
  }

  short(at: number): Int32Array {
    return this.ints.subarray(at * INTS + SHORT, at * INTS + SHORT + SHORT_BY.length)
  }

  /** The market's five minutes as the line's local day counts them. */
  windowOfDay(at: number, window: number): number {
    return window - this.ints[at * INTS + DAY_WINDOW]
  }

  /** Five minutes of the local day that the share let through is of; -1 for none yet. */
  window(at: number): number {
    return this.ints[at * INTS + WINDOW]
  }

  setWindow(at: number, window: number): void {
    this.ints[at * INTS + WINDOW] = window
  }

  /** @param rate of 65,536 */
  setRate(at: number, rate: number): void {
    this.ints[at * INTS + RATE] = rate
  }

  /** Whether an opportunity of the open window passes. */
  lets(at: number, key: number, line: number): boolean {
    const rate = this.ints[at * INTS + RATE]
    return rate >= PASS_ALL || drawBits(key ^ line, STREAM.pace) >>> 16 < rate
  }

  /** Counts an opportunity as supply, whether or not it passed. */
  see(at: number, priceMicros: number): void {
    const { doubles } = this
    doubles[at * DOUBLES + SEEN_MICROS] += priceMicros
    doubles[at * DOUBLES + SEEN_SHOWN]++
  }

  unsee(at: number, priceMicros: number): void {
    const { doubles } = this
    doubles[at * DOUBLES + SEEN_MICROS] -= priceMicros
    doubles[at * DOUBLES + SEEN_SHOWN]--
  }

  /** Supply of the open window so far. */
  seenMicros(at: number): number {
    return this.doubles[at * DOUBLES + SEEN_MICROS]
  }

  seenShown(at: number): number {
    return this.doubles[at * DOUBLES + SEEN_SHOWN]
  }

  forgetSeen(at: number): void {
    this.doubles[at * DOUBLES + SEEN_MICROS] = 0
    this.doubles[at * DOUBLES + SEEN_SHOWN] = 0
  }
}
