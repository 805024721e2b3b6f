import type { LearnedEvent } from '@tin-harbor/core/exchange'

/** What a line learns of: the column of the roll-ups that counts it, and what it is called. */
export const LEARNED_EVENTS: Readonly<Record<LearnedEvent, { column: string; words: string }>> = {
  view: { column: 'views', words: 'views' },
  click: { column: 'visits', words: 'clicks' },
  stay: { column: 'stays', words: 'stays' },
  page: { column: 'pages', words: 'pages' },
  person: { column: 'firsts', words: 'new people' },
  conversion: { column: 'conversions', words: 'conversions' },
  value: { column: 'conversions', words: 'conversions' }
}
