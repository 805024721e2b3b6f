import type { World } from '../market/index.js'
import { boundsOf, type WorldBound } from './bounds.js'
import { pricesByCategory, pricesByKind, pricesByQuality, pricesInside } from './bounds-prices.js'
import { responses } from './bounds-response.js'
import { sales } from './bounds-sales.js'
import { activityBounds, formatShares, hoursOfDay, phoneSystems, robots } from './bounds-supply.js'
import type { Tape } from './layout.js'

export type { WorldBound }

/** All that must hold of a market that a practitioner believes, as its tape shows it; `docs/market.md` has the reasons. */
export function worldBounds(world: World, tape: Tape): WorldBound[] {
  const topics = [
    formatShares(),
    pricesByKind(),
    pricesByCategory(),
    pricesByQuality(world),
    pricesInside(world),
    phoneSystems(),
    hoursOfDay(tape),
    robots(),
    responses(),
    sales(world, tape)
  ]
  return [...boundsOf(world, tape, topics), ...activityBounds(tape)]
}
