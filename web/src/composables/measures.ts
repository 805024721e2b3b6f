import type { GoalMeasure } from '@tin-harbor/core/forecast'

/** What a campaign's goal is counted in, of a mean day; people in seven. */
export const MEASURE_WORDS: Readonly<Record<GoalMeasure, string>> = {
  wins: 'wins a day',
  reach: 'people in 7 days',
  views: 'views a day',
  visits: 'visits a day',
  conversions: 'conversions a day'
}
