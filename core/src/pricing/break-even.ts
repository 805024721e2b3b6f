import type { LinePrice } from './price.js'

/** What is assumed of the way from an impression to a payout; rates from 0 to 1. */
export interface Assumed {
  clickRate: number
  /** Of impressions that reach the view point. */
  viewRate: number
  /** Of clicks. */
  conversionRate: number
  payoutMicros: number
}

/** The most that each way of paying may cost without losing money; micros a thousand for CPM, an event for the others. */
export interface BreakEven {
  cpmMicros: number
  clickMicros: number
  /** Null without any view. */
  viewMicros: number | null
}

/** Expected value of an impression is click rate x conversion rate x payout; each other price is that, over how often its event comes. */
export function breakEven({ clickRate, viewRate, conversionRate, payoutMicros }: Assumed): BreakEven {
  const impression = clickRate * conversionRate * payoutMicros
  return {
    cpmMicros: Math.floor(impression * 1000),
    clickMicros: Math.floor(conversionRate * payoutMicros),
    viewMicros: viewRate > 0 ? Math.floor(impression / viewRate) : null
  }
}

/**
 * The same price in each way of paying, at the rates assumed: `CPM = price of an event x rate x 1,000`. Null where the
 * event never comes.
 */
export function inEachWay(
  model: LinePrice['model'],
  micros: number,
  { clickRate, viewRate }: Pick<Assumed, 'clickRate' | 'viewRate'>
): { cpmMicros: number; clickMicros: number | null; viewMicros: number | null } {
  const impression = model === 'CPM' ? micros / 1000 : model === 'CPC' ? micros * clickRate : model === 'view' ? micros * viewRate : micros
  const over = (rate: number) => (rate > 0 ? Math.round(impression / rate) : null)
  return { cpmMicros: Math.round(impression * 1000), clickMicros: over(clickRate), viewMicros: over(viewRate) }
}
