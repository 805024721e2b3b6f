import type { Finding, FixableFinding } from '../buying/fields.js'
import { lineSchema } from '../buying/line.js'
import type { yup } from '../input/index.js'
import { AD_COUNTS } from '../results/index.js'
import { interval, mainFigures } from './figures.js'
import { LINE_STATES } from '../buying/states.js'
import { FORMATS, PRICE_MODELS } from '../taxonomy/index.js'
import { adReviewView } from './reviews.js'
import { anything, flag, formOf, list, maybe, number, oneOf, optional, shape, text, type TypeOf } from './shapes.js'

/** One field that differs between two drafts, in words. */
export const fieldChange = shape({ field: text(), before: text(), after: text() })
const changes = () => list(fieldChange)

const found = { field: text(), message: text(), severity: oneOf(['stops', 'warns']) }
/** What one click does about a finding: the fields that it sets, and what the line has only with it. */
const fix = () => maybe(shape({ words: text(), edits: list(shape({ field: text(), value: anything() })), adds: list(text()) }))
export const finding = shape({ ...found, fix: optional(fix()) }) as yup.Schema<Finding>
const fixableFinding = shape({ ...found, fix: fix() }) as yup.Schema<FixableFinding>
const draft = () => formOf(lineSchema)

export const adView = shape({
  id: number(),
  /** The picture; null for an ad made of parts. */
  creativeId: maybe(number()),
  madeCreativeId: maybe(number()),
  name: text(),
  /** Shapes of slot that it fits, in words. */
  size: text(),
  shapes: list(text()),
  width: number(),
  height: number(),
  bytes: number(),
  type: text(),
  /** Of a film or a spot. */
  seconds: optional(number()),
  review: text(),
  /** Why it is not shown, whatever the line says; null where nothing keeps it. */
  stopped: maybe(text())
})
export type AdView = TypeOf<typeof adView>

/** What came of an ad on its line, what of it counts towards the campaign's goal, and how sure that is. */
const adStanding = shape({
  ad: number(),
  impressions: number(),
  events: number(),
  /** Of showings that brought an event: as measured, and the range that holds it in nine of ten. */
  rate: number(),
  range: interval(),
  /** Chance that it is the best of those that fit the same slot. */
  best: number(),
  /** Of the next draws among those; 0 where it is off. */
  share: number()
})
export const adStandings = shape({ counts: oneOf(AD_COUNTS), ads: list(adStanding) })
export type AdStandings = TypeOf<typeof adStandings>

/** A creative made of parts that a line could show. */
export const madeChoice = shape({ id: number(), name: text(), kind: text(), shapes: list(text()) })
export type MadeChoice = TypeOf<typeof madeChoice>

export const lineView = shape({
  id: number(),
  code: text(),
  campaignId: number(),
  advertiserId: number(),
  draft: draft(),
  state: oneOf(LINE_STATES),
  /** Cleared, but not to start before somebody releases it. */
  waits: flag(),
  version: number(),
  ads: list(adView),
  /** What was said last of each of them, by each who looks at it. */
  reviews: list(adReviewView),
  /** The revision in force, and what the draft would change of it; null before the line first goes live. */
  inForce: maybe(shape({ draft: draft(), forecast: mainFigures, marketHour: number(), changes: changes() })),
  /** Whether a live line serves, in words. */
  serving: text(),
  /** What it has gathered to learn from, in words; empty where nothing is learned. */
  learning: text(),
  tags: list(text()),
  /** A draft that others start from. */
  template: flag(),
  /** The line that it was copied from, and what differs from it. */
  copiedFrom: maybe(shape({ id: number(), name: text(), differs: changes() }))
})
export type LineView = TypeOf<typeof lineView>

/** What the one confirmation counts before anything goes live. */
export const livePlan = shape({
  findings: list(fixableFinding),
  campaigns: number(),
  lines: number(),
  ads: number(),
  /** The most this line may spend in a day and in all, micros; null without a limit of that kind. */
  mostADayMicros: maybe(number()),
  mostInAllMicros: maybe(number()),
  /** What changes of a line that is live already. */
  changes: changes(),
  isLive: flag(),
  waits: flag(),
  /** By when all of the ads that are sent are answered, market hour; null where nobody has to look. */
  answeredBy: maybe(number())
})
export type LivePlan = TypeOf<typeof livePlan>

/** What preflight says of a draft. */
export const preflightAnswer = shape({ findings: list(fixableFinding) })

/** A line as scripts list them. */
export const lineRow = shape({
  id: number(),
  code: text(),
  version: number(),
  name: text(),
  campaignId: number(),
  campaign: text(),
  advertiserId: number(),
  format: oneOf(FORMATS),
  state: oneOf(LINE_STATES),
  tags: list(text()),
  template: flag(),
  /** Micros in the unit of its price: a thousand impressions, a click, a view or a visit; null without. */
  model: oneOf(PRICE_MODELS),
  bidMicros: maybe(number()),
  maxMicros: maybe(number()),
  dailyMicros: maybe(number()),
  totalMicros: maybe(number()),
  startDate: text(),
  endDate: maybe(text()),
  /** What we paid for it so far. */
  spentMicros: number()
})
export type LineRow = TypeOf<typeof lineRow>

/** A page of lines, in the order of their numbers. */
export const linesPage = shape({
  lines: list(lineRow),
  /** By which the lines after these are asked for; null where there are none. */
  next: maybe(text())
})
export type LinesPage = TypeOf<typeof linesPage>

/** What a line as it is drafted is forecast to buy. */
export const lineForecast = shape({ line: number(), version: number(), figures: mainFigures })

export const liveAnswer = shape({ line: number(), state: oneOf(LINE_STATES), fromHour: number() })
export type LiveAnswer = TypeOf<typeof liveAnswer>

/** What somebody did to a line. */
export const historyEntry = shape({
  id: number(),
  /** Seconds since 1970. */
  at: number(),
  /** The market's hour; null of what was done before it was noted. */
  hour: maybe(number()),
  who: text(),
  action: text(),
  changes: changes()
})
export type HistoryEntry = TypeOf<typeof historyEntry>
