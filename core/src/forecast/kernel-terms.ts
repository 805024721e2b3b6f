import type { Cap } from '../exchange/index.js'
import type { EventRates } from '../response/index.js'
import { ratesOf, type ForecastQuestion } from './question.js'

/** What the compiled loops are told of a plain line. */
export interface KernelTerms {
  /** Micros an impression. */
  bid: number
  /** Cost of data, whole micros an impression. */
  data: number
  caps: readonly Cap[]
  gapMinutes: number
  /** What is expected of a win. */
  rates: EventRates
}

export function kernelTerms(question: ForecastQuestion, bid: number): KernelTerms {
  const { dataMicros, caps, campaignCaps, gapMinutes } = question
  return { bid, data: dataMicros, caps: [...caps, ...campaignCaps], gapMinutes, rates: ratesOf(question) }
}
