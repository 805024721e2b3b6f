import { ARRIVES, IS_FILM, SHAPE_FORMAT } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import type { Placement } from '../market/index.js'
import { STREAM, draw, exactExp, exactLog } from '../random/index.js'
import {
  BOT_CLICKS,
  DEVICE_CLICKS,
  MOST_PAGES,
  NEXT_PAGE,
  OVERLAY_CLICKS,
  REPEAT_CLICKS,
  SHARES,
  TIER_CLICKS,
  UNMUTES,
  stayRate
} from './rates.js'
import { adFactors, type AdContent, type AdFactors } from './ad-factors.js'

/** An impression, as far as its response depends on it. Indices into the market's vocabularies. */
export interface Shown {
  /** Of the opportunity; with the line it makes every draw. */
  key: number
  line: number
  ad: number
  placement: Placement
  /** Position of the placement's branch in `BRANCHES`. */
  branch: number
  /** Whether the placement is a television channel's. */
  television: boolean
  person: number
  /** What kind of person it is: see `profileOf`. */
  profile: number
  postal: number
  device: number
  country: number
  bot: boolean
  blocked: boolean
  /** Earlier exposures of this person to the line, in 30 days. */
  seen: number
  /** Share of what there is to watch or hear at which it counts as viewed, in thousandths. */
  viewPoint: number
  /** Local hour of the viewer. */
  hour: number
}

/**
 * What a person did, as bits of a win's flags; pages are counted in the upper bits. The last says that a visitor who stays had watched a
 * film of the advertiser before.
 */
export const DID = {
  viewable: 1,
  viewed: 2,
  clicked: 4,
  visited: 8,
  stayed: 16,
  overlay: 32,
  unmuted: 64,
  shared: 128,
  primed: 32768
} as const
/** Quarter points reached lie from this bit on, in three bits; pages from the next, in four. */
const QUARTER_SHIFT = 8
const PAGES_SHIFT = 11
export const quartersOf = (did: number) => (did >> QUARTER_SHIFT) & 7
export const pagesOf = (did: number) => (did >> PAGES_SHIFT) & 15

const UNIT = 4294967296

/** Hidden factors of ads, drawn once and kept. */
export class Responses {
  private readonly ads = new Map<number, AdFactors>()

  /** @param contents what ads are made of, by ad; one that is not there is a content of its own */
  constructor(
    private readonly seed: number,
    private readonly contents: ReadonlyMap<number, AdContent> = new Map()
  ) {}

  factors(ad: number): AdFactors {
    let known = this.ads.get(ad)
    if (!known) this.ads.set(ad, (known = adFactors(this.seed, this.contents.get(ad) ?? { picture: ad })))
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

  /** Chance that a person who could see or hear the ad stays with it to its end. */
  viewRate({ placement, ad }: Shown): number {
    if (placement.completes === 0) return 1
    return exactExp(exactLog(placement.completes / 65536) / this.factors(ad).hold)
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
      if (IS_FILM[format]) {
        if (unit(STREAM.overlay) < OVERLAY_CLICKS) did |= DID.overlay
        if (!placement.sound && unit(STREAM.unmute) < UNMUTES) did |= DID.unmuted
      }
      if (unit(STREAM.share) < SHARES) did |= DID.shared
    }
    // The page of a pop is its ad: who sees it has come.
    if (ARRIVES[format]) did |= DID.visited
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
    const isViewed = shown.viewPoint >= 1000 ? reached === 4 : u < exactExp((shown.viewPoint / 1000) * exactLog(end))
    return (reached << QUARTER_SHIFT) | (isViewed ? DID.viewed : 0)
  }

  private pages(u: number): number {
    let pages = 1
    for (let left = NEXT_PAGE; pages < MOST_PAGES && u < left; left *= NEXT_PAGE) pages++
    return pages
  }
}
