/** At most `times` exposures of one person in any window of `hours`; windows are half-open. */
export interface Cap {
  times: number
  /** 1 to 720: a cap looks back 30 days at most. */
  hours: number
}

/** Minutes after which no cap can see an exposure any more. */
export const LONGEST_CAP_MINUTES = 30 * 1440

/**
 * Who saw what when: for each (line, person) a chain of minutes, newest first, in flat arrays.
 */
export class ExposureBook {
  private room = 1 << 12
  private used = 0
  private line = new Int32Array(this.room)
  private person = new Uint32Array(this.room)
  /** Newest entry of the chain, or -1; -2 marks a free cell. */
  private head = new Int32Array(this.room).fill(-2)
  private entries = 0
  private minute = new Int32Array(1 << 12)
  private older = new Int32Array(1 << 12)

  /** Cell of a (line, person), or of the free place where it would go. */
  private cell(line: number, person: number): number {
    const mask = this.room - 1
    let at = Math.imul(Math.imul(person, 0x9e3779b1) ^ line, 0x85ebca6b) >>> 7
    for (at &= mask; this.head[at] !== -2; at = (at + 1) & mask) {
      if (this.person[at] === person && this.line[at] === line) return at
    }
    return at
  }

  /** Exposures of a person to a line in the 30 days before `minute`, counted up to `most`. */
  count(line: number, person: number, minute: number, most = 16): number {
    let n = 0
    for (let entry = this.head[this.cell(line, person)]; entry >= 0 && n < most && this.minute[entry] > minute - LONGEST_CAP_MINUTES; entry = this.older[entry]) n++
    return n
  }

  /** Whether one more exposure at `minute` would break a cap or the least gap. An exposure exactly one window old is free. */
  capped(line: number, person: number, minute: number, caps: readonly Cap[], gapMinutes = 0): boolean {
    if (caps.length === 0 && gapMinutes === 0) return false
    const at = this.cell(line, person)
    if (this.head[at] === -2) return false
    if (this.head[at] >= 0 && minute - this.minute[this.head[at]] < gapMinutes) return true
    for (const { times, hours } of caps) {
      const from = minute - hours * 60
      let n = 0
      for (let entry = this.head[at]; entry >= 0 && this.minute[entry] > from; entry = this.older[entry]) {
        if (++n >= times) return true
      }
    }
    return false
  }

  /** Notes an exposure; minutes of one (line, person) must not go back. */
  add(line: number, person: number, minute: number): void {
    let at = this.cell(line, person)
    if (this.head[at] === -2) {
      if (++this.used * 2 > this.room) {
        this.grow()
        at = this.cell(line, person)
      }
      this.line[at] = line
      this.person[at] = person
      this.head[at] = -1
    }
    if (this.entries === this.minute.length) {
      this.minute = doubled(this.minute)
      this.older = doubled(this.older)
    }
    this.minute[this.entries] = minute
    this.older[this.entries] = this.head[at]
    this.head[at] = this.entries++
  }

  private grow(): void {
    const { line, person, head, room } = this
    this.room = room * 2
    this.line = new Int32Array(this.room)
    this.person = new Uint32Array(this.room)
    this.head = new Int32Array(this.room).fill(-2)
    for (let i = 0; i < room; i++) {
      if (head[i] === -2) continue
      const at = this.cell(line[i], person[i])
      this.line[at] = line[i]
      this.person[at] = person[i]
      this.head[at] = head[i]
    }
  }
}

function doubled(from: Int32Array<ArrayBuffer>): Int32Array<ArrayBuffer> {
  const to = new Int32Array(from.length * 2)
  to.set(from)
  return to
}
