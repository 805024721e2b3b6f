import { BRANCHES, DEVICE_TYPES, FORMATS } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { placementBranches, placementFormats, type Inventory } from '../market/index.js'
import { BRANCH_CONVERSIONS, DEVICE_CLICKS, FORMAT_CONVERSIONS, TIER_CLICKS } from './rates.js'

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

/** First of the groups of pops, which come last. */
const POP_GROUPS = FORMATS.indexOf('pop') * BRANCHES.length

/** Chance of a visit in millionths: of a click, or for a pop of its page opened. */
export function visitChance({ opened, clicks }: Benchmarks, group: number, type: number, country: number): number {
  return group >= POP_GROUPS ? opened[group] : clicks[clickAt(group, type, country)]
}

/** Averages by format, category, device and country, over placements weighted by their traffic. */
export function makeBenchmarks(inventory: Inventory): Benchmarks {
  const formats = placementFormats(inventory)
  const branches = placementBranches(inventory)
  const groups = FORMATS.length * BRANCHES.length
  const groupOf = Uint16Array.from(formats, (format, p) => format * BRANCHES.length + branches[p])
  const weights = new Float64Array(groups)
  const sums = {
    clicks: new Float64Array(groups),
    views: new Float64Array(groups),
    opened: new Float64Array(groups),
    stays: new Float64Array(groups)
  }
  const all = {
    weights: new Float64Array(FORMATS.length),
    clicks: new Float64Array(FORMATS.length),
    views: new Float64Array(FORMATS.length),
    opened: new Float64Array(FORMATS.length),
    stays: new Float64Array(FORMATS.length)
  }
  inventory.placements.forEach((placement, p) => {
    const { weight } = placement
    const seen = placement.viewable / 65536
    const rates = {
      clicks: (seen * placement.clicks) / 65536,
      views: seen * (placement.completes > 0 ? placement.completes / 65536 : 1) * (1 - placement.blocked / 65536),
      opened: 1 - placement.blocked / 65536,
      stays: placement.stays / 65536
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
      for (const country of COUNTRIES)
        clicks[clickAt(group, type, country.index)] = Math.floor(
          1e6 * Math.min(1, mean('clicks', group) * DEVICE_CLICKS[type] * TIER_CLICKS[country.tier])
        )
    }
  }
  const table = (value: (group: number) => number) => Uint32Array.from({ length: groups }, (_, group) => Math.floor(1e6 * value(group)))
  return {
    clicks,
    groupOf,
    views: table((group) => mean('views', group)),
    opened: table((group) => mean('opened', group)),
    conversions: table(
      (group) =>
        (mean('stays', group) * BRANCH_CONVERSIONS[group % BRANCHES.length] * FORMAT_CONVERSIONS[Math.floor(group / BRANCHES.length)]) / 1e5
    )
  }
}
