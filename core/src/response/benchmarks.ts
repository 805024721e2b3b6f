import { BRANCHES, DEVICE_TYPES, FORMATS, offerKind, type EventKind } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { placementBranches, placementFormats, type Inventory } from '../market/index.js'
import {
  DEVICE_CONVERSIONS,
  FORMAT_CONVERSIONS,
  KIND_CONVERSIONS,
  LIFTS,
  OWN_DAILY,
  REQUESTS,
  TIER_CONVERSIONS
} from './conversion-rates.js'
import { DEVICE_CLICKS, TIER_CLICKS, stayRate } from './rates.js'

/** What the trade expects of an impression, in millionths: all that a buyer without history can know. */
export interface Benchmarks {
  /** By `((format * BRANCHES + branch) * DEVICE_TYPES + type) * COUNTRIES + country`. */
  clicks: Uint32Array
  /** Views: seen for display, native and pop; past the view point for video and audio. By format x branch. */
  views: Uint32Array
  /** Visits: clicks, and for a pop its page opened, where no browser holds it back. By format x branch for pops. */
  opened: Uint32Array
  /** Visitors who stay, by (format x branch) x device type. */
  stays: Uint32Array
  /** Share that can be seen or heard, 0 to 1, by format. */
  viewable: Float64Array
  /** Format x branch of each placement. */
  groupOf: Uint16Array
}

/** Position in `Benchmarks.clicks`. */
export const clickAt = (group: number, type: number, country: number) => (group * DEVICE_TYPES.length + type) * COUNTRIES.length + country

const POP = FORMATS.indexOf('pop')
/** First of the groups of pops, which come last. */
const POP_GROUPS = POP * BRANCHES.length

/** Chance of a visit in millionths: of a click, or for a pop of its page opened. */
export function visitChance({ opened, clicks }: Benchmarks, group: number, type: number, country: number): number {
  return group >= POP_GROUPS ? opened[group] : clicks[clickAt(group, type, country)]
}

/** Chance of a visitor who stays, in millionths of an impression. */
export function stayChance(benchmarks: Benchmarks, visits: number, group: number, type: number): number {
  return Math.floor((visits * benchmarks.stays[group * DEVICE_TYPES.length + type]) / 1e6)
}

/**
 * The same in visitors who are likely to convert as the trade's mean is: those who stay count by how well their device and country
 * convert. Whole millionths.
 */
export function convertingChance(benchmarks: Benchmarks, visits: number, group: number, type: number, country: number): number {
  return Math.floor(
    ((visits * benchmarks.stays[group * DEVICE_TYPES.length + type]) / 1e6) *
      DEVICE_CONVERSIONS[type] *
      TIER_CONVERSIONS[COUNTRIES[country].tier]
  )
}

/** Chance that an impression is seen or heard by somebody who may come by themselves, as likely as the mean does by country. Millionths. */
export function seenChance({ viewable }: Benchmarks, group: number, country: number): number {
  return Math.floor(1e6 * viewable[Math.floor(group / BRANCHES.length)] * TIER_CONVERSIONS[COUNTRIES[country].tier])
}

/** What is counted as a conversion, as far as how often it comes depends on it. */
export interface CountedEvent {
  kind: EventKind
  clickHours: number
  /** Null where views do not count. */
  viewHours: number | null
}

/** Events that are expected: so many for each converting visitor (see `convertingChance`), and each impression seen (`seenChance`). */
export interface EventRates {
  perConverting: number
  perSeen: number
}

/** Share of a window's days in which somebody's own conversion falls to this impression and not to one that came after it. */
const CREDITED = 0.5
/** Days that a window has effect: nothing older is remembered. */
const MOST_DAYS = 30

/**
 * What the trade's means expect of a format's impressions, for all that counts: what comes of those who stay, and what an advertiser is
 * credited with since people also come by themselves. Without anything that counts it is one purchase by click.
 */
export function eventRates(format: number, counted: readonly CountedEvent[] | undefined): EventRates {
  const events: readonly CountedEvent[] =
    counted === undefined || counted.length === 0 ? [{ kind: 'purchase', clickHours: 0, viewHours: null }] : counted
  const own = offerKind(events.map(({ kind }) => kind))
  const rates = { perConverting: 0, perSeen: 0 }
  const days = (hours: number) => Math.min(MOST_DAYS, hours / 24)
  for (const { kind, clickHours, viewHours } of events) {
    const [offer, times] = kind === 'request' ? [own, REQUESTS] : [kind, 1]
    const daily = times * OWN_DAILY[offer]
    rates.perConverting +=
      times * KIND_CONVERSIONS[offer] * FORMAT_CONVERSIONS[offer][FORMATS[format]] + daily * CREDITED * days(clickHours)
    if (viewHours !== null) rates.perSeen += daily * (CREDITED * days(viewHours) + LIFTS[FORMATS[format]] * Math.min(1, viewHours / 24))
  }
  return rates
}

/** Conversions expected of visitors who convert as the mean does, and of impressions seen. */
export const conversionsOf = ({ perConverting, perSeen }: EventRates, converting: number, seen: number) =>
  converting * perConverting + seen * perSeen

/** Chance of a conversion of an impression, in millionths. */
export function conversionChance(
  benchmarks: Benchmarks,
  rates: EventRates,
  visits: number,
  group: number,
  type: number,
  country: number
): number {
  return conversionsOf(rates, convertingChance(benchmarks, visits, group, type, country), seenChance(benchmarks, group, country))
}

/** Averages by format, category, device and country, over placements weighted by their traffic. */
export function makeBenchmarks(inventory: Inventory): Benchmarks {
  const formats = placementFormats(inventory)
  const branches = placementBranches(inventory)
  const groups = FORMATS.length * BRANCHES.length
  const types = DEVICE_TYPES.length
  const groupOf = Uint16Array.from(formats, (format, p) => format * BRANCHES.length + branches[p])
  const weights = new Float64Array(groups)
  const sums = {
    clicks: new Float64Array(groups),
    views: new Float64Array(groups),
    opened: new Float64Array(groups)
  }
  const all = {
    weights: new Float64Array(FORMATS.length),
    clicks: new Float64Array(FORMATS.length),
    views: new Float64Array(FORMATS.length),
    opened: new Float64Array(FORMATS.length)
  }
  // By device, the placements' own and their format's.
  const stays = { group: new Float64Array(groups * types), all: new Float64Array(FORMATS.length * types) }
  const visitors = { group: new Float64Array(groups), all: new Float64Array(FORMATS.length) }
  const viewable = new Float64Array(FORMATS.length)
  inventory.placements.forEach((placement, p) => {
    const { weight } = placement
    const seen = placement.viewable / 65536
    const rates = {
      clicks: (seen * placement.clicks) / 65536,
      views: seen * (placement.completes > 0 ? placement.completes / 65536 : 1) * (1 - placement.blocked / 65536),
      opened: 1 - placement.blocked / 65536
    }
    weights[groupOf[p]] += weight
    all.weights[formats[p]] += weight
    for (const name of ['clicks', 'views', 'opened'] as const) {
      sums[name][groupOf[p]] += weight * rates[name]
      all[name][formats[p]] += weight * rates[name]
    }
    viewable[formats[p]] += weight * seen
    // Those who click, or come at once.
    const visits = weight * (formats[p] === POP ? rates.opened : Math.max(1e-6, rates.clicks))
    visitors.group[groupOf[p]] += visits
    visitors.all[formats[p]] += visits
    for (let type = 0; type < types; type++) {
      const staying = visits * stayRate(placement, type)
      stays.group[groupOf[p] * types + type] += staying
      stays.all[formats[p] * types + type] += staying
    }
  })
  // A category without a placement of the format has the format's mean.
  const mean = (name: 'clicks' | 'views' | 'opened', group: number) => {
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
    viewable: viewable.map((sum, format) => sum / all.weights[format]),
    stays: Uint32Array.from({ length: groups * types }, (_, place) => {
      const group = Math.floor(place / types)
      const format = Math.floor(group / BRANCHES.length)
      const share =
        visitors.group[group] > 0
          ? stays.group[place] / visitors.group[group]
          : stays.all[format * types + (place % types)] / visitors.all[format]
      return Math.floor(1e6 * share)
    })
  }
}
