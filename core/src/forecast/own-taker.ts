import { MINUTES_PER_WEEK } from '../time/index.js'
import type { Tape } from '../tape/index.js'
import { KernelMatched } from './kernel-matched.js'
import { NEVER, type Matched } from './matched.js'
import { ALWAYS, type OwnTaker } from './own-lines.js'
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
