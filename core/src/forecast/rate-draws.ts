import { gammaQuantile } from '../report/index.js'
import type { KnownRate } from '../response/index.js'
import type { Bought } from './period.js'
import { LEAST_WINS } from './ranges.js'
import { replay } from './replay.js'
import { sumOf } from './totals.js'
import type { Workings } from './workings.js'

/** What a line buys if its own rate is another than the one believed now: against what it buys at that. */
export interface RateDraw extends Bought {
  /** Of the event that is paid for or aimed at. */
  rate: number
}

/** Stratified draws of a rate. */
const DRAWS = 8
/** Rows of a replay from which only every n-th person is asked. */
const MOST_ROWS = 25_000
/** Certainty from which a rate is as good as known. */
const KNOWN_SD = 0.01

/**
 * Draws of a line's own rate, and what bids that learn it then buy: dearer where the event is likelier than believed. What is learned
 * follows the results, so that bids go half of the period's way from what is believed to what is true.
 * @param events expected of the period under its budgets
 * @param mean what the rate is expected to be against what is believed of it
 */
export function rateDraws(work: Workings, { sd }: KnownRate, events: number, mean: number, cancelled: () => boolean): RateDraw[] {
  const { play, weeks, matched, weekReplays, isHeld } = work
  if (sd < KNOWN_SD || weekReplays[0].wins + weekReplays[1].wins < LEAST_WINS) return []
  const weight = 1 / (sd * sd)
  const every = Math.max(1, Math.ceil(matched.rows.length / MOST_ROWS))
  const isAim = play.worth !== undefined
  const playedAt = (factor: number) =>
    replay(
      play.worth !== undefined ? { ...play, worth: play.worth * factor } : { ...play, base: Math.max(1, Math.round(play.base * factor)) },
      weeks[0],
      { full: false, every },
      cancelled
    )
  const now = playedAt(1)
  const ratio = (then: number, before: number) => (before > 0 ? then / before : 1)
  const rates = Array.from({ length: DRAWS }, (_, n) => gammaQuantile((n + 0.5) / DRAWS, weight, 1 / weight))
  const middle = rates.reduce((sum, rate) => sum + rate, 0) / DRAWS
  return rates.map((quantile) => {
    const rate = (mean * quantile) / middle
    // What budgets hold down buys what they allow, whatever its rate.
    if (isHeld) return { rate, wins: 1, spend: 1 }
    const learned = (weight + (rate * events) / 2) / (weight + events / 2)
    const then = playedAt(learned)
    return {
      rate,
      wins: ratio(then.wins, now.wins),
      // An event that is paid for costs what its price is by the chance that is believed.
      spend: ratio(sumOf(then.byGroup.spend), sumOf(now.byGroup.spend)) * (isAim ? 1 : rate / learned)
    }
  })
}
