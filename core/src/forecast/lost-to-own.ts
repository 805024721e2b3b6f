import { bidsOf, isOneBase, mostBase, type Play } from './play.js'
import { ownNeeds } from './question.js'

/** Tells of each matched row that a play would win on the market, but for another line of ours that takes it. */
export function eachLostToOwn(play: Play, tell: (row: number) => void): void {
  const { tape, market, question, matched, base } = play
  const own = ownNeeds(question, market)
  if (!own) return
  const { path, rival } = tape.rows
  const { floors } = market.inventory
  const bidOn = bidsOf(matched)
  matched.rows.forEach((row, m) => {
    if (own[row] === 0) return
    const bid = isOneBase(play) ? bidOn(m, base, 0) : mostBase(play)
    if (bid < own[row] && bid >= floors[path[row]] && bid > rival[row]) tell(row)
  })
}
