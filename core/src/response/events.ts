import { FORMATS, SHAPE_FORMAT } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import type { Placement } from '../market/index.js'
import { STREAM, draw, exactExp, exactLog, logNormalOf } from '../random/index.js'
import {
  BOT_CLICKS,
  BRANCH_CONVERSIONS,
  DEVICE_CLICKS,
  DEVICE_CONVERSIONS,
  FORMAT_CONVERSIONS,
  HOUR_CONVERSIONS,
  MOST_PAGES,
  NEXT_PAGE,
  OVERLAY_CLICKS,
  REPEAT_CLICKS,
  SHARES,
  TIER_CLICKS,
  TIER_CONVERSIONS,
  UNMUTES,
  VIEWED_ONLY,
  adAppeal,
  adHold,
  adPull,
  stayRate,
  trackerRate
} from './rates.js'

const POP = FORMATS.indexOf('pop')
const VIDEO = FORMATS.indexOf('video')

/** An impression, as far as its response depends on it. Indices into the market's vocabularies. */
export interface Shown {
  /** Of the opportunity; with the line it makes every draw. */
  key: number
  line: number
  ad: number
  placement: Placement
  /** Position of the placement's branch in `BRANCHES`. */
  branch: number
  device: number
  country: number
  bot: boolean
  blocked: boolean
  /** Earlier exposures of this person to the line, in 30 days. */
  seen: number
  /** Local hour of the viewer. */
  hour: number
}

/** What a person did, as bits of a win's flags; pages are counted in the upper bits. */
export const DID = { viewable: 1, viewed: 2, clicked: 4, visited: 8, stayed: 16, overlay: 32, unmuted: 64, shared: 128 } as const
/** Quarter points reached lie from this bit on, in three bits; pages from the next, in four. */
const QUARTER_SHIFT = 8
const PAGES_SHIFT = 11
export const quartersOf = (did: number) => (did >> QUARTER_SHIFT) & 7
export const pagesOf = (did: number) => (did >> PAGES_SHIFT) & 15

const UNIT = 4294967296

/** Hidden factors of ads, drawn once and kept. */
export class Responses {
  private readonly ads = new Map<number, { appeal: number; pull: number; hold: number }>()
  private readonly trackers = new Map<number, number>()

  constructor(private readonly seed: number) {}

  private factors(ad: number): { appeal: number; pull: number; hold: number } {
    let known = this.ads.get(ad)
    if (!known) this.ads.set(ad, (known = { appeal: adAppeal(this.seed, ad), pull: adPull(this.seed, ad), hold: adHold(this.seed, ad) }))
    return known
  }

  /** Chance that a person who could see the ad clicks it. */
  clickRate({ placement, device, country, seen, ad, bot }: Shown): number {
    const repeat = REPEAT_CLICKS[Math.min(seen, REPEAT_CLICKS.length - 1)]
    return (
      (placement.clicks / 65536) *
      DEVICE_CLICKS[device] *
      TIER_CLICKS[COUNTRIES[country].tier] *
      repeat *
      this.factors(ad).appeal *
      (bot ? BOT_CLICKS : 1)
    )
  }

  /** Chance that a person who could see or hear the ad stays with it past its view point. */
  viewRate({ placement, ad }: Shown): number {
    if (placement.completes === 0) return 1
    return exactExp(exactLog(placement.completes / 65536) / this.factors(ad).hold)
  }

  /** Chance that a visitor who stays converts. */
  conversionRate({ placement, branch, device, country, hour, ad }: Shown): number {
    const format = SHAPE_FORMAT[placement.shape]
    return (
      (BRANCH_CONVERSIONS[branch] / 1e5) *
      FORMAT_CONVERSIONS[format] *
      DEVICE_CONVERSIONS[device] *
      TIER_CONVERSIONS[COUNTRIES[country].tier] *
      HOUR_CONVERSIONS[hour] *
      this.factors(ad).pull
    )
  }

  /** All that happens at once: what a view, click or visit costs is billed before the next auction. */
  immediate(shown: Shown): number {
    const { key, line, placement, bot, blocked } = shown
    const state = key ^ line
    const unit = (stream: number) => draw(state, stream) / UNIT
    const format = SHAPE_FORMAT[placement.shape]
    if (blocked) return 0
    const viewable = draw(state, STREAM.viewable) >>> 16 < placement.viewable
    let did = viewable ? DID.viewable : 0
    if (viewable) {
      if (placement.completes > 0) did |= this.watched(shown, unit(STREAM.watch))
      else did |= DID.viewed
      if (unit(STREAM.click) < this.clickRate(shown)) did |= DID.clicked | DID.visited
      if (format === VIDEO) {
        if (unit(STREAM.overlay) < OVERLAY_CLICKS) did |= DID.overlay
        if (!placement.sound && unit(STREAM.unmute) < UNMUTES) did |= DID.unmuted
      }
      if (unit(STREAM.share) < SHARES) did |= DID.shared
    }
    // The page of a pop is its ad: who sees it has come.
    if (format === POP) did |= DID.visited
    if ((did & DID.visited) !== 0 && !bot && unit(STREAM.stay) < stayRate(placement, shown.device))
      did |= DID.stayed | (this.pages(unit(STREAM.pages)) << PAGES_SHIFT)
    return did
  }

  /** Quarter points: the share of those who reach the end is the fourth power of the share that goes on at each. */
  private watched(shown: Shown, u: number): number {
    const end = this.viewRate(shown)
    const half = Math.sqrt(end)
    const quarter = Math.sqrt(half)
    const reached = u < end ? 4 : u < half * quarter ? 3 : u < half ? 2 : u < quarter ? 1 : 0
    return (reached << QUARTER_SHIFT) | (reached === 4 ? DID.viewed : 0)
  }

  private pages(u: number): number {
    let pages = 1
    for (let left = NEXT_PAGE; pages < MOST_PAGES && u < left; left *= NEXT_PAGE) pages++
    return pages
  }

  /**
   * Whether, when and for how much an event of a tracker follows an impression.
   * @returns minutes after it, up to 30 days, and the value in micros; null for none
   */
  conversion(
    shown: Shown,
    did: number,
    tracker: { tracker: number; valueMicros: number | null }
  ): { after: number; valueMicros: number } | null {
    const stayed = (did & DID.stayed) !== 0
    if (shown.bot || (!stayed && (did & DID.viewable) === 0)) return null
    let rate = this.trackers.get(tracker.tracker)
    if (rate === undefined) this.trackers.set(tracker.tracker, (rate = trackerRate(this.seed, tracker.tracker, tracker.valueMicros)))
    const state = shown.key ^ shown.line ^ Math.imul(tracker.tracker, 0x9e3779b1)
    if (draw(state, STREAM.convert) / UNIT >= this.conversionRate(shown) * rate * (stayed ? 1 : VIEWED_ONLY)) return null
    const after = Math.min(LONGEST_DELAY, Math.floor(logNormalOf(1.5, draw(state, STREAM.delay)) * MEDIAN_DELAY))
    return {
      after,
      valueMicros: tracker.valueMicros === null ? 0 : Math.floor(tracker.valueMicros * logNormalOf(0.3, draw(state, STREAM.worth)))
    }
  }
}

/** Minutes until half of all conversions have come, and the longest any takes. */
const MEDIAN_DELAY = 90
const LONGEST_DELAY = 30 * 1440 - 1
