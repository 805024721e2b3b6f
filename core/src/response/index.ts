import { BRANCHES, DEVICE_TYPES, FORMATS, SHAPE_FORMAT } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { placementBranches, placementFormats, type Inventory, type Placement } from '../market/index.js'
import { STREAM, draw, hash, logNormalOf } from '../random/index.js'

/**
 * How people respond, by hidden true rates. What a screen shows of it are counts that were drawn here and what
 * measurers publish; never the rates themselves.
 */

/** How much better or worse an ad is clicked than the mean, drawn once for an ad. */
export function adAppeal(seed: number, ad: number): number {
  return logNormalOf(0.25, hash(seed, STREAM.ad, ad))
}

/** Clicks by device type relative to a phone; on a TV there is next to nothing to click with. */
const DEVICE_CLICKS = [1, 0.9, 0.7, 0.06, 0.2, 0.04]
/** Clicks by tier of the country. */
const TIER_CLICKS = [0, 1, 1.1, 1.25]
/** Each earlier exposure of the same person makes a click less likely, down to a fifth. */
const REPEAT_CLICKS = [1, 0.85, 0.72, 0.62, 0.53, 0.46, 0.4, 0.35, 0.3, 0.26, 0.23, 0.2]
const BOT_CLICKS = 5
/** Conversions of a hundred thousand visits by branch, before everything else. */
const BRANCH_CONVERSIONS = BRANCHES.map((_, branch) => 900 + ((branch * 617) % 1300))
const FORMAT_CONVERSIONS = [1, 0.9, 1.2, 1.3, 0.12]

/** Whether the trade's measure would call the impression viewable. */
export function isViewable(key: number, line: number, placement: Placement): boolean {
  return draw(key ^ line, STREAM.viewable) >>> 16 < placement.viewable
}

/**
 * Whether a viewable impression is clicked.
 * @param device index into `DEVICE_TYPES`; `country` into `COUNTRIES`
 * @param seen earlier exposures of this person to the line
 * @param appeal factor of the ad, see `adAppeal`
 */
export function isClicked(key: number, line: number, placement: Placement, device: number, country: number, bot: boolean, seen: number, appeal: number): boolean {
  const repeat = REPEAT_CLICKS[Math.min(seen, REPEAT_CLICKS.length - 1)]
  const rate = placement.clicks * DEVICE_CLICKS[device] * TIER_CLICKS[COUNTRIES[country].tier] * repeat * appeal * (bot ? BOT_CLICKS : 1)
  return draw(key ^ line, STREAM.click) < rate * 65536
}

/** What the trade expects of an impression, in millionths: all that a buyer without history can know. */
export interface Benchmarks {
  /** By `((format * BRANCHES + branch) * DEVICE_TYPES + type) * COUNTRIES + country`. */
  clicks: Uint32Array
  /** Views: seen for display, native and pop; past the view point for video and audio. By format x branch. */
  views: Uint32Array
  /** Visits: clicks, and for a pop its page opened, where no browser holds it back. By format x branch for pops. */
  opened: Uint32Array
  /** Conversions of a visit, by format x branch. */
  conversions: Uint32Array
  /** Format x branch of each placement. */
  groupOf: Uint16Array
}

/** Position in `Benchmarks.clicks`. */
export const clickAt = (group: number, type: number, country: number) => (group * DEVICE_TYPES.length + type) * COUNTRIES.length + country

/** Averages by format, category, device and country, over placements weighted by their traffic. */
export function makeBenchmarks(inventory: Inventory): Benchmarks {
  const formats = placementFormats(inventory)
  const branches = placementBranches(inventory)
  const groups = FORMATS.length * BRANCHES.length
  const groupOf = Uint16Array.from(formats, (format, p) => format * BRANCHES.length + branches[p])
  const weights = new Float64Array(groups)
  const sums = { clicks: new Float64Array(groups), views: new Float64Array(groups), opened: new Float64Array(groups), stays: new Float64Array(groups) }
  const all = { weights: new Float64Array(FORMATS.length), clicks: new Float64Array(FORMATS.length), views: new Float64Array(FORMATS.length), opened: new Float64Array(FORMATS.length), stays: new Float64Array(FORMATS.length) }
  inventory.placements.forEach((placement, p) => {
    const { weight } = placement
    const seen = placement.viewable / 65536
    const rates = {
      clicks: (seen * placement.clicks) / 65536, views: seen * (placement.completes > 0 ? placement.completes / 65536 : 1),
      opened: 1 - placement.blocked / 65536, stays: placement.stays / 65536
    }
    weights[groupOf[p]] += weight
    all.weights[formats[p]] += weight
    for (const name of ['clicks', 'views', 'opened', 'stays'] as const) {
      sums[name][groupOf[p]] += weight * rates[name]
      all[name][formats[p]] += weight * rates[name]
    }
  })
  // A category without a placement of the format has the format's mean.
  const mean = (name: 'clicks' | 'views' | 'opened' | 'stays', group: number) => {
    const format = Math.floor(group / BRANCHES.length)
    return weights[group] > 0 ? sums[name][group] / weights[group] : all[name][format] / all.weights[format]
  }
  const clicks = new Uint32Array(groups * DEVICE_TYPES.length * COUNTRIES.length)
  for (let group = 0; group < groups; group++) {
    for (let type = 0; type < DEVICE_TYPES.length; type++) {
      for (const country of COUNTRIES) clicks[clickAt(group, type, country.index)] = Math.floor(1e6 * Math.min(1, mean('clicks', group) * DEVICE_CLICKS[type] * TIER_CLICKS[country.tier]))
    }
  }
  const table = (value: (group: number) => number) => Uint32Array.from({ length: groups }, (_, group) => Math.floor(1e6 * value(group)))
  return {
    clicks, groupOf, views: table((group) => mean('views', group)), opened: table((group) => mean('opened', group)),
    conversions: table((group) => (mean('stays', group) * BRANCH_CONVERSIONS[group % BRANCHES.length] * FORMAT_CONVERSIONS[Math.floor(group / BRANCHES.length)]) / 1e5)
  }
}

/** Format of a shape. */
export const formatOfShape = (shape: number) => FORMATS[SHAPE_FORMAT[shape]]
