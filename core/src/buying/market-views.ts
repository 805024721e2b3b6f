import type { ForecastPart, Survey, SurveyBy, SurveyRow } from '../forecast/index.js'
import type { AdsTxtProblem } from '../supply/index.js'
import type { ListKind } from './lists.js'
import type { Targeting } from '../targeting/index.js'
import type { Format } from '../taxonomy/index.js'

/** What the server tells pages of the market: run, survey, properties, lists, deals and events. */

/** How a run stands; sent to every page. */
export interface RunStatus {
  running: boolean
  /** The market clock. */
  hour: number
  fromHour: number
  targetHour: number
  wins: number
  spendMicros: number
  /** Whether it is played: an hour each so many seconds. */
  playing: boolean
  /** Why it stands still against its will; null when all is well. */
  trouble: string | null
}

/** A survey as a page shows it: rows of properties and placements say what they are. */
export interface SurveyView extends Omit<Survey, 'groups'> {
  groups: { by: SurveyBy; rows: SurveyRowView[] }[]
}
export interface SurveyRowView extends SurveyRow {
  /** Address and kind of a property, size and place of a placement. */
  about?: string
  publisher?: string
  /** The property of a placement. */
  property?: number
  /** Formats that it sells. */
  formats?: string
}

/** A property: what it is, its placements, and whether those who offer it may sell it. */
export interface PropertyView {
  property: number
  name: string
  domain: string
  publisher: string
  class: string
  home: string
  category: string
  placements: { placement: number; position: string; size: string; viewability: number; bots: number; grade: string }[]
  /** The file that says who sells for it; null for a property that is sold under a number. */
  file: { address: string; found: boolean; records: number; problems: AdsTxtProblem[] } | null
  sellers: {
    source: string
    system: string
    seller: string
    relation: 'DIRECT' | 'RESELLER'
    sellerName: string | null
    authorised: boolean
    line: number | null
    problem: string | null
  }[]
}

/** An offer that traffic can be judged by. */
export interface OfferView {
  id: number
  name: string
  advertiser: string
  /** What its best paid event pays. */
  event: string
  payoutMicros: number
}

/** A list as pages show it. */
export interface ListView {
  id: number
  advertiserId: number | null
  name: string
  kind: ListKind | 'group'
  values: string[]
  /** What properties and placements are called, in the order of the values; empty where values say it themselves. */
  names: string[]
  group: Targeting | null
  version: number
  /** Lines whose drafts follow it. */
  usedBy: { line: number; name: string }[]
}

/** A granted deal. */
export interface DealView {
  id: number
  name: string
  publisher: string
  kind: 'fixed' | 'floor'
  priceMicros: number
  placements: number
  format: Format
  volume: number | null
  leastSpendMicros: number | null
  untilHour: number | null
  isExpired: boolean
  usedBy: { line: number; name: string }[]
}

/** All deals, everything asked for, and who can be asked. */
export interface DealsView {
  deals: DealView[]
  asks: DealAskView[]
  publishers: { publisher: number; name: string; formats: string[] }[]
}

/** A deal that was asked for, and what the publisher's office said. */
export interface DealAskView {
  id: number
  publisher: string
  format: Format
  kind: 'fixed' | 'floor'
  priceMicros: number
  volume: number
  about: string
  note: string
  askedHour: number
  state: 'asked' | 'granted' | 'countered' | 'refused'
  answeredHour: number | null
  dealId: number | null
  /** The rule that decided. */
  rule: string | null
  answer: string | null
  offered: { priceMicros: number; volume: number } | null
}

/** Clock, money and run, as every page shows them. */
export interface MarketView {
  hour: number
  balanceMicros: number
  run: RunStatus
  tape: { firstDay: number } | null
}

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
