import { PAGE_RULES, TRACKER_REPORTS } from '../buying/tracker.js'
import { offerSchema } from '../buying/offer.js'
import type { Offer } from '../buying/offer.js'
import type { yup } from '../input/index.js'
import { EVENT_KINDS } from '../taxonomy/index.js'
import { flag, formOf, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

/** What becomes of a conversion that is told. */
export const TOLD_OUTCOMES = {
  waits: 'counts with the next market hour',
  counted: 'counted',
  late: 'outside the window',
  double: 'told before',
  'no click': 'without a click id',
  'not ours': 'no click of ours',
  elsewhere: "of another advertiser's ad",
  preview: 'of a preview: counts nowhere',
  test: 'a test: counts nowhere',
  forged: 'signature does not fit',
  currency: 'in another currency',
  old: 'told too late',
  page: 'a page that is not the event'
} as const
export type ToldOutcomeName = keyof typeof TOLD_OUTCOMES
const OUTCOME_NAMES = Object.keys(TOLD_OUTCOMES) as ToldOutcomeName[]

/** A conversion event, how it is told, and how much was. */
export const trackerView = shape({
  id: number(),
  advertiserId: number(),
  name: text(),
  kind: oneOf(EVENT_KINDS),
  subject: maybe(text()),
  reports: oneOf(TRACKER_REPORTS),
  clickHours: number(),
  viewHours: maybe(number()),
  valueMicros: maybe(number()),
  pages: shape({ which: oneOf(PAGE_RULES), paths: list(text()), leastPages: number(), leastSeconds: number() }),
  /** By which it is told, in addresses. */
  key: text(),
  version: number(),
  /** Of the market day, and in all: told and counted. */
  today: number(),
  all: number(),
  /** When something was told last, seconds since 1970. */
  lastAt: maybe(number())
})
export type TrackerView = TypeOf<typeof trackerView>

/** A conversion that was told, and what became of it. */
export const toldView = shape({
  id: number(),
  tracker: text(),
  how: oneOf(TRACKER_REPORTS),
  outcome: oneOf(OUTCOME_NAMES),
  says: text(),
  /** The term of the offer that it is outside of. */
  term: maybe(text()),
  by: maybe(oneOf(['click', 'view'])),
  click: text(),
  transaction: text(),
  valueMicros: number(),
  page: text(),
  toldAt: number(),
  line: maybe(number()),
  ad: maybe(number()),
  enteredHour: maybe(number())
})
export type ToldView = TypeOf<typeof toldView>

/** How a tracker is told, for who builds it in: shown to those who may draft. */
export const trackerSetUp = shape({
  /** What is pasted into pages; null for one that a server tells. */
  code: maybe(text()),
  /** Address of a postback with an example of each field, signed. */
  postback: maybe(text()),
  secret: maybe(text())
})
export type TrackerSetUp = TypeOf<typeof trackerSetUp>

/** A test that was sent, and what was answered and noted of it. */
export const testSent = shape({ sent: text(), status: number(), answer: text(), noted: maybe(toldView) })
export type TestSent = TypeOf<typeof testSent>

/** An offer as its page shows it: what came of its events, of campaigns that sell it. */
export const offerPage = shape({
  ...formOf(offerSchema).fields,
  id: number(),
  advertiserId: number(),
  version: number(),
  campaigns: list(shape({ id: number(), name: text() })),
  /** Whether a tracker counts each payout's event, in their order. */
  tracked: list(flag())
}) as unknown as yup.Schema<
  Offer & {
    id: number
    advertiserId: number
    version: number
    campaigns: { id: number; name: string }[]
    tracked: boolean[]
  }
>
export type OfferPage = TypeOf<typeof offerPage>

/** What campaigns of an offer brought of its events over the last days. */
export const offerCame = shape({
  days: number(),
  events: list(shape({ event: text(), accepted: number(), unpaid: number(), payMicros: number() })),
  spendMicros: number(),
  /** What is left of the stock; null without one. */
  left: maybe(number())
})
export type OfferCame = TypeOf<typeof offerCame>
