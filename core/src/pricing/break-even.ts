import { DIMENSIONS } from '../targeting/index.js'
import { bidAt, multiplied, type LinePrice } from './price.js'

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

/** One step on the way from the base bid to the bid that goes into an auction; amounts as typed. */
export interface BidStepShown {
  what:
    | { kind: 'base' }
    | { kind: 'own' | 'multiplier'; adjustment: number }
    | { kind: 'hour'; perMille: number }
    | { kind: 'repeat'; nth: number }
    | { kind: 'maximum' }
  micros: number
}

/**
 * The order of application step by step: base or own price, adjustments in the order of the dimensions, hour, repeats, maximum;
 * floored to whole micros after each. Source: the design's price rules; the exchange's `PriceProgramme` does the same.
 * @param applies which adjustments apply, by their place
 * @param seen earlier exposures of the person
 */
export function explainBid(
  price: LinePrice,
  applies: readonly boolean[],
  hourPerMille: number,
  seen: number,
  at: { day: number; daysLive: number; impressions: number }
): BidStepShown[] {
  const unit = price.model === 'CPM' ? 1000 : 1
  const adjustments = price.adjustments ?? []
  const place = (n: number) => DIMENSIONS.indexOf(adjustments[n].dimension)
  const chosen = adjustments.map((_, n) => n).filter((n) => applies[n])
  const owns = chosen.filter((n) => adjustments[n].ownMicros !== null)
  const own = owns.reduce<number | null>((best, n) => (best === null || place(n) > place(best) ? n : best), null)
  let units = Math.floor(bidAt(price, at) / unit)
  const steps: BidStepShown[] = []
  const add = (what: BidStepShown['what']) => steps.push({ what, micros: units * unit })
  add({ kind: 'base' })
  if (own !== null) {
    units = Math.floor((adjustments[own].ownMicros ?? 0) / unit)
    add({ kind: 'own', adjustment: own })
  }
  for (const dimension of DIMENSIONS) {
    const n = chosen.find((one) => adjustments[one].dimension === dimension && adjustments[one].perMille !== null)
    if (n === undefined) continue
    units = multiplied(units, adjustments[n].perMille ?? 1000)
    add({ kind: 'multiplier', adjustment: n })
  }
  if (hourPerMille !== 1000) {
    units = multiplied(units, hourPerMille)
    add({ kind: 'hour', perMille: hourPerMille })
  }
  for (let nth = 1; nth <= seen && (price.repeatDiscount ?? 0) > 0; nth++) {
    units = multiplied(units, 1000 - (price.repeatDiscount ?? 0))
    add({ kind: 'repeat', nth })
  }
  if (price.maxMicros !== null && units * unit > price.maxMicros) {
    units = Math.floor(price.maxMicros / unit)
    add({ kind: 'maximum' })
  }
  return steps
}
