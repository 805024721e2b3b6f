import {
  chancesOfBest,
  rotationWeights,
  emptyTally,
  GOAL_EVENT,
  type AdRules,
  type GoalName,
  type LineFacts,
  type Rotation
} from '../exchange/index.js'
import { wilson, type Interval } from '../report/index.js'

/** What is counted of an ad: at most once a showing, so that a rate has a range. */
export const AD_COUNTS = ['viewable', 'views', 'visits', 'conversions'] as const
const COUNT_OF_GOAL = {
  reach: 'viewable',
  views: 'views',
  visits: 'visits',
  pages: 'visits',
  conversions: 'conversions',
  revenue: 'conversions'
} as const satisfies Record<GoalName, (typeof AD_COUNTS)[number]>

/** What came of an ad on its line, and what is believed of it. */
export interface AdStanding {
  ad: number
  impressions: number
  /** What of them counts towards the goal. */
  events: number
  rate: number
  range: Interval
  /** Chance that it is the best of those that fit the same slot: of several slots that of the first. */
  best: number
  /** Of the next draws among those; 0 where it is off. */
  share: number
}

/** Ads of a line, by what its facts say of each. */
export function adStandings(
  ads: readonly AdRules[],
  { goal, rotation, seed }: { goal: GoalName; rotation: Rotation; seed: number },
  byAd: LineFacts['byAd'],
  total: LineFacts['total']
): { counts: (typeof AD_COUNTS)[number]; ads: AdStanding[] } {
  const counts = COUNT_OF_GOAL[goal]
  const measure = GOAL_EVENT[goal]
  const unit = measure === 'valueMicros' && total.conversions > 0 ? Math.max(1, total.valueMicros / total.conversions) : 1
  const told = new Map<number, AdStanding>()
  for (const shape of new Set(ads.map((ad) => ad.shape))) {
    const own = ads.filter((ad) => ad.shape === shape)
    const on = own.filter(({ off }) => !off)
    const tallyOf = (ad: AdRules) => byAd.get(ad.ad) ?? emptyTally()
    const best = chancesOfBest(
      own.map((ad) => ({ ad: ad.ad, trials: tallyOf(ad).wins, events: tallyOf(ad)[measure] / unit })),
      seed
    )
    const weights = rotationWeights(rotation, on, { byAd }, measure, unit, seed)
    const sum = weights.reduce((all, weight) => all + weight, 0)
    own.forEach((ad, n) => {
      if (told.has(ad.ad)) return
      const { wins, [counts]: events } = tallyOf(ad)
      told.set(ad.ad, {
        ad: ad.ad,
        impressions: wins,
        events,
        rate: wins > 0 ? events / wins : 0,
        range: wilson(Math.min(events, wins), wins),
        best: best[n],
        share: ad.off ? 0 : weights[on.indexOf(ad)] / sum
      })
    })
  }
  return { counts, ads: [...told.values()] }
}
