/** At most `times` exposures of one person in any window of `hours`; windows are half-open. */
export interface Cap {
  times: number
  /** 1 to 720: a cap looks back 30 days at most. */
  hours: number
}

/** Minutes after which no cap can see an exposure any more. */
export const LONGEST_CAP_MINUTES = 30 * 1440

/**
 * What caps are kept for: a line, its exposures that the line's own caps count, a campaign, an ad. Numbers of lines and ads are
 * below 2^28.
 */
export const EXPOSED = {
  line: (line: number) => line,
  lineCapped: (line: number) => line + (1 << 28),
  ad: (ad: number) => ad + (1 << 29),
  campaign: (campaign: number) => campaign + (1 << 30)
} as const

/** The impression behind an exposure of a line. */
export interface Impression {
  minute: number
  /** Place in the log of its hour. */
  index: number
  /** What the person did: see `DID`. */
  did: number
  ad: number
  path: number
  device: number
}
const NO_IMPRESSION = { index: 0, did: 0, ad: 0, path: 0, device: 0 }

/**
 * Who saw what when: for each (what, person) a chain of minutes, newest first, in flat arrays.
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
  private index = new Uint32Array(1 << 12)
  private ad = new Uint32Array(1 << 12)
  private did = new Uint16Array(1 << 12)
  private path = new Uint16Array(1 << 12)
  private device = new Uint16Array(1 << 12)

  /** Cell of a (line, person), or of the free place where it would go. */
  private cell(line: number, person: number): number {
    const mask = this.room - 1
    let at = Math.imul(Math.imul(person, 0x9e3779b1) ^ line, 0x85ebca6b) >>> 7
    for (at &= mask; this.head[at] !== -2; at = (at + 1) & mask) {
      if (this.person[at] === person && this.line[at] === line) return at
    }
    return at
  }

  /** Entries kept, of any age. */
  get size(): number {
    return this.entries
  }

  /** Exposures of a person to a line in the 30 days before `minute`, counted up to `most`. */
  count(line: number, person: number, minute: number, most = 16): number {
    let n = 0
    for (let entry = this.head[this.cell(line, person)]; entry >= 0 && n < most && this.minute[entry] > minute - LONGEST_CAP_MINUTES; entry = this.older[entry]) n++
    return n
  }

  /** Impressions of a line that a person had, oldest first. */
  impressions(line: number, person: number): Impression[] {
    const found: Impression[] = []
    for (let entry = this.head[this.cell(line, person)]; entry >= 0; entry = this.older[entry]) {
      found.push({ minute: this.minute[entry], index: this.index[entry], did: this.did[entry], ad: this.ad[entry], path: this.path[entry], device: this.device[entry] })
    }
    return found.reverse()
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
  add(line: number, person: number, minute: number, of: Omit<Impression, 'minute'> = NO_IMPRESSION): void {
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
    const entry = this.entries
    if (entry === this.minute.length) this.growEntries(entry * 2)
    this.minute[entry] = minute
    this.index[entry] = of.index
    this.did[entry] = of.did
    this.ad[entry] = of.ad
    this.path[entry] = of.path
    this.device[entry] = of.device
    this.older[entry] = this.head[at]
    this.head[at] = this.entries++
  }

  /** Forgets what is older than any window at `minute`, so that memory follows thirty days and not the run. */
  forget(minute: number): void {
    const old = { line: this.line, person: this.person, head: this.head, minute: this.minute, older: this.older, index: this.index, ad: this.ad, did: this.did, path: this.path, device: this.device }
    const next = new ExposureBook()
    const chain: number[] = []
    for (let i = 0; i < old.head.length; i++) {
      if (old.head[i] < 0) continue
      chain.length = 0
      for (let entry = old.head[i]; entry >= 0 && old.minute[entry] > minute - LONGEST_CAP_MINUTES; entry = old.older[entry]) chain.push(entry)
      for (let n = chain.length - 1; n >= 0; n--) {
        const entry = chain[n]
        next.add(old.line[i], old.person[i], old.minute[entry], { index: old.index[entry], did: old.did[entry], ad: old.ad[entry], path: old.path[entry], device: old.device[entry] })
      }
    }
    Object.assign(this, next)
  }

  private growEntries(room: number): void {
    const { minute, older, index, ad, did, path, device } = this
    this.minute = new Int32Array(room)
    this.older = new Int32Array(room)
    this.index = new Uint32Array(room)
    this.ad = new Uint32Array(room)
    this.did = new Uint16Array(room)
    this.path = new Uint16Array(room)
    this.device = new Uint16Array(room)
    this.minute.set(minute)
    this.older.set(older)
    this.index.set(index)
    this.ad.set(ad)
    this.did.set(did)
    this.path.set(path)
    this.device.set(device)
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
