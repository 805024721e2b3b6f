import { lanesOf, type Seen, type TellingMarket } from '../dimensions/index.js'
import { pathPlacement, postalOf } from '../market/index.js'
import { POSTAL_ZONE } from '../places/index.js'
import { compileTargeting, matches, type Targeting } from '../targeting/index.js'
import { FORMATS, SHAPE_FORMAT, type Format } from '../taxonomy/index.js'
import { offsetMinutes, weekdayOf } from '../time/index.js'
import type { HourPlan } from '../pricing/index.js'

/** What traffic a sentence is of. */
export interface Within {
  formats: readonly Format[]
  targeting: Targeting
  hours: HourPlan | null
}

/**
 * Tells of a win whether it was of what a sentence asks for; hours are the viewer's, or those of the market's zone where the plan says so.
 * How long before somebody saw a pop is not in the log: a restriction by that holds for every win.
 * @returns for what is read of the log, and the minute of its hour
 */
export function withinSentence({ formats, targeting, hours }: Within, market: TellingMarket): (seen: Seen, minute: number) => boolean {
  const compiled = compileTargeting(targeting, market)
  const { placements } = market.inventory
  const fits = formats.length === 0 ? null : placements.map(({ shape }) => formats.includes(FORMATS[SHAPE_FORMAT[shape]]))
  return (seen, minute) => {
    if (fits && !fits[pathPlacement(seen.path)]) return false
    if (hours) {
      const zone = hours.clock === 'viewer' ? POSTAL_ZONE[postalOf(seen.word0)] : market.zone
      const local = seen.hour * 60 + minute + offsetMinutes(zone, seen.hour)
      const day = Math.floor(local / 1440)
      if (hours.perMille[weekdayOf(day) * 24 + Math.floor((local - day * 1440) / 60)] === 0) return false
    }
    return matches(compiled, lanesOf(seen))
  }
}
