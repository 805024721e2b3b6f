import { LONGEST_CAP_MINUTES, NEVER_SEEN, stoppedBy, type Cap, type Seen } from './caps.js'

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

/** A cell: what, person, one over its newest entry (0 in a free cell), and that entry's minute. */
const CELL = 4
const [WHAT, PERSON, NEWEST, NEWEST_MINUTE] = [0, 1, 2, 3]
/** A link: minute, and one over the next older entry. */
const LINK = 2
const ROOM = 1 << 12

/**
 * Who saw what when: for each (what, person) a chain of minutes, newest first, in flat arrays. People come in no order, so that
 * every cell that is looked at has to be waited for: all of it lies together.
 */
export class ExposureBook implements Seen {
  private room = ROOM
  private used = 0
  /** Cell that caps are being read of. */
  private looked = 0
  private cells = new Int32Array(ROOM * CELL)
  private entries = 0
  private entryRoom = ROOM
  private links = new Int32Array(ROOM * LINK)
  private index = new Uint32Array(ROOM)
  private ad = new Uint32Array(ROOM)
  private did = new Uint16Array(ROOM)
  private path = new Uint16Array(ROOM)
  private device = new Uint16Array(ROOM)

  /** Cell of a (what, person), or of the free place where it would go. */
  private cell(what: number, person: number): number {
    const { cells } = this
    const mask = this.room - 1
    let cell = ((Math.imul(Math.imul(person, 0x9e3779b1) ^ what, 0x85ebca6b) >>> 7) & mask) * CELL
    while (cells[cell + NEWEST] !== 0 && (cells[cell + PERSON] !== person || cells[cell + WHAT] !== what))
      cell = (cell + CELL) & (mask * CELL + CELL - 1)
    return cell
  }

  /** Entries kept, of any age. */
  get size(): number {
    return this.entries
  }

  /** Exposures of a person to a line in the 30 days before `minute`, counted up to `most`. */
  count(what: number, person: number, minute: number, most = 16): number {
    const { links } = this
    let n = 0
    for (
      let entry = this.cells[this.cell(what, person) + NEWEST];
      entry > 0 && n < most && links[(entry - 1) * LINK] > minute - LONGEST_CAP_MINUTES;
      entry = links[(entry - 1) * LINK + 1]
    )
      n++
    return n
  }

  /** Impressions of a line that a person had, oldest first. */
  impressions(line: number, person: number): Impression[] {
    const found: Impression[] = []
    for (let entry = this.cells[this.cell(line, person) + NEWEST]; entry > 0; entry = this.links[(entry - 1) * LINK + 1])
      found.push(this.entry(entry - 1))
    return found.reverse()
  }

  private entry(n: number): Impression {
    return {
      minute: this.links[n * LINK],
      index: this.index[n],
      did: this.did[n],
      ad: this.ad[n],
      path: this.path[n],
      device: this.device[n]
    }
  }

  /** Whether one more exposure at `minute` would break a cap or the least gap. */
  capped(what: number, person: number, minute: number, caps: readonly Cap[], gapMinutes = 0): boolean {
    if (caps.length === 0 && gapMinutes === 0) return false
    this.looked = this.cell(what, person)
    return this.cells[this.looked + NEWEST] !== 0 && stoppedBy(this, minute, caps, gapMinutes)
  }

  /** Of whoever was looked at last. */
  newest(n: number): number {
    const { cells, links, looked } = this
    if (n === 1) return cells[looked + NEWEST_MINUTE]
    let entry = cells[looked + NEWEST]
    for (let older = 1; older < n && entry > 0; older++) entry = links[(entry - 1) * LINK + 1]
    return entry > 0 ? links[(entry - 1) * LINK] : NEVER_SEEN
  }

  /** Notes an exposure; minutes of one (what, person) must not go back. */
  add(what: number, person: number, minute: number, { index, did, ad, path, device }: Omit<Impression, 'minute'> = NO_IMPRESSION): void {
    let cell = this.cell(what, person)
    if (this.cells[cell + NEWEST] === 0 && ++this.used * 2 > this.room) {
      this.grow()
      cell = this.cell(what, person)
    }
    const { cells } = this
    const n = this.entries++
    if (n === this.entryRoom) this.growEntries()
    this.links[n * LINK] = minute
    this.links[n * LINK + 1] = cells[cell + NEWEST]
    this.index[n] = index
    this.did[n] = did
    this.ad[n] = ad
    this.path[n] = path
    this.device[n] = device
    cells[cell + WHAT] = what
    cells[cell + PERSON] = person
    cells[cell + NEWEST] = n + 1
    cells[cell + NEWEST_MINUTE] = minute
  }

  /** Forgets what is older than any window at `minute`, so that memory follows thirty days and not the run. */
  forget(minute: number): void {
    const { cells, links } = this
    const next = new ExposureBook()
    const chain: number[] = []
    for (let cell = 0; cell < cells.length; cell += CELL) {
      chain.length = 0
      for (
        let entry = cells[cell + NEWEST];
        entry > 0 && links[(entry - 1) * LINK] > minute - LONGEST_CAP_MINUTES;
        entry = links[(entry - 1) * LINK + 1]
      )
        chain.push(entry - 1)
      for (let n = chain.length - 1; n >= 0; n--)
        next.add(cells[cell + WHAT], cells[cell + PERSON], links[chain[n] * LINK], this.entry(chain[n]))
    }
    Object.assign(this, next)
  }

  private growEntries(): void {
    const { links, index, ad, did, path, device } = this
    const room = (this.entryRoom *= 2)
    this.links = new Int32Array(room * LINK)
    this.index = new Uint32Array(room)
    this.ad = new Uint32Array(room)
    this.did = new Uint16Array(room)
    this.path = new Uint16Array(room)
    this.device = new Uint16Array(room)
    this.links.set(links)
    this.index.set(index)
    this.ad.set(ad)
    this.did.set(did)
    this.path.set(path)
    this.device.set(device)
  }

  private grow(): void {
    const { cells } = this
    this.room *= 2
    this.cells = new Int32Array(this.room * CELL)
    for (let from = 0; from < cells.length; from += CELL) {
      if (cells[from + NEWEST] === 0) continue
      const to = this.cell(cells[from + WHAT], cells[from + PERSON])
      for (let n = 0; n < CELL; n++) this.cells[to + n] = cells[from + n]
    }
  }
}
