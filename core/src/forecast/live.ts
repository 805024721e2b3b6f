import type { Landscape } from '../exchange/index.js'
import type { Tape } from '../tape/index.js'
import { mainFigures, type MainFigures } from './main-figures.js'
import { workOut } from './workings.js'
import type { ForecastMarket, ForecastQuestion } from './question.js'
import { overGroups } from './totals.js'

/** What is kept with a line that goes live: what was expected of it, and what its pacing and bids follow. */
export interface ForLive {
  forecast: MainFigures
  /** Spend it could have by hour of its local week, micros in the market. */
  traffic: number[]
  /** Only for bids that follow the market. */
  landscape: Landscape | null
  /** Correction of an aim's first bids, in thousandths; null for a line without. */
  correction: number | null
}

export function forLive(question: ForecastQuestion, tape: Tape, market: ForecastMarket, cancelled: () => boolean): ForLive {
  const work = workOut(question, tape, market, cancelled)
  const [first, second] = work.wholeReplays.map((replay) => overGroups(replay.slotSpend, replay.slots))
  return {
    forecast: mainFigures(work, cancelled),
    traffic: Array.from({ length: 168 }, (_, hour) => Math.round(((first[hour] + second[hour]) / 2) * tape.sample)),
    landscape: work.landscape,
    correction: work.correction
  }
}
