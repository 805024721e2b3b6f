import { ARRIVES, SHAPE_FORMAT } from '../taxonomy/index.js'
import type { Placement } from './placement.js'
import { KINDS, PRICE_KINDS, type Evened } from './price-kinds.js'

const MOST_VIEWABLE = 0.985
const WHOLE = 65536

/**
 * Responses by which no kind is better only because its few large placements happen to be: where they are seen and clicked in the mean
 * is the kind's, and what its visitors are worth is told by the rates of formats alone.
 */
export function evenResponses(placements: Placement[], { kinds, rich, won }: Evened): void {
  PRICE_KINDS.forEach((name, kind) => {
    const own = placements.filter(({ index }) => kinds[index] === kind)
    const mean = (by: Float64Array, value: (placement: Placement) => number, weight: (placement: Placement) => number = () => 1) => {
      let [sum, all] = [0, 0]
      for (const one of own) {
        const counts = by[one.index] * weight(one)
        sum += counts * value(one)
        all += counts
      }
      return all > 0 ? sum / all : 0
    }
    const { viewable, clicks, stays } = KINDS[name]
    const seen = viewable / mean(rich, (one) => one.viewable / WHOLE)
    for (const one of own) one.viewable = Math.round(Math.min(MOST_VIEWABLE * WHOLE, one.viewable * seen))
    const clicked = mean(
      rich,
      (one) => one.clicks / WHOLE,
      (one) => one.viewable
    )
    if (clicked > 0) for (const one of own) one.clicks = Math.round((one.clicks * clicks) / clicked)
    const isPop = own.length > 0 && ARRIVES[SHAPE_FORMAT[own[0].shape]]
    if (isPop) {
      const stayed = mean(rich, (one) => one.stays / WHOLE)
      if (stayed > 0) for (const one of own) one.stays = Math.round((one.stays * stays) / stayed)
    }
    // Half by what a stay brings anywhere, half by what it costs at the bid that wins half: neither is left to chance.
    const visits = (one: Placement) => (isPop ? 1 : (one.viewable / WHOLE) * (one.clicks / WHOLE))
    const perStay = mean(
      rich,
      (one) => one.sells,
      (one) => visits(one) * one.stays
    )
    const perWin = mean(won, (one) => (visits(one) * one.stays * one.sells) / WHOLE) / ((isPop ? 1 : viewable * clicks) * stays)
    const even = Math.sqrt(perStay * perWin)
    if (even > 0) for (const one of own) one.sells = Math.round((1024 * one.sells) / even) / 1024
  })
}
