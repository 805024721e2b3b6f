import type { ForecastPart, Survey, SurveyBy, SurveyRow } from '../forecast/index.js'
import type { AdsTxtProblem } from '../supply/index.js'
import { flag, list, made, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

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

/** Clock, money and run, as every page shows them. */
export const marketView = shape({
  hour: number(),
  balanceMicros: number(),
  run: runStatus,
  tape: maybe(shape({ firstDay: number() }))
})
export type MarketView = TypeOf<typeof marketView>

export interface SurveyRowView extends SurveyRow {
  /** Address and kind of a property, size and place of a placement. */
  about?: string
  publisher?: string
  /** The property of a placement. */
  property?: number
  /** Formats that it sells. */
  formats?: string
}
/** A survey as a page shows it: rows of properties and placements say what they are. */
export const surveyView = made<Omit<Survey, 'groups'> & { groups: { by: SurveyBy; rows: SurveyRowView[] }[] }>()
export type SurveyView = TypeOf<typeof surveyView>

/** A property: what it is, its placements, and whether those who offer it may sell it. */
export const propertyView = shape({
  property: number(),
  name: text(),
  domain: text(),
  publisher: text(),
  class: text(),
  home: text(),
  category: text(),
  placements: list(shape({ placement: number(), position: text(), size: text(), viewability: number(), bots: number(), grade: text() })),
  /** The file that says who sells for it; null for a property that is sold under a number. */
  file: maybe(shape({ address: text(), found: flag(), records: number(), problems: list(made<AdsTxtProblem>()) })),
  sellers: list(
    shape({
      source: text(),
      system: text(),
      seller: text(),
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
  | ({ kind: 'market'; balanceMicros: number } & RunStatus)
  | { kind: 'tape'; ready: boolean; firstDay: number | null; share: number }
  /** Nothing can be read or kept while it is away. */
  | { kind: 'database'; away: boolean }
  /** What lines get of what their money could buy is known anew. */
  | { kind: 'possible' }

/** A line of a forecast's answer: a part, or why no more come. */
export type ForecastLine =
  ({ number: number; milliseconds: number } & ForecastPart) | { number: number; part: 'error'; code: string; message: string }
