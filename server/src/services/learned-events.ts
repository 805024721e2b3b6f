import type { LearnedEvent } from '@tin-harbor/core/exchange'

/** Column of the roll-ups that counts what a line learns of. */
export const EVENT_COLUMN: Readonly<Record<LearnedEvent, string>> = {
  view: 'views',
  click: 'visits',
  stay: 'stays',
  page: 'pages',
  person: 'firsts',
  conversion: 'conversions',
  value: 'conversions'
}
