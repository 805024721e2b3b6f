import { gammaQuantile } from '../report/index.js'
import { followedEvent, rateAmong } from './bid-rates.js'
import { periodMoney, type Bought, type Planned } from './period.js'
import { rateKnown } from './question.js'
import { LEAST_WINS } from './ranges.js'
import { replay } from './replay.js'
import { sumOf } from './totals.js'
import type { Workings } from './workings.js'

/** What a line buys if its own rate is another than the one believed now: against what it buys at that. */
export interface RateDraw extends Bought {
  /** Of the event that is paid for or aimed at. */
  rate: number
}

/** How many stratified draws of a rate, and the rows of a replay from which only every n-th person is asked. */
export interface DrawTerms {
  draws: number
  mostRows: number
}
export const ALL_DRAWS: DrawTerms = { draws: 8, mostRows: 25_000 }
/** Certainty from which a rate is as good as known. */
const KNOWN_SD = 0.01

/** A line whose rate is drawn, with its weeks replayed. */
type Drawn = Planned & Pick<Workings, 'question' | 'tape' | 'play' | 'weeks' | 'weekReplays' | 'isHeld'>

/**
 * Draws of a line's own rate, and what bids that learn it then buy: dearer where the event is likelier than believed. What is learned
 * follows the results, so that bids go half of the way, over seven days that budgets allow, from what is believed to what is true. None for
 * a line whose bids follow no rate.
 */
export function rateDraws(work: Drawn, { draws, mostRows }: DrawTerms, cancelled: () => boolean): RateDraw[] {
  const { question, tape, play, weeks, weekReplays, isHeld } = work
  const event = followedEvent(question)
  if (event === null) return []
  const [week] = weekReplays
  const known = rateKnown(question, event)
  if (known.sd < KNOWN_SD || weekReplays[0].wins + weekReplays[1].wins < LEAST_WINS) return []
  const spend = sumOf(week.byGroup.spend)
  const { money } = periodMoney(work, weeks[0], week)
  const expected = (question.aim ? week.aimed / 1e6 : sumOf(week.byGroup[event === 'click' ? 'visits' : 'views'])) * tape.sample
  const events = spend > 0 ? (expected * money.spend) / spend : 0
  // What the rate is expected to be against what is believed of it.
  const mean = rateAmong(question, event, week.frequency, week.wins).factor / known.factor
  const weight = 1 / known.sd ** 2
  const every = Math.max(1, Math.ceil(play.matched.rows.length / mostRows))
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
  const rates = Array.from({ length: draws }, (_, n) => gammaQuantile((n + 0.5) / draws, weight, 1 / weight))
  const middle = rates.reduce((sum, rate) => sum + rate, 0) / draws
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
