import { STREAM, draw } from '../random/index.js'
import type { Tape } from '../tape/index.js'

/** What a live line bids for on the tape, and how much of it its money, pace and caps let it buy. */
export interface OwnTaker {
  line: number
  rows: Uint32Array
  /** Micros an impression, row by row. */
  bids: Uint32Array
  /** Share of what it would win that it buys, row by row, in 255ths. */
  shares: Uint8Array
}

/** Share of a line that buys all that it would win. */
export const ALWAYS = 255
/** Own bids that are kept of a row, dearest first: each may have bought all that its money allows. */
const DEPTH = 4
/** Number of no line. */
const NOBODY = -1

/** What our live lines take of a tape's rows: of each the dearest bids, whose they are, and how likely they buy. */
export class OwnLines {
  private readonly bids: Uint32Array
  private readonly shares: Uint8Array
  private readonly takers: Uint16Array
  private last: { line: number; needs: Uint32Array } | null = null
  private everybody: Uint32Array | null = null
  /** Rows that any of them bids for. */
  readonly rows: Uint32Array

  constructor(
    private readonly tape: Tape,
    readonly lines: readonly OwnTaker[]
  ) {
    const room = DEPTH * tape.rowCount
    const [bids, shares, takers] = [new Uint32Array(room), new Uint8Array(room), new Uint16Array(room)]
    const touched: number[] = []
    lines.forEach((taker, n) => {
      taker.rows.forEach((row, r) => {
        const first = DEPTH * row
        if (bids[first] === 0) touched.push(row)
        // Those that are dearer stay before it, the others move one place on.
        let place = first + DEPTH
        while (place > first && bids[place - 1] < taker.bids[r]) place--
        if (place === first + DEPTH) return
        bids.copyWithin(place + 1, place, first + DEPTH - 1)
        shares.copyWithin(place + 1, place, first + DEPTH - 1)
        takers.copyWithin(place + 1, place, first + DEPTH - 1)
        bids[place] = taker.bids[r]
        shares[place] = taker.shares[r]
        takers[place] = n
      })
    })
    this.bids = bids
    this.shares = shares
    this.takers = takers
    this.rows = Uint32Array.from(touched)
  }

  /** Place of the taker that buys a row before a line at a bid; -1 for none. Whether one buys is drawn by the row and the taker. */
  takes(row: number, line: number): number {
    const { bids, shares, takers, lines, tape } = this
    for (let n = DEPTH * row; n < DEPTH * row + DEPTH; n++) {
      if (bids[n] === 0) break
      const taker = lines[takers[n]]
      if (taker.line === line) continue
      if (shares[n] === ALWAYS || draw(tape.rows.key[row] ^ taker.line, STREAM.pace) >>> 24 < shares[n]) return n
    }
    return -1
  }

  private needOf(row: number, line: number): number {
    const n = this.takes(row, line)
    return n < 0 ? 0 : this.bids[n] + 1
  }

  /** Least bid at which a line gets each row before its mates; 0 where none of them takes it. */
  needs(line: number): Uint32Array {
    if (this.last?.line === line) return this.last.needs
    this.everybody ??= this.everybodysNeeds()
    const needs = this.everybody.slice()
    // Only where it bids itself is it another than to a stranger.
    for (const row of this.lines.find((taker) => taker.line === line)?.rows ?? []) needs[row] = this.needOf(row, line)
    this.last = { line, needs }
    return needs
  }

  private everybodysNeeds(): Uint32Array {
    const needs = new Uint32Array(this.tape.rowCount)
    for (const row of this.rows) needs[row] = this.needOf(row, NOBODY)
    return needs
  }

  /** Number of the line that a place of `takes` is of. */
  lineAt(place: number): number {
    return this.lines[this.takers[place]].line
  }
}
