import { BRANCHES, SEGMENTS, type OfferKind } from '../taxonomy/index.js'
import { PROFILES, inSegment, type Profiles } from '../market/index.js'

/** What sells: hidden true rates of events that follow an impression, by what the event is. */

/** Of a hundred people who stay after a display ad, how many do it; the trade publishes the same. */
export const KIND_CONVERSIONS: Readonly<Record<OfferKind, number>> = { purchase: 0.0135, booking: 0.036, trial: 0.088 }
/** How many times as often as what it leads to something is asked for: a catalogue against a purchase. */
export const REQUESTS = 4.2

/** Of those who stay by device type, and tier of the country: people buy where they can type and pay. */
export const DEVICE_CONVERSIONS = [0.8, 1, 1.45, 0.5, 0.5, 0.4]
export const TIER_CONVERSIONS = [0, 1.25, 0.55, 0.16]
/** By local hour: people buy before noon and after supper, arrange to come in the morning, and try things on their way and in bed. */
export const HOUR_CONVERSIONS: Readonly<Record<OfferKind, readonly number[]>> = {
  purchase: [
    0.6, 0.5, 0.45, 0.45, 0.5, 0.6, 0.75, 0.85, 1, 1.2, 1.35, 1.4, 1.35, 1.2, 1.05, 1, 0.95, 0.9, 0.95, 1.05, 1.06, 0.88, 0.72, 0.65
  ],
  booking: [0.4, 0.4, 0.4, 0.4, 0.5, 0.6, 0.8, 1.05, 1.35, 1.5, 1.5, 1.4, 1.4, 1.3, 1.15, 1.05, 1, 1, 0.95, 0.9, 0.8, 0.7, 0.6, 0.5],
  trial: [1.1, 1, 0.85, 0.75, 0.7, 0.8, 1.05, 1.25, 1.15, 0.85, 0.75, 0.75, 0.85, 0.85, 0.8, 0.8, 0.9, 1.1, 1.15, 1.05, 1.1, 1.2, 1.3, 1.25]
}

/** Beside a page on the subject of what is sold. */
export const ON_SUBJECT = 1.5
/** People who live near a shop, and those who do not, where the advertiser has shops: for what is arranged there, by display or not. */
export const NEAR_SHOP = { display: 2.4, other: 1.3 }
export const FAR_FROM_SHOP = 0.85
/** After a film of the advertiser that was watched past its view point in the days before. */
export const PRIMED = 1.5
export const PRIMED_MINUTES = 7 * 1440

/** How much likelier people are who are about to buy something of the subject, and those who only care for it, before all are evened. */
const INTENT = 7
const INTEREST = 1.5
const NO_SUBJECT = new Float64Array(PROFILES).fill(1)

/** How likely people of each profile are to take what an offer of a subject offers, 1 in the mean. @param subject place in `BRANCHES` */
export function crowdOf(profiles: Profiles, subject: number | null): Float64Array {
  if (subject === null) return NO_SUBJECT
  const own = SEGMENTS.filter((segment) => segment.branch === BRANCHES[subject].index)
  const raw = Float64Array.from({ length: PROFILES }, (_, profile) => {
    let factor = 1
    for (const { index, kind } of own)
      if (inSegment(profiles, profile, index)) factor = Math.max(factor, kind === 'purchase intent' ? INTENT : INTEREST)
    return factor
  })
  const mean = raw.reduce((sum, factor) => sum + factor, 0) / PROFILES
  return raw.map((factor) => factor / mean)
}

/** Share of people who do it on a day by themselves: some twenty-three purchases a day among two million. */
export const OWN_DAILY: Readonly<Record<OfferKind, number>> = { purchase: 0.0000145, booking: 0.00004, trial: 0.0001 }
