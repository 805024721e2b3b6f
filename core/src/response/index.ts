import type { Placement } from '../market/index.js'
import { STREAM, draw, hash, logNormalOf } from '../random/index.js'

/**
 * How people respond, by hidden true rates. What a screen shows of it are counts that were drawn here and what
 * measurers publish; never the rates themselves.
 */

/** How much better or worse an ad is clicked than the mean, drawn once for an ad. */
export function adAppeal(seed: number, ad: number): number {
  return logNormalOf(0.25, hash(seed, STREAM.ad, ad))
}

/** Clicks by device type relative to a phone; a tablet's and a desktop's owners click less often. */
const DEVICE_CLICKS = [1, 0.9, 0.7]
/** Each earlier exposure of the same person makes a click less likely, down to a fifth. */
const REPEAT_CLICKS = [1, 0.85, 0.72, 0.62, 0.53, 0.46, 0.4, 0.35, 0.3, 0.26, 0.23, 0.2]
const BOT_CLICKS = 5

/** Whether the trade's measure would call the impression viewable. */
export function isViewable(key: number, line: number, placement: Placement): boolean {
  return draw(key ^ line, STREAM.viewable) >>> 16 < placement.viewable
}

/**
 * Whether a viewable impression is clicked.
 * @param seen earlier exposures of this person to the line
 * @param appeal factor of the ad, see `adAppeal`
 */
export function isClicked(key: number, line: number, placement: Placement, device: number, bot: boolean, seen: number, appeal: number): boolean {
  const repeat = REPEAT_CLICKS[Math.min(seen, REPEAT_CLICKS.length - 1)]
  const rate = placement.clicks * DEVICE_CLICKS[device] * repeat * appeal * (bot ? BOT_CLICKS : 1)
  return draw(key ^ line, STREAM.click) < rate * 65536
}
