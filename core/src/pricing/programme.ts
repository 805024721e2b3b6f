import { compileTargeting, DIMENSIONS, MOST_RESTRICTIONS, type Catalogue, type CompiledTargeting } from '../targeting/index.js'
import { MOST_MULTIPLIER, baseUnits, impressionBid, leastBefore, multiplied, type LinePrice } from './price.js'

/** What adjusts one kind of opportunity: the same for all rows for which the same adjustments apply. */
export interface Chain {
  /** Price that takes the base bid's place, in base units; -1 for none. */
  own: number
  /** Multipliers in thousandths, in the order in which they apply. */
  multipliers: readonly number[]
}

const PLAIN: Chain = { own: -1, multipliers: [] }

/**
 * The adjustments of a price, compiled: each is a restriction of its own, so that whether it applies is read from the same
 * tables as targeting. A chain number stands for the set of those that apply.
 */
export class PriceProgramme {
  readonly parts: readonly CompiledTargeting[]
  private readonly chains: Chain[] = [PLAIN]
  private readonly byBits = new Map<number, number>()
  private readonly adjustments: NonNullable<LinePrice['adjustments']>
  readonly max: number

  constructor(
    readonly price: LinePrice,
    catalogue: Catalogue
  ) {
    this.adjustments = price.adjustments ?? []
    if (this.adjustments.length > MOST_RESTRICTIONS)
      throw new RangeError(`${this.adjustments.length} adjustments; at most ${MOST_RESTRICTIONS} fit.`)
    const restrictions = this.adjustments.map(({ dimension, value }) => ({ dimension, mode: 'include' as const, values: [value] }))
    this.parts = restrictions.length > 0 ? [compileTargeting({ restrictions }, catalogue)] : []
    this.max = price.maxMicros === null ? Infinity : baseUnits(price.model, price.maxMicros)
  }

  /** The same adjustments, with their chains, under another base bid, maximum or discount. */
  withPrice(price: LinePrice, catalogue: Catalogue): PriceProgramme {
    const next = new PriceProgramme({ ...price, adjustments: [] }, catalogue)
    return Object.assign(next, { parts: this.parts, chains: this.chains, byBits: this.byBits, adjustments: this.adjustments })
  }

  get isPlain(): boolean {
    return this.parts.length === 0
  }

  /** Number of the chain for the bits of adjustments that do not apply. */
  chainOf(failed: number): number {
    const known = this.byBits.get(failed)
    if (known !== undefined) return known
    const apply = this.adjustments.filter((_, n) => ((failed >> n) & 1) === 0)
    const place = (name: string) => (DIMENSIONS as readonly string[]).indexOf(name)
    const owns = apply.filter((adjustment) => adjustment.ownMicros !== null)
    const own = owns.reduce((best, adjustment, n) => (best < 0 || place(adjustment.dimension) > place(owns[best].dimension) ? n : best), -1)
    // Of the values of one dimension the first in the trader's list counts.
    const multipliers = DIMENSIONS.flatMap((dimension) =>
      apply.filter((adjustment) => adjustment.dimension === dimension && adjustment.perMille !== null).slice(0, 1)
    ).map((adjustment) => Math.min(MOST_MULTIPLIER, adjustment.perMille as number))
    const chain = { own: own < 0 ? -1 : baseUnits(this.price.model, owns[own].ownMicros as number), multipliers }
    this.chains.push(chain)
    this.byBits.set(failed, this.chains.length - 1)
    return this.chains.length - 1
  }

  chain(number: number): Chain {
    return this.chains[number]
  }

  /**
   * Bid that goes into the auction, micros an impression: base or own price, adjustments, hour, repeat discount, maximum.
   * @param base in base units
   * @param p millionths, 0 for a price by the thousand or by the visit
   * @param seen earlier exposures of this person in 30 days
   */
  bid(base: number, chain: number, hour: number, seen: number, p: number, isEvent: boolean): number {
    const event = this.eventBid(base, chain, hour, seen)
    return isEvent ? impressionBid(event, p) : event
  }

  /** The same in base units, before the chance of the event. */
  eventBid(base: number, chain: number, hour: number, seen: number): number {
    const { own, multipliers } = this.chains[chain]
    let micros = own < 0 ? base : own
    for (const perMille of multipliers) micros = multiplied(micros, perMille)
    if (hour !== 1000) micros = multiplied(micros, hour)
    const discount = this.price.repeatDiscount ?? 0
    if (discount > 0) for (let n = 0; n < seen && micros > 0; n++) micros = multiplied(micros, 1000 - discount)
    return Math.min(micros, this.max)
  }

  /** Least base bid whose effective bid is at least `need`, the maximum ignored; Infinity where the base bid has no say or never can. */
  leastBase(need: number, chain: number, hour: number, p: number, isEvent: boolean): number {
    const { own, multipliers } = this.chains[chain]
    if (own >= 0) return Infinity
    let micros = isEvent ? (p === 0 ? Infinity : Math.ceil((need * 1_000_000) / p)) : need
    if (hour !== 1000) micros = leastBefore(micros, hour)
    for (let n = multipliers.length - 1; n >= 0; n--) micros = leastBefore(micros, multipliers[n])
    return micros
  }
}
