import type { Goal, LineDraft } from '../buying/index.js'
import { isWatched } from '../taxonomy/index.js'

/** What results of a line are counted in, in the order in which it happens. */
export const RESULT_EVENTS = ['views', 'clicks', 'visits', 'stays', 'pages', 'conversions'] as const
export type ResultEvent = (typeof RESULT_EVENTS)[number]
/** One of each, as prices name it. */
export const ONE_OF: Readonly<Record<ResultEvent, string>> = {
  views: 'view',
  clicks: 'click',
  visits: 'visit',
  stays: 'stay',
  pages: 'page',
  conversions: 'conversion'
}

const AIMED: Readonly<Record<string, ResultEvent>> = {
  view: 'views',
  click: 'clicks',
  stay: 'stays',
  page: 'pages',
  conversion: 'conversions',
  value: 'conversions'
}
const WANTED: Readonly<Partial<Record<Goal, ResultEvent>>> = {
  views: 'views',
  visits: 'visits',
  pages: 'pages',
  conversions: 'conversions',
  revenue: 'conversions'
}
const PAID: Readonly<Record<string, ResultEvent>> = { CPC: 'clicks', view: 'views', visit: 'visits' }

/**
 * What a line is judged by, the first the most: what it aims at, what its campaign is for, what it is paid for; where that is
 * nothing, or comes seldom, also what its format brings most often.
 */
export function eventsOf({ price, format }: Pick<LineDraft, 'price' | 'format'>, goal: Goal): ResultEvent[] {
  const often = isWatched(format) ? 'views' : 'visits'
  const all: (ResultEvent | undefined)[] = [price.aim ? AIMED[price.aim.event] : undefined, WANTED[goal], PAID[price.model]]
  const judged = [...new Set(all.filter((event) => event !== undefined))]
  return judged.some((event) => event !== 'conversions') ? judged : [...judged, often]
}
