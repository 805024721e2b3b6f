import type { Cap, Limits, Pacing, SpentSoFar } from '../exchange/index.js'
import { FIRST_PRICE, SOURCES, type Inventory } from '../market/index.js'
import type { DealChoice, HourPlan, LinePrice } from '../pricing/index.js'
import type { Benchmarks, CountedEvent, EventRates } from '../response/index.js'
import { eventRates } from '../response/index.js'
import { SHAPE_FORMAT } from '../taxonomy/index.js'
import type { Catalogue, Targeting } from '../targeting/index.js'

export { NO_LIMITS, NOTHING_SPENT, type Limits, type SpentSoFar } from '../exchange/index.js'

/** A question to the forecast: one line, saved or not. Hours are market hours (UTC). */
export interface ForecastQuestion {
  targeting: Targeting
  /** Shapes that its ads fit, by position in `SHAPES`; without ads yet, all of its format. */
  shapes: readonly number[]
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
  pacing: Pacing
  limits: Limits
  spent: SpentSoFar
  campaignLimits: Limits
  campaignSpent: SpentSoFar
  /** The campaign's other lines in force, which share its day. */
  sharers: readonly DayMate[]
  /** The campaign's other live lines, which compete with this one; the answer then ends with what they win together. */
  mates?: readonly Mate[]
  zone: string
  startHour: number
  endHour: number | null
  /** The market clock. */
  nowHour: number
  /**
   * Relative sd of the line's own chance of the event it pays for, about the trade's average: bids by the event follow what is
   * learned of it. 0 or left out where that chance is known.
   */
  rateSd?: number
  /** Exposures that people really had, newest last; minutes of market time. People are numbers of the world. */
  exposures: { person: readonly number[]; minute: readonly number[] }
}

/** `rateSd` of a line without results: ads, slots and audiences differ by about a fifth from the average of their kind. */
export const RATE_SD = 0.2

/** What a forecast is computed in, besides the tape. */
export interface ForecastMarket extends Catalogue {
  benchmarks: Benchmarks
  /** 1 for a first-price source, by path. */
  firstPrice: Uint8Array
  /** Format x branch of the placement, by path. */
  groupByPath: Uint16Array
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
