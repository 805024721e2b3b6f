import { DIMENSIONS } from '../dimensions/index.js'
import { SURVEY_BY, type ForecastPart } from '../forecast/index.js'
import { GRADES } from '../taxonomy/index.js'
import { flag, list, maybe, named, number, oneOf, optional, shape, text, type TypeOf } from './shapes.js'

/** How a run stands; sent to every page. */
export const runStatus = shape({
  running: flag(),
  /** The market clock. */
  hour: number(),
  fromHour: number(),
  targetHour: number(),
  wins: number(),
  spendMicros: number(),
  /** Whether it is played: an hour each so many seconds. */
  playing: flag(),
  /** Why it stands still against its will; null when all is well. */
  trouble: maybe(text())
})
export type RunStatus = TypeOf<typeof runStatus>

/** How far an organisation's money goes. */
export const fundsView = shape({
  balanceMicros: number(),
  /** Market hour until which it lasts at the pace of the last day; null where nothing was spent in it. */
  lastsUntil: maybe(number()),
  /** Whether that is sooner than it wants to be warned. */
  isLow: flag()
})
export type FundsView = TypeOf<typeof fundsView>

/** Clock, money and run, as every page shows them. */
export const marketView = shape({
  hour: number(),
  funds: fundsView,
  run: runStatus,
  tape: maybe(shape({ firstDay: number() }))
})
export type MarketView = TypeOf<typeof marketView>

/** Some traffic: see `Traffic` of the survey for what each figure is. */
const traffic = {
  ...named(
    [
      'opportunitiesADay',
      'people',
      'floorMicros',
      'meanMicros',
      'highestMicros',
      'rivals',
      'entersMicros',
      'halfMicros',
      'nineInTenMicros',
      'winRate',
      'viewability',
      'bots',
      'blocked',
      'stays',
      'direct',
      'conversionRate'
    ],
    number
  ),
  mostFloorsMicros: maybe(number()),
  grade: oneOf(GRADES)
}
export const surveyRowView = shape({
  key: number(),
  label: text(),
  /** What restrictions call it: of properties, placements and publishers. */
  code: optional(text()),
  ...traffic,
  /** Address and kind of a property, size and place of a placement. */
  about: optional(text()),
  publisher: optional(text()),
  /** The code of the property, of a placement the one that it is on. */
  property: optional(text()),
  /** Formats that it sells. */
  formats: optional(text())
})
export type SurveyRowView = TypeOf<typeof surveyRowView>
/** A survey as a page shows it: rows of properties and placements say what they are. */
export const surveyView = shape({
  total: shape(traffic),
  groups: list(shape({ by: oneOf(SURVEY_BY), rows: list(surveyRowView) })),
  /** By hour of the viewer's week, Monday 00:00 first. */
  week: shape(named(['opportunities', 'halfMicros', 'rivals'], () => list(number()))),
  /** Share won by bid: cumulative, at the bids where it changes. */
  curve: list(shape({ bidMicros: number(), share: number() })),
  /** People that two of the compared groups share; on the diagonal those of each. */
  overlap: list(list(number())),
  /** One person in so many of the tape was looked at. */
  every: number(),
  /** First phrase after which nothing is left. */
  emptiedBy: maybe(oneOf([...DIMENSIONS, 'format', 'hours']))
})
export type SurveyView = TypeOf<typeof surveyView>

/** A property: what it is, its placements, and whether those who offer it may sell it. */
export const propertyView = shape({
  property: text(),
  name: text(),
  domain: text(),
  /** Publisher and subject: null of one that is sold under a number. */
  publisher: maybe(text()),
  class: text(),
  home: text(),
  category: maybe(text()),
  placements: list(shape({ placement: text(), position: text(), size: text(), viewability: number(), bots: number(), grade: text() })),
  /** The file that says who sells for it; null for a property that is sold under a number. */
  file: maybe(
    shape({ address: text(), found: flag(), records: number(), problems: list(shape({ line: number(), text: text(), message: text() })) })
  ),
  sellers: list(
    shape({
      source: text(),
      system: text(),
      /** The account; null where nobody is told whose it is. */
      seller: maybe(text()),
      relation: oneOf(['DIRECT', 'RESELLER']),
      sellerName: maybe(text()),
      authorised: flag(),
      line: maybe(number()),
      problem: maybe(text())
    })
  )
})
export type PropertyView = TypeOf<typeof propertyView>

/** An offer that traffic can be judged by. */
export const offerView = shape({
  id: number(),
  name: text(),
  advertiser: text(),
  /** What its best paid event pays. */
  event: text(),
  payoutMicros: number()
})
export type OfferView = TypeOf<typeof offerView>

/** What pages are told as it happens: what is of advertisers, of those alone that the user sees. */
export type PageEvent =
  | ({ kind: 'market'; funds: FundsView } & RunStatus)
  | { kind: 'tape'; ready: boolean; firstDay: number | null; share: number }
  /** Nothing can be read or kept while it is away. */
  | { kind: 'database'; away: boolean }
  /** What lines get of what their money could buy is known anew. */
  | { kind: 'possible'; since: number }

/** A line of a forecast's answer: a part, or why no more come. */
export type ForecastLine =
  ({ number: number; milliseconds: number } & ForecastPart) | { number: number; part: 'error'; code: string; message: string }
