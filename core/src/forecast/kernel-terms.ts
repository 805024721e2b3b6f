import type { Cap } from '../exchange/index.js'
import type { ForecastQuestion } from './question.js'

/** What the compiled loops are told of a plain line. */
export interface KernelTerms {
  /** Micros an impression. */
  bid: number
  /** Cost of data, whole micros an impression. */
  data: number
  caps: readonly Cap[]
  gapMinutes: number
}

export function kernelTerms({ dataMicros, caps, campaignCaps, gapMinutes }: ForecastQuestion, bid: number): KernelTerms {
  return { bid, data: dataMicros, caps: [...caps, ...campaignCaps], gapMinutes }
}
