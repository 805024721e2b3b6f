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
    for (let place = 0; place < lines; place++) {
      this.ints[place * INTS + WINDOW] = -1
      this.ints[place * INTS + RATE] = PASS_ALL
    }
  }

  /** One bid for all rows, micros an impression; NaN where rows are bid for apart. */
  bid(place: number): number {
    return this.doubles[place * DOUBLES + BID]
  }

  dataMicros(place: number): number {
    return this.doubles[place * DOUBLES + DATA]
  }

  number(place: number): number {
    return this.ints[place * INTS + NUMBER]
  }

  flags(place: number): number {
    return this.ints[place * INTS + FLAGS]
  }

  setLine(place: number, number: number, dataMicros: number): void {
    this.ints[place * INTS + NUMBER] = number
    this.doubles[place * DOUBLES + DATA] = dataMicros
  }

  /** @param dayWindow the first five minutes of the line's local day, counted as `window` counts the market's */
  setHour(place: number, bid: number, flags: number, dayWindow: number): void {
    this.doubles[place * DOUBLES + BID] = bid
    this.ints[place * INTS + FLAGS] = flags
    this.ints[place * INTS + DAY_WINDOW] = dayWindow
    this.ints.fill(0, place * INTS + COUNTS, (place + 1) * INTS)
  }

  setFlags(place: number, flags: number): void {
    this.ints[place * INTS + FLAGS] = flags
  }

  count(place: number, outcome: number): void {
    this.ints[place * INTS + COUNTS + outcome]++
  }

  uncount(place: number, outcome: number): void {
    this.ints[place * INTS + COUNTS + outcome]--
  }

  /** Counts a bid that lost, by how much it fell short of what was needed. */
  lose(place: number, outcome: number, need: number, bid: number): void {
    const { ints } = this
    ints[place * INTS + COUNTS + outcome]++
    ints[place * INTS + SHORT + shortBin(need, bid)]++
  }

  counts(place: number): Int32Array {
    return this.ints.subarray(place * INTS + COUNTS, place * INTS + SHORT)
  }

  short(place: number): Int32Array {
    return this.ints.subarray(place * INTS + SHORT, place * INTS + SHORT + SHORT_BY.length)
  }

  /** The market's five minutes as the line's local day counts them. */
  windowOfDay(place: number, window: number): number {
    return window - this.ints[place * INTS + DAY_WINDOW]
  }

  /** Five minutes of the local day that the share let through is of; -1 for none yet. */
  window(place: number): number {
    return this.ints[place * INTS + WINDOW]
  }

  setWindow(place: number, window: number): void {
    this.ints[place * INTS + WINDOW] = window
  }

  /** @param rate of 65,536 */
  setRate(place: number, rate: number): void {
    this.ints[place * INTS + RATE] = rate
  }

  /** Whether an opportunity of the open window passes. */
  lets(place: number, key: number, line: number): boolean {
    const rate = this.ints[place * INTS + RATE]
    return rate >= PASS_ALL || drawBits(key ^ line, STREAM.pace) >>> 16 < rate
  }

  /** Counts an opportunity as supply, whether or not it passed. */
  see(place: number, priceMicros: number): void {
    const { doubles } = this
    doubles[place * DOUBLES + SEEN_MICROS] += priceMicros
    doubles[place * DOUBLES + SEEN_SHOWN]++
  }

  unsee(place: number, priceMicros: number): void {
    const { doubles } = this
    doubles[place * DOUBLES + SEEN_MICROS] -= priceMicros
    doubles[place * DOUBLES + SEEN_SHOWN]--
  }

  /** Supply of the open window so far. */
  seenMicros(place: number): number {
    return this.doubles[place * DOUBLES + SEEN_MICROS]
  }

  seenShown(place: number): number {
    return this.doubles[place * DOUBLES + SEEN_SHOWN]
  }

  forgetSeen(place: number): void {
    this.doubles[place * DOUBLES + SEEN_MICROS] = 0
    this.doubles[place * DOUBLES + SEEN_SHOWN] = 0
  }
}
