import type { LineFacts } from '@tin-harbor/core/exchange'
import type { StoredFacts } from './messages.js'

/** A line's results as the exchange reads them. */
export function factsFrom({ total, byAd, byPlacement, byDevice, byHour, byDay }: StoredFacts): LineFacts {
  return {
    total,
    byAd: new Map(byAd),
    byPlacement: new Map(byPlacement),
    byDevice: new Map(byDevice),
    byHour: new Map(byHour),
    byDay: new Map(byDay)
  }
}
