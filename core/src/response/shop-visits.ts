import { AGES } from '../taxonomy/index.js'
import { STREAM, exactExp, hash, normalOf } from '../random/index.js'

/**
 * The stand-in for those who measure visits to places: some people share where they are, and it says on which days they were in an
 * advertiser's shop. Rates and lift are hidden; a buyer sees visits.
 */

/** Days after an exposure in which it may still bring somebody to the shop. */
export const SHOP_DAYS = 7
const UNIT = 4294967296
/** One in five people shares where they are. */
const PANEL = UNIT / 5
/** Of the people of a shop's city, per day; older people go to shops more. */
const VISITS_A_DAY = 0.006
const BY_AGE = [0.5, 0.7, 0.9, 1.1, 1.2, 1.2, 1, 0.9]
if (BY_AGE.length !== AGES.length) throw new Error('Every age needs its share of shop visits.')

export const sharesPlace = (seed: number, person: number) => hash(seed, STREAM.panel, person) < PANEL

/** How many times as likely a day's visit is after an exposure: hidden, drawn once for an advertiser, 1.35 in the median. */
export const shopLift = (seed: number, advertiser: number) => 1 + 0.35 * exactExp(0.4 * normalOf(hash(seed, STREAM.lift, advertiser)))

/**
 * Whether a person of a shop's city was there on a market day. The same draw serves either case: an exposure only adds visits.
 * @param lift 1 where there was no exposure
 */
export function visitsShop(seed: number, advertiser: number, person: number, day: number, age: number, lift: number): boolean {
  return hash(seed, STREAM.shop, advertiser, person, day) < VISITS_A_DAY * BY_AGE[age] * lift * UNIT
}
