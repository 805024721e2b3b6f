import { FEED_ROLES, ITEM_STATES, feedSchema } from '../creative/index.js'
import { flag, formOf, list, maybe, named, number, oneOf, shape, text, type TypeOf } from './shapes.js'

const FEED_FORMS = ['RSS', 'Atom', 'XML', 'CSV'] as const
export const feedFound = shape({
  form: oneOf(FEED_FORMS),
  /** Names of fields that its items have. */
  names: list(text()),
  /** Which of them is what, by their names. */
  guessed: shape(named(FEED_ROLES, text)),
  items: number(),
  broken: number(),
  /** Of the first broken ones, each with its place and what is wrong. */
  told: list(shape({ nth: number(), key: text(), says: text() }))
})
export type FeedFound = TypeOf<typeof feedFound>

export const feedSummary = shape({ id: number(), name: text(), words: text() })
export type FeedSummary = TypeOf<typeof feedSummary>

export const feedView = shape({
  id: number(),
  advertiserId: number(),
  version: number(),
  feed: formOf(feedSchema),
  found: maybe(feedFound),
  readHour: maybe(number()),
  problem: maybe(text()),
  /** Fields that templates name and no item has. */
  unknown: list(text()),
  counts: shape({ ...named(ITEM_STATES, number), wanted: number(), ads: number(), changed: number(), stopped: number() })
})
export type FeedView = TypeOf<typeof feedView>

export const FEED_SHOWS = ['wanted', 'all', 'ads', 'changed', 'out', 'gone', 'broken'] as const
export const feedItemView = shape({
  id: number(),
  nth: number(),
  key: text(),
  title: text(),
  price: text(),
  link: text(),
  picture: text(),
  state: oneOf(ITEM_STATES),
  sinceHour: number(),
  said: list(shape({ part: text(), value: text() })),
  /** The ad that was made of it; null where none was. */
  creative: maybe(number()),
  /** Whether it says something else than that ad. */
  changed: flag(),
  lines: list(number())
})
export type FeedItemView = TypeOf<typeof feedItemView>
export const feedItems = shape({ count: number(), items: list(feedItemView) })
export type FeedItems = TypeOf<typeof feedItems>

/** What came of making ads of items. */
export const feedMade = shape({
  made: number(),
  renewed: number(),
  put: number(),
  /** Items of which none could be made, and why. */
  refused: list(shape({ item: number(), title: text(), says: text() })),
  view: feedView
})
export type FeedMade = TypeOf<typeof feedMade>
