import { LONGEST_CAP_MINUTES, NEVER_SEEN, type Seen } from '../exchange/index.js'

/** When one person was shown something, oldest first; used for one person after the other. */
export class ExposureList implements Seen {
  private readonly minutes: Int32Array
  count = 0

  /** @param room exposures that one person can have */
  constructor(room: number) {
    this.minutes = new Int32Array(room)
  }

  start(before: readonly number[]): void {
    this.count = 0
    for (const minute of before) this.add(minute)
  }

  add(minute: number): void {
    this.minutes[this.count++] = minute
  }

  newest(n: number): number {
    return n > this.count ? NEVER_SEEN : this.minutes[this.count - n]
  }

  /** Exposures in the 30 days before a minute. */
  remembered(minute: number): number {
    let n = 0
    while (n < this.count && this.minutes[this.count - 1 - n] > minute - LONGEST_CAP_MINUTES) n++
    return n
  }
}
