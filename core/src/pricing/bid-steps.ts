import { DIMENSIONS } from '../dimensions/index.js'
import { MOST_MULTIPLIER, baseUnits, bidAt, impressionBid, leastBefore, multiplied, type LinePrice } from './price.js'

/** What adjusts one kind of opportunity: the same for all rows for which the same adjustments apply. */
export interface Chain {
  /** Price that takes the base bid's place, in base units; -1 for none. */
  own: number
  /** Multipliers in thousandths, in the order in which they apply. */
  multipliers: readonly number[]
  /** Adjustments that the own price and the multipliers are of, by their place in the price. */
  ownOf: number
  multipliersOf: readonly number[]
}

const PLAIN: Chain = { own: -1, multipliers: [], ownOf: -1, multipliersOf: [] }

/** One step on the way from where a bid begins to the most that an impression or event may cost. */
export type PriceStep =
  | { kind: 'own' | 'multiplier'; adjustment: number }
  | { kind: 'hour'; perMille: number }
  | { kind: 'repeat'; nth: number }
  | { kind: 'maximum' }

/** Told of each step that is taken, with the amount after it in base units. */
export type NoteStep = (step: PriceStep, micros: number) => void

/**
 * The steps of a price, in their order: own price, adjustments in the order of the dimensions, hour, repeats, maximum; floored to
 * whole base units after each (docs/engine.md, 3). This one list prices, explains, and is undone to find the least base bid.
 */
export class BidSteps {
  /** In base units. */
  readonly max: number
  private readonly repeatDiscount: number
  protected readonly adjustments: NonNullable<LinePrice['adjustments']>
  private readonly chains: Chain[] = [PLAIN]
  private readonly byBits = new Map<number, number>()
  private readonly byOwn = new Map<string, number>()

  constructor(readonly price: LinePrice) {
    this.adjustments = price.adjustments ?? []
    this.repeatDiscount = price.repeatDiscount ?? 0
    this.max = price.maxMicros === null ? Infinity : baseUnits(price.model, price.maxMicros)
  }

  /** Number of the chain for the bits of adjustments that do not apply; it stands for the set of those that do. */
  chainOf(failed: number): number {
    const known = this.byBits.get(failed)
    if (known !== undefined) return known
    this.chains.push(this.made(failed))
    this.byBits.set(failed, this.chains.length - 1)
    return this.chains.length - 1
  }

  private made(failed: number): Chain {
    const { adjustments } = this
    const apply = adjustments.map((_, n) => n).filter((n) => ((failed >> n) & 1) === 0)
    const place = (n: number) => DIMENSIONS.indexOf(adjustments[n].dimension)
    // Of prices of their own that of the last dimension counts; of the multipliers of one dimension the first in the trader's list.
    const ownOf = apply
      .filter((n) => adjustments[n].ownMicros !== null)
      .reduce((best, n) => (best < 0 || place(n) > place(best) ? n : best), -1)
    const multipliersOf = DIMENSIONS.flatMap((dimension) =>
      apply.filter((n) => adjustments[n].dimension === dimension && adjustments[n].perMille !== null).slice(0, 1)
    )
    return {
      own: ownOf < 0 ? -1 : baseUnits(this.price.model, adjustments[ownOf].ownMicros as number),
      multipliers: multipliersOf.map((n) => Math.min(MOST_MULTIPLIER, adjustments[n].perMille as number)),
      ownOf,
      multipliersOf
    }
  }

  /** The same chain from an own bid in base units; an adjustment's own price comes before it. */
  withOwn(chain: number, base: number): number {
    if (this.chains[chain].own >= 0) return chain
    const known = this.byOwn.get(`${chain} ${base}`)
    if (known !== undefined) return known
    this.chains.push({ ...this.chains[chain], own: base })
    this.byOwn.set(`${chain} ${base}`, this.chains.length - 1)
    return this.chains.length - 1
  }

  chain(number: number): Chain {
    return this.chains[number]
  }

  /**
   * Bid that goes into the auction, micros an impression.
   * @param base where the bid begins, in base units
   * @param hourPerMille multiplier of the hour
   * @param seen earlier exposures of this person in 30 days
   * @param chance of the event that is paid for, in millionths; not read for a price by the thousand or by the visit
   */
  bid(base: number, chain: number, hourPerMille: number, seen: number, chance: number, isEvent: boolean): number {
    const event = this.eventBid(base, chain, hourPerMille, seen)
    return isEvent ? impressionBid(event, chance) : event
  }

  /** The most that what is paid for may cost, in base units: all steps, before the chance of an event. */
  eventBid(base: number, chain: number, hourPerMille: number, seen: number, note: NoteStep | null = null): number {
    const { own, ownOf, multipliers, multipliersOf } = this.chains[chain]
    let micros = own < 0 ? base : own
    if (note && own >= 0) note({ kind: 'own', adjustment: ownOf }, micros)
    for (let n = 0; n < multipliers.length; n++) {
      micros = multiplied(micros, multipliers[n])
      if (note) note({ kind: 'multiplier', adjustment: multipliersOf[n] }, micros)
    }
    if (hourPerMille !== 1000) {
      micros = multiplied(micros, hourPerMille)
      if (note) note({ kind: 'hour', perMille: hourPerMille }, micros)
    }
    if (this.repeatDiscount > 0) {
      // A price that is down to nothing stays there.
      for (let nth = 1; nth <= seen && (micros > 0 || note); nth++) {
        micros = multiplied(micros, 1000 - this.repeatDiscount)
        if (note) note({ kind: 'repeat', nth }, micros)
      }
    }
    if (micros <= this.max) return micros
    if (note) note({ kind: 'maximum' }, this.max)
    return this.max
  }

  /** Least base bid whose effective bid is at least `need`, the maximum ignored; Infinity where the base bid has no say or never can. */
  leastBase(need: number, chain: number, hourPerMille: number, chance: number, isEvent: boolean): number {
    const { own, multipliers } = this.chains[chain]
    if (own >= 0) return Infinity
    let micros = isEvent ? (chance === 0 ? Infinity : Math.ceil((need * 1_000_000) / chance)) : need
    if (hourPerMille !== 1000) micros = leastBefore(micros, hourPerMille)
    for (let n = multipliers.length - 1; n >= 0; n--) micros = leastBefore(micros, multipliers[n])
    return micros
  }

  /** Takes over the chains of another price with the same adjustments. */
  protected shareChains(other: BidSteps): void {
    Object.assign(this, { chains: other.chains, byBits: other.byBits, byOwn: other.byOwn, adjustments: other.adjustments })
  }
}

/** A step as it is shown; amounts as typed, micros a thousand for CPM, an event for the others. */
export interface BidStepShown {
  what: { kind: 'base' } | PriceStep
  micros: number
}

/**
 * How a bid is built up, step by step.
 * @param applies which adjustments apply, by their place
 * @param seen earlier exposures of the person
 */
export function explainBid(
  price: LinePrice,
  applies: readonly boolean[],
  hourPerMille: number,
  seen: number,
  when: { day: number; daysLive: number; impressions: number }
): BidStepShown[] {
  const unit = price.model === 'CPM' ? 1000 : 1
  const steps = new BidSteps(price)
  const failed = applies.reduce((bits, does, n) => (does ? bits : bits | (1 << n)), 0)
  const base = baseUnits(price.model, bidAt(price, when))
  const shown: BidStepShown[] = [{ what: { kind: 'base' }, micros: base * unit }]
  steps.eventBid(base, steps.chainOf(failed), hourPerMille, seen, (what, micros) => shown.push({ what, micros: micros * unit }))
  return shown
}
