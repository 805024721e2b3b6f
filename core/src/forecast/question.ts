import type { AdRules, Aim, Cap, Limits, OwnHistory, Pacing, SpentSoFar } from '../exchange/index.js'
import { FIRST_PRICE, SOURCES, type Inventory } from '../market/index.js'
import type { DealChoice, HourPlan, LinePrice } from '../pricing/index.js'
import {
  eventRates,
  knownRate,
  type Benchmarks,
  type CountedEvent,
  type EventRates,
  type KnownRate,
  type RateKind
} from '../response/index.js'
import { SHAPE_FORMAT } from '../taxonomy/index.js'
import type { Targeting } from '../targeting/index.js'
import type { Catalogue } from '../dimensions/index.js'
import type { OwnLines } from './own-lines.js'

export { NO_LIMITS, NOTHING_SPENT, type Limits, type SpentSoFar } from '../exchange/index.js'

/** A question to the forecast: one line, saved or not. Hours are market hours (UTC). */
export interface ForecastQuestion {
  targeting: Targeting
  /** Shapes that its ads fit, by position in `SHAPES`; without ads yet, all of its format. */
  shapes: readonly number[]
  /** Its ads, where any has a bid, caps or targeting of its own; by the slots that they fit. */
  ads?: readonly AdRules[]
  price: LinePrice
  /** When it is open; null for always. */
  hours: HourPlan | null
  caps: readonly Cap[]
  /** Minutes between two exposures of a person; 0 for none. */
  gapMinutes: number
  /** Caps of the campaign, which all its lines count in; here they bind the line alone. */
  campaignCaps: readonly Cap[]
  buys: DealChoice
  /** What counts as a conversion of its advertiser; without any, a purchase by click is told. */
  counted?: readonly CountedEvent[]
  /** Cost of data, micros an impression. */
  dataMicros: number
  /** View point of its ads in the mean, in thousandths of their length; left out for their end. */
  viewPoint?: number
  pacing: Pacing
  limits: Limits
  spent: SpentSoFar
  campaignLimits: Limits
  campaignSpent: SpentSoFar
  /** The campaign's other lines in force, which share its day. */
  sharers: readonly DayMate[]
  /** Weight of its own share, of a line in force: what it was forecast to be able to spend a day. */
  weightMicros?: number | null
  /** The campaign's other live lines, which compete with this one; the answer then ends with what they win together. */
  mates?: readonly Mate[]
  zone: string
  startHour: number
  endHour: number | null
  /** The market clock. */
  nowHour: number
  /** What the line's own results say; null for a line without any. */
  history?: OwnHistory | null
  /** Number of the line among our live ones, which it competes with; 0 for one that is not saved, left out for a line alone. */
  among?: number
  /** Bids are made towards this, up to the price's maximum. */
  aim?: Aim | null
  /** What a conversion is believed to be worth, micros. */
  conversionMicros?: number
  /** Bids are the least that win what the plan needs, placement by placement. */
  follow?: boolean
  /** Exposures that people really had, newest last; minutes of market time. People are numbers of the world. */
  exposures: { person: readonly number[]; minute: readonly number[] }
}

/** What a forecast is computed in, besides the tape. */
export interface ForecastMarket extends Catalogue {
  benchmarks: Benchmarks
  /** 1 for a first-price source, by path. */
  firstPrice: Uint8Array
  /** Format x branch of the placement, by path. */
  groupByPath: Uint16Array
  /** What our live lines take of the tape; it changes with what is in force. */
  own?: OwnLines | null
}

/** Least bid at which a question's line gets each row of the tape before our other lines; null where none takes any. */
export function ownNeeds({ among }: ForecastQuestion, { own }: ForecastMarket): Uint32Array | null {
  return among !== undefined && own ? own.needs(among) : null
}

export function forecastMarket(catalogue: Catalogue, benchmarks: Benchmarks): ForecastMarket {
  const { inventory } = catalogue
  return {
    ...catalogue,
    benchmarks,
    firstPrice: firstPriceByPath(inventory),
    groupByPath: Uint16Array.from(inventory.floors, (_, path) => benchmarks.groupOf[Math.floor(path / SOURCES.length)])
  }
}

function firstPriceByPath({ floors }: Inventory): Uint8Array {
  return Uint8Array.from(floors, (_, path) => FIRST_PRICE[path % SOURCES.length])
}

/** What the trade's means expect of the impressions of a question's line. */
export function ratesOf({ shapes, counted }: ForecastQuestion): EventRates {
  return eventRates(SHAPE_FORMAT[shapes[0] ?? 0], counted)
}

/** What is known of the rate of a question's line, against what the trade's means expect. */
export function rateKnown({ history }: ForecastQuestion, kind: RateKind): KnownRate {
  return history?.rates[kind] ?? knownRate(kind, { events: 0, expected: 0 })
}

/** Raised inside a job whose cancel word was set: a newer question, or nobody waits for the answer. */
export class CancelledError extends Error {
  constructor() {
    super('The forecast was cancelled.')
  }
}
/** People between two looks at the cancel word. */
export const LOOK_EVERY = 4096

/** A line among those that share a campaign's day: what it could spend a day, and its own limit of a day. */
export interface DayMate {
  demandMicros: number
  dailyMicros: number | null
}

export interface Mate {
  line: number
  question: ForecastQuestion
}
