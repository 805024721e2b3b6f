import { MOST_RESTRICTIONS, compileTargeting, type CompiledTargeting } from '../targeting/index.js'
import { BidSteps } from './bid-steps.js'
import type { Catalogue } from '../dimensions/index.js'
import type { LinePrice } from './price.js'

/**
 * The adjustments of a price, compiled: each is a restriction of its own, so that whether it applies is read from the same tables as
 * targeting.
 */
export class PriceProgramme extends BidSteps {
  readonly parts: readonly CompiledTargeting[]

  constructor(price: LinePrice, catalogue: Catalogue) {
    super(price)
    if (this.adjustments.length > MOST_RESTRICTIONS)
      throw new RangeError(`${this.adjustments.length} adjustments; at most ${MOST_RESTRICTIONS} fit.`)
    const restrictions = this.adjustments.map(({ dimension, value }) => ({ dimension, mode: 'include' as const, values: [value] }))
    this.parts = restrictions.length > 0 ? [compileTargeting({ restrictions }, catalogue)] : []
  }

  /** The same adjustments, with their chains, under another base bid, maximum or discount. */
  withPrice(price: LinePrice, catalogue: Catalogue): PriceProgramme {
    const next = new PriceProgramme({ ...price, adjustments: [] }, catalogue)
    next.shareChains(this)
    return Object.assign(next, { parts: this.parts })
  }

  get isPlain(): boolean {
    return this.parts.length === 0
  }
}
