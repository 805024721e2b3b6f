import {
  BRANCHES,
  DEVICE_TYPES,
  FORMATS,
  SHAPE_FORMAT,
  offerKind,
  type EventKind,
  ARRIVES,
  IS_FILM,
  FORMAT_TABLE
} from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { isBlocked, placementBranches, placementFormats, type Inventory } from '../market/index.js'
import { DEVICE_CONVERSIONS, KIND_CONVERSIONS, OWN_DAILY, REQUESTS, TIER_CONVERSIONS } from './conversion-rates.js'
import { BOT_CLICKS, DEVICE_CLICKS, TIER_CLICKS, stayRate } from './rates.js'

/** What the trade expects of an impression, in millionths: all that a buyer without history can know. */
export interface Benchmarks {
  /** By `((format * BRANCHES + branch) * DEVICE_TYPES + type) * COUNTRIES + country`. */
  clicks: Uint32Array
  /** Views: seen for display, native and pop; past the view point for video and audio. By group. */
  views: Uint32Array
  /** Visitors who stay, by (format x branch) x device type. */
  stays: Uint32Array
  /** Share that can be seen or heard, 0 to 1, by format, and held back. */
  viewable: Float64Array
  /** Kind x branch of each placement; its branch is the rest by the number of branches. */
  groupOf: Uint16Array
}

/** Kinds of placement that rates are told apart by: formats, then films that can be skipped, that earn something, and on television. */
const KINDS = [...FORMATS.keys(), ...new Array<number>(3).fill(FORMATS.indexOf('video'))]
const [SKIPPABLE, REWARDED, TELEVISION] = [FORMATS.length, FORMATS.length + 1, FORMATS.length + 2]
/** Group of what a browser holds back: nobody sees it, and nothing comes of it. It follows those of kinds and branches. */
export const HELD_BACK = KINDS.length * BRANCHES.length
/** Format of each group, by position in `FORMATS`; beyond them for what is held back. */
export const formatOfGroup = (group: number) => (group === HELD_BACK ? FORMATS.length : KINDS[Math.floor(group / BRANCHES.length)])

/** Kind x branch of each placement. A placement says of itself what kind of film it shows. */
function groupsOf(inventory: Inventory): Uint16Array {
  const branches = placementBranches(inventory)
  return Uint16Array.from(inventory.placements, ({ shape, skippable, rewarded, property }, p) => {
    const format = SHAPE_FORMAT[shape]
    const isFilm = IS_FILM[format]
    const isTelevision = inventory.properties[property].class === 'channel'
    const kind = isFilm && isTelevision ? TELEVISION : isFilm && rewarded ? REWARDED : isFilm && skippable ? SKIPPABLE : format
    return kind * BRANCHES.length + branches[p]
  })
}

/** Kind x branch of an opportunity, or `HELD_BACK`. @param group of its placement */
export const groupAt = (group: number, state: number) => (isBlocked(state) ? HELD_BACK : group)

/** Position in `Benchmarks.clicks`. */
export const clickAt = (group: number, type: number, country: number) => (group * DEVICE_TYPES.length + type) * COUNTRIES.length + country

/** Chance of a visit in millionths: of a click; the page of a pop is its ad, so that who is shown it has come. */
export function visitChance({ clicks }: Benchmarks, group: number, type: number, country: number): number {
  if (group === HELD_BACK) return 0
  return ARRIVES[formatOfGroup(group)] ? 1e6 : clicks[clickAt(group, type, country)]
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
  return Math.floor(1e6 * viewable[formatOfGroup(group)] * TIER_CONVERSIONS[COUNTRIES[country].tier])
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
      times * KIND_CONVERSIONS[offer] * FORMAT_TABLE[FORMATS[format]].converts[offer] + daily * CREDITED * days(clickHours)
    if (viewHours !== null)
      rates.perSeen += daily * (CREDITED * days(viewHours) + FORMAT_TABLE[FORMATS[format]].lifts * Math.min(1, viewHours / 24))
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
  const groups = HELD_BACK
  const types = DEVICE_TYPES.length
  const groupOf = groupsOf(inventory)
  const weights = new Float64Array(groups)
  const sums = { clicks: new Float64Array(groups), views: new Float64Array(groups) }
  const all = {
    weights: new Float64Array(FORMATS.length),
    clicks: new Float64Array(FORMATS.length),
    views: new Float64Array(FORMATS.length)
  }
  // By device, the placements' own and their format's.
  const stays = { group: new Float64Array(groups * types), all: new Float64Array(FORMATS.length * types) }
  const visitors = { group: new Float64Array(groups), all: new Float64Array(FORMATS.length) }
  const viewable = new Float64Array(FORMATS.length)
  inventory.placements.forEach((placement, p) => {
    const { weight } = placement
    const seen = placement.viewable / 65536
    const bots = placement.bots / 65536
    const rates = {
      clicks: (seen * placement.clicks * (1 + (BOT_CLICKS - 1) * bots)) / 65536,
      views: seen * (placement.completes > 0 ? placement.completes / 65536 : 1)
    }
    weights[groupOf[p]] += weight
    all.weights[formats[p]] += weight
    for (const name of ['clicks', 'views'] as const) {
      sums[name][groupOf[p]] += weight * rates[name]
      all[name][formats[p]] += weight * rates[name]
    }
    viewable[formats[p]] += weight * seen
    // Those who click, or come at once.
    const visits = weight * (ARRIVES[formats[p]] ? 1 - placement.blocked / 65536 : Math.max(1e-6, rates.clicks))
    // Bots do not stay.
    const people = ARRIVES[formats[p]] ? 1 - bots : (1 - bots) / (1 + (BOT_CLICKS - 1) * bots)
    visitors.group[groupOf[p]] += visits
    visitors.all[formats[p]] += visits
    for (let type = 0; type < types; type++) {
      const staying = visits * people * stayRate(placement, type)
      stays.group[groupOf[p] * types + type] += staying
      stays.all[formats[p] * types + type] += staying
    }
  })
  // A category without a placement of the format has the format's mean.
  const mean = (name: 'clicks' | 'views', group: number) => {
    const format = formatOfGroup(group)
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
  return {
    clicks,
    groupOf,
    views: Uint32Array.from({ length: groups + 1 }, (_, group) => (group === HELD_BACK ? 0 : Math.floor(1e6 * mean('views', group)))),
    viewable: Float64Array.from({ length: FORMATS.length + 1 }, (_, format) =>
      format === FORMATS.length ? 0 : viewable[format] / all.weights[format]
    ),
    stays: Uint32Array.from({ length: (groups + 1) * types }, (_, place) => {
      if (place >= groups * types) return 0
      const group = Math.floor(place / types)
      const format = formatOfGroup(group)
      const share =
        visitors.group[group] > 0
          ? stays.group[place] / visitors.group[group]
          : stays.all[format * types + (place % types)] / visitors.all[format]
      return Math.floor(1e6 * share)
    })
  }
}
