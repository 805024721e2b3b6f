import { STREAM, draw } from '../random/index.js'
import { MINUTES_PER_WEEK } from '../time/index.js'
import type { Tape } from '../tape/index.js'
import { KernelMatched } from './kernel-matched.js'
import { NEVER, type Matched } from './matched.js'
import { bidsOf, baseAt } from './play.js'
import { periodMoney } from './period.js'
import type { ForecastMarket, ForecastQuestion } from './question.js'
import { overGroups } from './totals.js'
import { workOut } from './workings.js'

/** A live line, as it is asked about. */
export interface LiveQuestion {
  line: number
  question: ForecastQuestion
}

/** What a live line bids for on the tape, and how much of it its money, pace and caps let it buy. */
export interface OwnTaker {
  line: number
  rows: Uint32Array
  /** Micros an impression, row by row. */
  bids: Uint32Array
  /** Share of what it would win that it buys, row by row, in 255ths. */
  shares: Uint8Array
}

/**
 * Works out what a live line takes: every row that its bid wins on the market, and the share it buys of those that none of our others, as
 * far as the market knows them, buys before it.
 */
export function takerOf({ line, question }: LiveQuestion, tape: Tape, market: ForecastMarket, cancelled: () => boolean): OwnTaker {
  const alone = workOut({ ...question, among: undefined }, tape, market, cancelled)
  const { play, matched, weeks } = alone
  const { rows, need } = matched
  const { minute } = tape.rows
  const bidOn = bidsOf(matched)
  const weekOf = (row: number) => (minute[row] < MINUTES_PER_WEEK ? 0 : 1)
  const slotOf = (row: number) => Math.floor(weeks[weekOf(row)].clock[minute[row]] / 60)
  const needs = market.own?.needs(line) ?? null
  const passing = [new Float64Array(168), new Float64Array(168)]
  const found: number[] = []
  const bids: number[] = []
  for (let m = 0; m < rows.length; m++) {
    const row = rows[m]
    const bid = bidOn(m, baseAt(play, m, weeks[weekOf(row)].clock[minute[row]], 0), 0)
    if (bid < need[m]) continue
    if (!needs || needs[row] <= bid) passing[weekOf(row)][slotOf(row)]++
    found.push(row)
    bids.push(bid)
  }
  const work = needs ? workOut({ ...question, among: line }, tape, market, cancelled, raised(matched, needs)) : alone
  const parts = work.weekReplays.map((played, n) => {
    const wins = overGroups(played.slotWins, played.slots)
    const { shares } = periodMoney(work, weeks[n], played).money
    return shares.map((share, slot) => Math.min(1, passing[n][slot] > 0 ? (share * wins[slot]) / passing[n][slot] : 0))
  })
  return {
    line,
    rows: Uint32Array.from(found),
    bids: Uint32Array.from(bids),
    shares: Uint8Array.from(found, (row) => Math.round(ALWAYS * parts[weekOf(row)][slotOf(row)]))
  }
}

/** The same match where our other lines take what they bid more for; undefined for one that is as quickly found anew. */
function raised(matched: Matched, needs: Uint32Array): Matched | undefined {
  if (matched instanceof KernelMatched) return undefined
  return { ...matched, need: matched.need.map((need, m) => (need < NEVER ? Math.max(need, needs[matched.rows[m]]) : need)) }
}

/** Share of a line that buys all that it would win. */
const ALWAYS = 255
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
