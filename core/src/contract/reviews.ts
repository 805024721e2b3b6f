import { WRITTEN_RULES, type ReviewRule } from '../review/index.js'
import { flag, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

const RULE_NAMES: readonly ReviewRule[] = WRITTEN_RULES.map(({ rule }) => rule)
const reviewFinding = shape({ rule: oneOf(RULE_NAMES), value: text(), reason: text() })

/** An ad as it was sent to somebody who looks at it, and what they answered. */
export const adReviewView = shape({
  id: number(),
  ad: number(),
  name: text(),
  line: number(),
  lineName: text(),
  /** Who looks at it: the reviewer, or a publisher of a deal. */
  desk: text(),
  state: oneOf(['waits', 'cleared', 'refused', 'withdrawn']),
  findings: list(reviewFinding),
  /** Market hours. */
  sentHour: number(),
  byHour: number(),
  answeredHour: maybe(number()),
  /** What was written to whoever looks. */
  note: text(),
  /** Where people land from it; and its picture, where it is one. */
  links: list(text()),
  creativeId: maybe(number()),
  /** The version before, where that serves meanwhile. */
  older: maybe(shape({ name: text(), links: list(text()), creativeId: maybe(number()) })),
  /** Whether it is the last word on the ad as it is now: it can be answered. */
  isLast: flag()
})
export type AdReviewView = TypeOf<typeof adReviewView>

/** All that was sent of what a user sees, the newest first; and how the reviewer works. */
export const reviewsView = shape({
  reviews: list(adReviewView),
  rules: list(shape({ rule: oneOf(RULE_NAMES), says: text(), reason: text() })),
  /** Whether the reviewer could not be asked the last time. */
  isAway: flag()
})
export type ReviewsView = TypeOf<typeof reviewsView>
