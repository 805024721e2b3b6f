import { OUTCOMES, VERDICTS, type Bought } from '../exchange/index.js'
import { KEPT_FIGURES } from '../forecast/index.js'
import { REPORT_MEASURE_NAMES } from '../report/index.js'
import { LOSSES, RESULT_EVENTS } from '../results/index.js'
import { interval, ranged } from './figures.js'
import { REPORT_DIMENSION_NAMES } from '../dimensions/index.js'
import { byName, flag, list, maybe, named, number, oneOf, optional, shape, text, type TypeOf } from './shapes.js'
import { yup } from '../input/index.js'

/** What was forecast of a revision beside what came. */
export const forecastRecordRow = shape({
  line: number(),
  name: text(),
  revision: number(),
  /** Hours in which it was in force, the end exclusive. */
  from: number(),
  to: number(),
  /** What of the forecast is judged: its day over a week, or a shorter flight; null where it was changed too soon. */
  by: maybe(oneOf(['day', 'flight'])),
  figures: list(shape({ what: oneOf(KEPT_FIGURES), said: ranged(), came: number(), held: flag() }))
})
export type ForecastRecordRow = TypeOf<typeof forecastRecordRow>

/** Ranges that were said, and how many of them held what came. */
export const forecastRecordView = shape({ rows: list(forecastRecordRow), ranges: number(), held: number() })
export type ForecastRecordView = TypeOf<typeof forecastRecordView>

const sums = {
  impressions: number(),
  viewable: number(),
  spendMicros: number(),
  cpmMicros: number(),
  /** What the line is judged by, in the order of `events`: how many, of impressions with its 90 % range, and what one cost with its own. */
  brought: list(
    shape({
      count: number(),
      rate: number(),
      range: interval(),
      costMicros: maybe(number()),
      costRange: maybe(shape({ low: number(), high: maybe(number()) }))
    })
  )
}
export const placementResult = shape({
  placement: text(),
  property: text(),
  position: text(),
  size: text(),
  ...sums,
  leftOut: flag(),
  /** What is bid there in place of the line's bid, micros; null where nothing else is. */
  ownMicros: maybe(number())
})
export type PlacementResult = TypeOf<typeof placementResult>

export const results = shape({
  /** What the line is judged by, the first the most. */
  events: list(oneOf(RESULT_EVENTS)),
  from: maybe(text()),
  to: maybe(text()),
  rows: list(placementResult),
  total: shape(sums),
  /** Market hours of the period in which the line ran. */
  hours: number(),
  days: list(shape({ date: text(), impressions: number(), spendMicros: number() }))
})
export type Results = TypeOf<typeof results>

/** A stair of what became of opportunities, for a line and market hours [from, to). */
export const traceView = shape({
  line: number(),
  from: number(),
  to: number(),
  /** Opportunities of the whole market in the hours in which the line was in force, and how many hours those were. */
  offered: number(),
  hours: number(),
  tapeFirstDay: number(),
  /** What each restriction leaves, counted on the tape and scaled to what was offered, with its 80 % range. */
  sieve: list(shape({ name: text(), left: number(), low: number(), high: number() })),
  matched: number(),
  /** With what was forecast to be left at a step, where a forecast tells that. */
  stair: list(shape({ name: text(), left: number(), lost: number(), outcomes: list(oneOf(OUTCOMES)), forecast: maybe(number()) })),
  counts: byName(OUTCOMES, number()),
  /** Lost bids by bin of how far they fell short. */
  short: list(number()),
  /** What took most opportunities, the largest first. */
  losses: list(shape({ loss: oneOf(LOSSES), lost: number(), outcomes: list(oneOf(OUTCOMES)) })),
  /** What binds now, and the better uses of its money, as the line's own page says: wins and spend a day. */
  binds: text(),
  advice: list(shape({ words: text(), wins: number(), spendMicros: number(), takesMore: flag() })),
  /** What was forecast when it went live, for as many hours. */
  forecast: shape({ wins: number(), low: number(), high: number() })
})
export type TraceView = TypeOf<typeof traceView>

/** One opportunity, and what every line made of it. */
export const opportunityTrace = shape({
  hour: number(),
  nth: number(),
  /** Opportunities of that hour. */
  count: number(),
  key: number(),
  minute: number(),
  placement: text(),
  property: text(),
  position: text(),
  size: text(),
  source: text(),
  device: text(),
  browser: text(),
  country: text(),
  /** Null where nobody is told. */
  category: maybe(text()),
  connection: text(),
  robot: flag(),
  floorMicros: number(),
  rivalMicros: number(),
  secondMicros: number(),
  isFirstPrice: flag(),
  verdicts: list(
    shape({
      line: number(),
      name: text(),
      /** Whether its flight was open at that hour. */
      isOpen: flag(),
      /** Restrictions that the opportunity does not meet, in words. */
      failing: list(text()),
      hasAd: flag(),
      /** The bid as it is built, a row a step: micros an impression, or an event. */
      steps: list(shape({ what: text(), micros: number() })),
      bidMicros: number(),
      /** Least bid that would have won. */
      needMicros: number(),
      verdict: oneOf(VERDICTS),
      became: maybe(oneOf(['won', 'own line', 'stopped']))
    })
  ),
  /**
   * The line of ours that bought it; by a line that the user does not see, nothing but that. `click` leads on as a click on it would, and
   * counts as one; null for those who may not put live.
   */
  bought: maybe(
    shape({
      name: maybe(text()),
      priceMicros: optional(number()),
      mediaMicros: optional(number()),
      nth: optional(number()),
      click: optional(maybe(text()))
    })
  ) as yup.Schema<(Omit<Bought, 'line' | 'place'> & { name: string; click: string | null }) | { name: null } | null>
})
export type OpportunityTrace = TypeOf<typeof opportunityTrace>

/** A row of a report: every measure, and what of it is told with a range. */
export const reportRowView = shape({
  key: number(),
  label: text(),
  ...named(REPORT_MEASURE_NAMES, number),
  /** How many reached each quarter point. */
  reached: yup.tuple([number(), number(), number(), number()]).defined() as yup.Schema<[number, number, number, number]>,
  clickRange: interval(),
  costMicros: maybe(number()),
  costRange: maybe(shape({ low: number(), high: maybe(number()) }))
})
export type ReportRowView = TypeOf<typeof reportRowView>

export const reportView = shape({
  by: oneOf(REPORT_DIMENSION_NAMES),
  from: text(),
  to: text(),
  windowHours: number(),
  campaign: maybe(number()),
  line: maybe(number()),
  rows: list(reportRowView),
  total: reportRowView,
  milliseconds: number()
})
export type ReportView = TypeOf<typeof reportView>

/** Visits to an advertiser's shops beside what was shown; null where it has none or no campaign is asked about. */
export const shopVisitsView = shape({
  shops: list(text()),
  ...named(['panel', 'exposed', 'exposedDays', 'exposedVisits', 'otherDays', 'otherVisits', 'expectedVisits'], number),
  /** Visits of what was expected, with its 90 % range; null when nothing can be expected. */
  ratio: maybe(ranged())
})
export type ShopVisitsView = TypeOf<typeof shopVisitsView>

/** What an hour of a local day brought. */
export const todayHour = shape({ spendMicros: number(), matched: number(), wins: number(), viewable: number(), clicks: number() })
export type TodayHour = TypeOf<typeof todayHour>

/** A day by hour against its plan, with the day before behind it. */
export const todayView = shape({
  date: text(),
  /** Hour of the local day in which the clock stands. */
  hour: number(),
  hours: list(todayHour),
  yesterday: list(todayHour),
  /** Spend planned by the start of each hour, 25 of them; null without a limit of money. */
  plannedMicros: maybe(list(number()))
})
export type TodayView = TypeOf<typeof todayView>
