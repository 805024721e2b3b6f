import { BRANCHES, FORMATS, SHAPE_FORMAT } from '../taxonomy/index.js'
import type { Placement } from '../market/index.js'
import { STREAM, hash, logNormalOf } from '../random/index.js'

const POP = FORMATS.indexOf('pop')

/**
 * Hidden true rates of how people respond. What a screen shows of it are counts that were drawn and what measurers
 * publish; never the rates themselves.
 */

/** How much better or worse an ad is clicked than the mean, drawn once for an ad. */
export function adAppeal(seed: number, ad: number): number {
  return logNormalOf(0.25, hash(seed, STREAM.ad, ad))
}

/** How well an ad's visitors convert, drawn apart from how it is clicked: the two rank ads differently. */
export function adPull(seed: number, ad: number): number {
  return logNormalOf(0.45, hash(seed, STREAM.pull, ad))
}

/** How well an ad is watched to its end, as a power of the placement's own share: 1 in the mean. */
export function adHold(seed: number, ad: number): number {
  return logNormalOf(0.12, hash(seed, STREAM.hold, ad))
}

/** Clicks by device type relative to a phone; on a television there is nothing to click with. */
export const DEVICE_CLICKS = [1, 0.9, 0.7, 0, 0.2, 0]
/** How often a click is a mistake, by device type, against the placement's own share: thumbs slip more than pointers. */
const DEVICE_MISSES = [1.15, 1, 0.42, 0.5, 0.5, 0.5]
/** Clicks by tier of the country. */
export const TIER_CLICKS = [0, 1, 1.1, 1.25]
/** Each earlier exposure of the same person makes a click less likely, down to a fifth. */
export const REPEAT_CLICKS = [1, 0.85, 0.72, 0.62, 0.53, 0.46, 0.4, 0.35, 0.3, 0.26, 0.23, 0.2]
export const BOT_CLICKS = 5

/** Share of a placement's visits that stay two seconds: of clicks those that were meant, of pops those that catch an eye. */
export function stayRate({ stays, shape }: Pick<Placement, 'stays' | 'shape'>, device: number): number {
  return SHAPE_FORMAT[shape] === POP ? stays / 65536 : 1 - (1 - stays / 65536) * DEVICE_MISSES[device]
}
/** Conversions of a hundred thousand visitors who stay, by branch, before everything else. */
export const BRANCH_CONVERSIONS = BRANCHES.map((_, branch) => 900 + ((branch * 617) % 1300))
export const FORMAT_CONVERSIONS = [1, 0.9, 1.2, 1.3, 0.12]
/** Conversions of those who stay by device type, tier of the country, and local hour: people buy where they can type and pay. */
export const DEVICE_CONVERSIONS = [0.8, 1, 1.45, 0.5, 0.5, 0.4]
export const TIER_CONVERSIONS = [0, 1.25, 0.95, 0.7]
export const HOUR_CONVERSIONS = [
  0.7, 0.6, 0.5, 0.5, 0.5, 0.6, 0.75, 0.85, 0.95, 1, 1.05, 1.05, 1.1, 1.05, 1, 1, 1, 1.05, 1.1, 1.2, 1.3, 1.3, 1.15, 0.9
]
/** Conversions that an impression merely seen brings, of those that a stay would. */
export const VIEWED_ONLY = 0.0012
/** What happens on the ad itself, of those who could see or hear it. */
export const OVERLAY_CLICKS = 0.004
export const UNMUTES = 0.05
export const SHARES = 0.0006
/** Each further page is looked at by this share of those who stayed for the one before. */
export const NEXT_PAGE = 0.55
export const MOST_PAGES = 15

/** How often an event of a tracker happens to those who convert at all, and spread of its value: dearer ones are rarer. */
export function trackerRate(seed: number, tracker: number, valueMicros: number | null): number {
  const usual = 6_000_000
  return Math.sqrt(usual / Math.max(500_000, valueMicros ?? usual)) * logNormalOf(0.2, hash(seed, STREAM.tracker, tracker))
}
