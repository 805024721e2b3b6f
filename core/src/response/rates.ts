import { ARRIVES, SHAPE_FORMAT } from '../taxonomy/index.js'
import type { Placement } from '../market/index.js'

/**
 * Hidden true rates of how people respond. What a screen shows of it are counts that were drawn and what measurers
 * publish; never the rates themselves.
 */

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
  return ARRIVES[SHAPE_FORMAT[shape]] ? stays / 65536 : 1 - (1 - stays / 65536) * DEVICE_MISSES[device]
}
/** What happens on the ad itself, of those who could see or hear it. */
export const OVERLAY_CLICKS = 0.004
export const UNMUTES = 0.05
export const SHARES = 0.0006
/** Each further page is looked at by this share of those who stayed for the one before. */
export const NEXT_PAGE = 0.55
export const MOST_PAGES = 15
/** Pages of a visitor who stays, in the mean. */
export const MEAN_PAGES = (1 - NEXT_PAGE ** MOST_PAGES) / (1 - NEXT_PAGE)
