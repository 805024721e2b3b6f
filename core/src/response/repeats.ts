import { REPEAT_CLICKS } from './rates.js'

/** What the trade's mean of clicks is to that of first exposures: people see most ads more than once. */
const USUAL = 0.92

/**
 * Clicks of people who see an ad so often, against the trade's mean.
 * @param people by number of exposures: entry n - 1 for n, the last for that many or more
 * @param wins exposures in all
 */
export function repeatFactor(people: readonly number[], wins: number): number {
  let [clicks, counted] = [0, 0]
  let each = 0
  people.forEach((some, n) => {
    each += REPEAT_CLICKS[Math.min(n, REPEAT_CLICKS.length - 1)]
    clicks += some * each
    counted += some * (n + 1)
  })
  // Those of the last entry saw it more often than that.
  clicks += Math.max(0, wins - counted) * REPEAT_CLICKS[REPEAT_CLICKS.length - 1]
  return wins > 0 ? clicks / wins / USUAL : 1
}
